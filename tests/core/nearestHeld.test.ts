import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { heldInstead } from '@/core/nearestHeld.ts';
import { durationScale } from '@/core/scaling/durationScale.ts';
import { AS_IS, checkScale, toEngineering, toRaw, type Scale } from '@/core/scaling/scale.ts';
import { followWire, parseFor, planWrite, type SignalDefinition } from '@/core/signal.ts';
import { parseDataType, type DataType } from '@/core/value/dataType.ts';
import { formatValue, type EngValue } from '@/core/value/engineering.ts';
import { isNear } from '@/runtime/writer.ts';

function typeOf(name: string): DataType {
  const parsed = parseDataType(name);
  if (!parsed.ok) throw new Error(parsed.problem.message);
  return parsed.value;
}
const ORDERS: Readonly<Record<number, string>> = { 1: 'AB', 2: 'AB', 4: 'ABCD', 8: 'ABCDEFGH' };
function def(name: string, over: Partial<SignalDefinition> = {}): SignalDefinition {
  const type = typeOf(name);
  return { type, order: ORDERS[type.bytes] ?? 'AB', bit: null, scale: AS_IS, unit: '', decimals: null, range: null, ...over };
}
const linear = (rawA: number, engA: number, rawB: number, engB: number): Scale => ({ kind: 'linear', rawA, engA, rawB, engB });
/** What is offered instead of what was entered; null when it is held, the reason when it is refused outright. */
function entering(d: SignalDefinition, text: string): readonly string[] | null | string {
  const wanted = parseFor(d, text);
  if (!wanted.ok) return wanted.problem.code;
  const plan = planWrite(d, wanted.value);
  return plan.ok ? heldInstead(d, wanted.value, plan.value) : plan.problem.code;
}

describe('a value that a controller can hold, and one that it cannot', () => {
  const card = def('INT', { scale: linear(0, 0, 27648, 150) });
  test.each<[string, SignalDefinition, string, readonly string[] | null | string]>([
    ['a fraction in an INT', def('INT'), '2.5', ['2', '3']],
    ['a negative one', def('INT'), '-2.5', ['-3', '-2']],
    ['a whole number', def('INT'), '2.0', null],
    ['less than a step of thousands', def('INT', { scale: { kind: 'power', exponent: 3 } }), '499', ['0', '1000']],
    ['a step of thousands', def('INT', { scale: { kind: 'power', exponent: 3 } }), '2e3', null],
    ['hundredths where tenths are held', def('UINT', { scale: { kind: 'power', exponent: -1 }, decimals: 1 }), '90.04', ['90.0', '90.1']],
    ['the end of a type, where nothing is beyond', def('INT'), '32766.5', ['32766', '32767']],
    ['64 bits to the last digit', def('ULINT'), '18446744073709551615', null],
    ['64 bits and a half', def('ULINT'), '18446744073709551614.5', ['18446744073709551614', '18446744073709551615']],
    ['a round number on a sloped line', card, '90', null],
    ['as many places as a count is worth', card, '90.12', null],
    ['more places than a count is worth', card, '90.1234', ['90.1204', '90.1259']],
    ['shown to more places than are held', { ...card, scale: linear(0, 0, 4095, 330), decimals: 2 }, '90', ['89.93', '90.01']],
    ['0.1 in a REAL, as it is shown', def('REAL'), '0.1', null],
    ['one more than a REAL counts to', def('REAL'), '16777217', ['16777216', '16777218']],
    ['more digits than a REAL has', def('REAL'), '3.14159265', ['3.1415925', '3.1415927']],
    ['a REAL in tenths', def('REAL', { scale: { kind: 'power', exponent: -1 } }), '0.03', null],
    ['a REAL behind a line', def('REAL', { scale: linear(0, 0, 10, 1) }), '0.7', null],
    ['17 digits in an LREAL', def('LREAL'), '0.1', null],
    ['beyond any number', def('INT', { scale: linear(0, 0, 10, 1) }), '1e309', 'unfit-value'],
    ['beyond any number, as it is', def('LREAL'), '1e309', 'unfit-value'],
  ])('%s', (_what, d, text, instead) => {
    expect(entering(d, text)).toEqual(instead);
  });
  test('what is offered instead is held when it is entered, on any line and for any number', () => {
    const lines = fc.tuple(fc.integer({ min: 1, max: 65535 }), fc.integer({ min: 1, max: 5000 }), fc.option(fc.integer({ min: 0, max: 4 })));
    fc.assert(
      fc.property(lines, fc.integer({ min: 0, max: 10_000_000 }), ([span, rise, decimals], asked) => {
        const d = def('UINT', { scale: linear(0, 0, span, rise), decimals });
        const offered = entering(d, (asked / 1000).toString());
        if (!Array.isArray(offered)) return;
        for (const each of offered) expect(entering(d, each as string)).toBeNull();
      }),
    );
  });
  test('no text that is typed throws', () => {
    fc.assert(
      fc.property(
        fc.oneof(fc.string(), fc.stringMatching(/^-?\d{0,12}\.?\d{0,12}(e-?\d{1,4})?$/)),
        fc.constantFrom('INT', 'REAL', 'LREAL', 'LINT', 'TIME'),
        (text, type) => {
          for (const scale of [AS_IS, linear(0, 5, 27648, 150), { kind: 'power', exponent: -18 } as const]) entering(def(type, { scale }), text);
        },
      ),
    );
  });
});

