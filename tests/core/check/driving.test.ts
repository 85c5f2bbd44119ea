/** What may be set for a check: between which ends, and what is refused. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { drivingProblem, hasEnds, rangeEntered } from '@/core/check/driving/permission.ts';
import type { SignalDefinition } from '@/core/signal.ts';
import { engineeringOf, planRaw, planWrite } from '@/core/signal.ts';
import { parseDataType } from '@/core/value/dataType.ts';

function def(type: string, more: Partial<SignalDefinition> = {}): SignalDefinition {
  const parsed = parseDataType(type);
  if (!parsed.ok) throw new Error(type);
  return { type: parsed.value, order: 'AB', bit: null, scale: { kind: 'none' }, unit: '', decimals: null, range: null, ...more };
}

describe('the ends of what may be set', () => {
  const BOUNDED = def('REAL', { order: 'ABCD', range: { low: 0, high: 120 } });
  test.each<[string, string, string, string]>([
    ['words', 'low', '95', 'low'],
    ['nothing', '', '95', 'low'],
    ['infinity', '80', '1e999', 'high'],
    ['the wrong order', '95', '80', 'high'],
    ['one value only', '80', '80', 'high'],
    ['less than the tag itself takes', '-1', '80', 'low'],
    ['more than the tag itself takes', '80', '121', 'high'],
  ])('are refused at their field: %s', (_what, low, high, place) => {
    expect(rangeEntered(BOUNDED, low, high)).toMatchObject({ ok: false, problem: { place } });
  });
  test('are taken as they are entered', () => {
    expect(rangeEntered(BOUNDED, '80', '95.5')).toEqual({ ok: true, value: { low: 80, high: 95.5 } });
  });
  test.each(['BOOL', 'STRING(8)'])('are none for %s: any of its states or texts may be set', (type) => {
    expect([hasEnds(def(type)), rangeEntered(def(type), 'x', 'y')]).toEqual([false, { ok: true, value: null }]);
    expect(drivingProblem({ range: null }, true)).toBeNull();
  });
  test('hold at both ends, and for whole numbers beyond a double too', () => {
    const permission = { range: { low: 80, high: 95 } };
    expect([80, 95, 87n].map((value) => drivingProblem(permission, value))).toEqual([null, null, null]);
    for (const value of [79.999, 95.001, 2n ** 60n, 'warm']) expect(drivingProblem(permission, value)?.place).toBe('value');
  });
});

test('what was there goes back count by count: the raw value of any 16-bit count is written as itself, whatever its scale', () => {
  // A third of a degree a count: entering what is shown does not lead to every count.
  const third = def('UINT', { scale: { kind: 'linear', rawA: 0, engA: 0, rawB: 3000, engB: 1000 }, decimals: 0 });
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 65_535 }), (raw) => {
      const plan = planRaw(third, raw);
      expect(plan).toMatchObject({ ok: true, value: { raw, bytes: Uint8Array.of(raw >> 8, raw & 0xff) } });
      if (plan.ok) expect(plan.value.achieved).toEqual(engineeringOf(third, raw));
    }),
  );
  const shown = planWrite(third, Number((10 / 3).toFixed(0)));
  expect(shown).toMatchObject({ ok: true, value: { raw: 9 } });
});
