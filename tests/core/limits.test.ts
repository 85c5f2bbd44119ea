import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { checkLimits, limitBeyond, LimitWatch, LIMIT_KEYS, type LimitKey, type Limits } from '@/core/ranges/limits.ts';

const LIMITS: Limits = { lowLow: 5, low: 15, high: 85, highHigh: 95, hysteresis: 2, delayMs: 0 };
const NONE = { lowLow: null, low: null, high: null, highHigh: null, hysteresis: 0, delayMs: 0 };

describe('limits of a value', () => {
  test('a value at a limit is beyond it, and the outermost one counts', () => {
    const at = (value: number): LimitKey | null => limitBeyond(LIMITS, value, null);
    expect([50, 84.9, 85, 94.9, 95, 200, 15.1, 15, 5.1, 5, -3].map(at)).toEqual(
      [null, null, 'high', 'high', 'highHigh', 'highHigh', null, 'low', 'low', 'lowLow', 'lowLow'],
    ); // prettier-ignore
  });

  test('it comes back when it is inside by the hysteresis, and not a moment before', () => {
    const watch = new LimitWatch(LIMITS);
    const told = [84, 85, 83.1, 83, 84.9, 96, 93.5, 93, 84, 82].map((value) => watch.next(value, 0));
    expect(told).toEqual([null, 'high', 'high', null, null, 'highHigh', 'highHigh', 'high', 'high', null]);
  });

  test('what passes sooner than the delay is never told; each limit has a delay of its own', () => {
    const watch = new LimitWatch({ ...LIMITS, delayMs: 1000 });
    expect(watch.next(90, 0)).toBeNull();
    expect(watch.next(50, 900)).toBeNull();
    expect(watch.next(90, 1000)).toBeNull();
    expect(watch.next(97, 1500)).toBeNull();
    // Beyond the outer limit it is beyond the inner one all the while.
    expect(watch.told(2000)).toBe('high');
    expect(watch.told(2499)).toBe('high');
    expect(watch.told(2500)).toBe('highHigh');
    expect(watch.next(50, 2600)).toBeNull();
  });

  test('a missing value changes nothing of what is known', () => {
    const watch = new LimitWatch(LIMITS);
    watch.next(90, 0);
    expect(watch.next(null, 10)).toBe('high');
  });

  test.each<readonly [Partial<Limits>, string]>([
    [{}, 'high'],
    [{ high: NaN }, 'high'],
    [{ low: 10, high: 5 }, 'high'],
    [{ lowLow: 20, low: 10 }, 'low'],
    [{ high: 80, highHigh: 80 }, 'highHigh'],
    [{ high: 80, hysteresis: -1 }, 'hysteresis'],
    [{ low: 10, high: 20, hysteresis: 5 }, 'hysteresis'],
    [{ high: 80, delayMs: 1.5 }, 'delayMs'],
    [{ high: 80, delayMs: 3_600_001 }, 'delayMs'],
  ])('%j is refused at %s', (some, place) => {
    expect(checkLimits({ ...NONE, ...some })).toMatchObject({ ok: false, problem: { place } });
  });

  test('whatever the limits and the way of a value: without delay what is told is beyond its limit, or inside by less than the hysteresis', () => {
    const value = fc.integer({ min: -20, max: 120 });
    fc.assert(
      fc.property(fc.array(value, { minLength: 1, maxLength: 40 }), fc.integer({ min: 0, max: 10 }), (way, hysteresis) => {
        const limits = { ...LIMITS, hysteresis };
        const watch = new LimitWatch(limits);
        for (const [i, at] of way.entries()) {
          const told = watch.next(at, i);
          for (const key of LIMIT_KEYS) {
            const limit = limits[key] ?? NaN;
            const by = key === 'high' || key === 'highHigh' ? at - limit : limit - at;
            if (told === key) expect(by > -hysteresis || by >= 0).toBe(true);
            // Nothing that is beyond its outermost limit goes untold.
            if (by >= 0) expect(told).not.toBeNull();
          }
        }
      }),
    );
  });
});