describe('numbers as they are shown', () => {
  const single = (value: number): { kind: 'bytes'; bytes: Uint8Array } => {
    const bytes = new Uint8Array(4);
    new DataView(bytes.buffer).setFloat32(0, value);
    return { kind: 'bytes', bytes };
  };
  test('a REAL of 0.3 in tenths is 0.03, by power of ten or by two points', () => {
    expect(followWire(def('REAL', { scale: { kind: 'power', exponent: -1 } }), single(0.3)).text).toBe('0.03');
    expect(followWire(def('REAL', { scale: linear(0, 0, 10, 1) }), single(0.3)).text).toBe('0.03');
  });
  test('the largest LREAL is a number and not infinite', () => {
    const text = formatValue(Number.MAX_VALUE, null);
    expect(text).not.toContain('Infinity');
    expect(Number(text)).toBe(Number.MAX_VALUE);
  });
  test('a number may begin with its point', () => {
    expect(entering(def('REAL'), '.5')).toBeNull();
    expect(entering(def('REAL'), '-.5')).toBeNull();
    expect(entering(def('REAL'), '.')).toBe('unfit-value');
  });
  // IEEE 754-2019, 3.3: zero has a sign.
  test('a zero below zero is written as one', () => {
    const wanted = parseFor(def('REAL'), '-0');
    const plan = wanted.ok && planWrite(def('REAL'), wanted.value);
    expect(plan && plan.ok && Buffer.from(plan.value.bytes).toString('hex')).toBe('80000000');
  });
});

