import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { foreseeLoad } from '@/core/plan/lineLoad.ts';
import { isMissed } from '@/core/plan/busPlan.ts';

const group = (device: string, periodMs: number, ...requestsMs: number[]) => ({ device, periodMs, requestsMs });

describe('the load of a line, played through', () => {
  test('a line with room reads every group in its period', () => {
    const { use, periodsMs } = foreseeLoad([group('a', 1000, 30, 20), group('b', 500, 40)]);
    expect(use).toBeCloseTo(0.05 + 0.08, 10);
    expect(periodsMs[0]).toBeCloseTo(1000, -1);
    expect(periodsMs[1]).toBeCloseTo(500, -1);
  });
  test('a line that is asked for twice what it has gives each of two like devices half', () => {
    const { use, periodsMs } = foreseeLoad([group('a', 100, 100), group('b', 100, 100)]);
    expect(use).toBe(2);
    for (const reachedMs of periodsMs) {
      expect(reachedMs).toBeCloseTo(200, 0);
      expect(isMissed({ reachedMs, periodMs: 100 })).toBe(true);
    }
  });
  test('devices are served in turn: one with many requests does not keep another from its few', () => {
    const many = Array.from({ length: 50 }, () => 20);
    const { periodsMs } = foreseeLoad([group('a', 100, ...many), group('b', 100, 20)]);
    expect(periodsMs[1]).toBeLessThan(150);
    // Of every 100 ms the other takes 20, so that 1000 ms of requests take 1250.
    expect(periodsMs[0]).toBeCloseTo(1250, -1);
  });
  test('a group that asks nothing costs nothing', () => {
    expect(foreseeLoad([group('a', 1000), group('b', 1000, 10)])).toMatchObject({
      use: 0.01,
      periodsMs: [null, expect.any(Number) as unknown as number],
    });
    expect(foreseeLoad([])).toEqual({ use: 0, periodsMs: [] });
  });
  test('nothing is read more often than it is to be', () => {
    const groups = fc.array(
      fc.record({
        device: fc.constantFrom('a', 'b', 'c'),
        periodMs: fc.constantFrom(100, 500, 1000, 5000),
        requestsMs: fc.array(fc.integer({ min: 1, max: 80 }), { maxLength: 6 }),
      }),
      { maxLength: 8 },
    );
    fc.assert(
      fc.property(groups, (all) => {
        foreseeLoad(all).periodsMs.forEach((reached, i) => {
          if (reached !== null) expect(reached).toBeGreaterThanOrEqual((all[i]?.periodMs ?? 0) * 0.9);
        });
      }),
    );
  });
});