describe('a duration with a unit of time', () => {
  const withUnit = (name: string, unit: string): SignalDefinition => {
    const scale = durationScale(typeOf(name), unit);
    if (!scale.ok) throw new Error(scale.problem.message);
    return def(name, { unit, scale: scale.value });
  };
  test.each<[string, string, number | bigint, string]>([
    ['TIME', 's', 2500, '2.500'],
    ['TIME', 'ms', 2500, '2500'],
    ['TIME', 'min', 90_000, '1.5'],
    ['TIME', 'h', 5_400_000, '1.5'],
    ['TIME', 'µs', 3, '3000'],
    ['LTIME', 's', 2_500_000_001n, '2.500000001'],
    ['LTIME', 'ms', 2_500_000n, '2.500000'],
    ['LTIME', 'ns', 9_223_372_036_854_775_807n, '9223372036854775807'],
  ])('%s in %s: a count of %s is shown as %s', (name, unit, raw, text) => {
    expect(followWire(withUnit(name, unit), { kind: 'typed', value: raw }).text).toBe(text);
  });
  test.each<[string, string, string, number | bigint]>([
    ['TIME', 's', '2.5', 2500],
    ['TIME', 'min', '0.25', 15_000],
    ['LTIME', 's', '12.000000001', 12_000_000_001n],
  ])('%s in %s: %s is written as a count of %s', (name, unit, text, raw) => {
    const d = withUnit(name, unit);
    const wanted = parseFor(d, text);
    expect(wanted.ok && planWrite(d, wanted.value)).toMatchObject({ ok: true, value: { raw } });
    expect(entering(d, text)).toBeNull();
  });
  test('half a millisecond is not held by a TIME', () => {
    expect(entering(withUnit('TIME', 's'), '2.0005')).toEqual(['2.000', '2.001']);
  });
  test('its range counts in its unit', () => {
    const d = { ...withUnit('TIME', 's'), range: { low: 0, high: 5 } };
    expect(followWire(d, { kind: 'typed', value: 2500 }).quality.level).toBe('good');
    expect(followWire(d, { kind: 'typed', value: 5500 }).quality.reason).toBe('out-of-range');
  });
  test('a unit that is none of time is refused, and any unit for a date', () => {
    expect(durationScale(typeOf('TIME'), 'bar')).toMatchObject({ ok: false, problem: { code: 'unit', place: 'unit' } });
    expect(durationScale(typeOf('DATE'), 's').ok).toBe(false);
    expect(durationScale(typeOf('INT'), 'bar')).toEqual({ ok: true, value: AS_IS });
  });
});

describe('comparing what is held with what was written', () => {
  test('is exact over 64 bits', () => {
    const big = 9_007_199_254_740_993n;
    expect(isNear(big, big - 1n, 0)).toBe(false);
    expect(isNear(big, big, 0)).toBe(true);
    expect(isNear({ digits: big, exponent: -3 }, { digits: big - 1n, exponent: -3 }, 0.0005)).toBe(false);
    expect(isNear({ digits: big, exponent: -3 }, { digits: big - 1n, exponent: -3 }, 0.001)).toBe(true);
  });
  test('a tolerance holds at its very end', () => {
    const values: readonly [EngValue, EngValue, number][] = [
      [90.5, 90, 0.5],
      [0.3, 0.1, 0.2],
      [1.1, 1, 0.1],
    ];
    for (const [a, b, by] of values) expect(isNear(a, b, by)).toBe(true);
    expect(isNear(90.51, 90, 0.5)).toBe(false);
  });
});

test('a scale never throws on the way back, and says what is beyond it', () => {
  expect(toRaw(linear(0, 0, 10, 1), { digits: 1n, exponent: 309 }, true)).toMatchObject({ ok: false });
  expect(toEngineering({ kind: 'power', exponent: 18 }, 1).value).toEqual({ digits: 1n, exponent: 18 });
});

test('no scale, however extreme, makes a write, an entry or a reading throw', () => {
  const extremes = fc.constantFrom(0, 1, -1, 1e308, -1e308, Number.MAX_VALUE, Number.MIN_VALUE, 1e-300, 1e15, 27648, 65535, -32768);
  const scales = fc.record({ kind: fc.constant('linear' as const), rawA: extremes, engA: extremes, rawB: extremes, engB: extremes });
  for (const name of ['INT', 'UINT', 'DINT', 'LINT', 'ULINT', 'REAL', 'LREAL', 'TIME']) {
    const type = parseDataType(name);
    if (!type.ok) throw new Error(name);
    const property = fc.property(scales, fc.constantFrom('1', '0', '-5', '1e308', '2.5'), (scale, text) => {
      if (!checkScale(scale).ok) return;
      const def: SignalDefinition = { type: type.value, order: 'AB', bit: null, scale, unit: '', decimals: null, range: null };
      const wanted = parseFor(def, text);
      const plan = wanted.ok ? planWrite(def, wanted.value) : null;
      if (wanted.ok && plan?.ok) heldInstead(def, wanted.value, plan.value);
      followWire(def, { kind: 'typed', value: 5 });
    });
    fc.assert(property, { numRuns: 1000 });
  }
});
