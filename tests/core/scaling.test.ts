/** Scales: chains of steps, both ways, exact where their decimals end, and what is refused. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { after, along, lineOf, lineThrough, numberAlong, wholeBefore, type Line } from '@/core/scaling/line.ts';
import { checkScale, faultsShown, scaleOf, scaleTraits, timesTen, toEngineering, toRaw, type Scale } from '@/core/scaling/scale.ts';
import { isStep, ruleOf, STEP_KINDS, type Step } from '@/core/scaling/step.ts';
import { followWire, parseFor, planWrite, type SignalDefinition } from '@/core/signal.ts';
import { SIGNALS, transmitterScale } from '@/core/scaling/transmitter.ts';
import { testValues } from '@/core/testValues.ts';
import { asNumber, formatValue } from '@/core/value/engineering.ts';
import { parseDataType } from '@/core/value/dataType.ts';

const linear = (rawA: number, engA: number, rawB: number, engB: number): Step => ({ kind: 'linear', rawA, engA, rawB, engB });
const eng = (scale: Scale, raw: number | bigint): number => asNumber(toEngineering(scale, raw).value) ?? NaN;
function def(typeName: string, scale: Scale, decimals: number | null): SignalDefinition {
  const type = parseDataType(typeName);
  if (!type.ok) throw new Error(typeName);
  return {
    type: type.value,
    order: type.value.kind !== 'text' && type.value.bytes === 2 ? 'AB' : 'ABCD',
    bit: null,
    scale,
    unit: '',
    decimals,
    range: null,
    isTyped: true,
  };
}
const shown = (raw: number | bigint, scale: Scale, decimals: number | null, type = 'INT'): string =>
  followWire(def(type, scale, decimals), { kind: 'typed', value: raw }).text;

describe('common practice', () => {
  test.each([
    [10_000, '701.9'],
    [456, '32.0'],
    [-100, '-7.0'],
  ])('0…32767 to 0…2300: raw %d is %s', (raw, text) => expect(shown(raw, linear(0, 0, 32_767, 2300), 1)).toBe(text));
  test.each([
    [27_648, '150.0'],
    [16_128, '87.5'],
    [11_248, '61.0'],
    [0, '0.0'],
  ])('0…27648 to 0…150: raw %d is %s', (raw, text) => expect(shown(raw, linear(0, 0, 27_648, 150), 1)).toBe(text));
  test('4 mA on a card of 0…27648 for 0…20 mA is 5529.6 counts', () => {
    expect(numberAlong(lineThrough(0, 0, 20, 27_648), 4)).toBe(5529.6);
  });
  test('145 hundredths are 1.45 at two decimals and 1.5 at one, by whatever step', () => {
    for (const step of [{ kind: 'power', exponent: -2 }, { kind: 'gain', gain: 0.01, offset: 0 }, linear(0, 0, 100, 1)] as const)
      expect([shown(145, step, 2), shown(145, step, 1), shown(-145, step, 1)]).toEqual(['1.45', '1.5', '-1.5']);
    expect(formatValue(1.005, 2)).toBe('1.01');
  });
  test.each([
    ['ms', 's', 2500, '2.5'],
    ['10 ms', 's', 150, '1.5'],
    ['ns', 's', 1_500_000_000, '1.5'],
    ['s', 'min', 90, '1.5'],
    ['µs', 'ms', 1, '0.001'],
  ])('durations: %s to %s', (from, to, raw, text) => expect(shown(raw, { kind: 'duration', from, to }, null, 'DINT')).toBe(text));
});

describe('a chain', () => {
  const chain = scaleOf([linear(0, 0, 27_648, 20), { kind: 'gain', gain: 1.8, offset: 32 }]);
  test('of lines is one line, exact like one', () => {
    expect(eng(chain, 27_648)).toBe(68);
    expect(eng(chain, 13_824)).toBe(50);
    expect(toRaw(chain, 50, true)).toEqual({ ok: true, value: 13_824n });
    expect(scaleTraits(chain)).toMatchObject({ inverse: 'unique', limits: '' });
  });
  test('goes through a sensor and on to another unit, and back', () => {
    // A card of 0…27648 for 0…80 mV, a thermocouple of type K with its junction at 25 °C, shown in °F.
    const steps: Step[] = [linear(0, 0, 27_648, 80), { kind: 'thermocouple', type: 'K', reference: 25 }, { kind: 'gain', gain: 1.8, offset: 32 }];
    const fahrenheit = scaleOf(steps);
    for (let raw = 0; raw < 18_000; raw += 7) {
      const value = eng(fahrenheit, raw);
      expect(toRaw(fahrenheit, value, true)).toEqual({ ok: true, value: BigInt(raw) });
    }
    expect(scaleTraits(fahrenheit)).toMatchObject({ inverse: 'unique', exactness: 'approximate' });
    expect(followWire(def('INT', fahrenheit, 1), { kind: 'typed', value: 27_000 })).toMatchObject({
      eng: null,
      quality: { level: 'bad', reason: 'scale-limits', detail: expect.stringContaining('type K measures -270 to 1372 °C') },
    });
  });
  test('says all of itself: the worst of its steps', () => {
    const folded: Step = { kind: 'table', points: [[0, 0], [5, 8], [10, 3]], ends: 'hold' }; // prettier-ignore
    expect(scaleTraits(scaleOf([folded, { kind: 'power', exponent: 1 }]))).toMatchObject({ inverse: 'none', exactness: 'approximate' });
    expect(planWrite(def('INT', folded, 1), 4)).toMatchObject({ ok: false, problem: { code: 'scale-inverse' } });
    expect(scaleTraits(scaleOf([{ kind: 'modulus', by: 360 }])).inverse).toBe('chosen');
  });
});

/** The second opinion: fractions of two BigInts, added up without any care for speed. */
function fractionAlong(steps: readonly Step[], raw: bigint): readonly [bigint, bigint] {
  let [over, under] = [raw, 1n];
  const plain = (value: number): readonly [bigint, bigint] => {
    const [whole = '', places = ''] = value.toFixed(6).split('.');
    return [BigInt(whole.replace('-', '') + places) * (value < 0 ? -1n : 1n), 10n ** BigInt(places.length)];
  };
  for (const step of steps) {
    if (step.kind === 'gain') {
      const [g, o] = [plain(step.gain), plain(step.offset)];
      [over, under] = [over * g[0] * o[1] + o[0] * under * g[1], under * g[1] * o[1]];
    }
    if (step.kind === 'power')
      [over, under] = step.exponent < 0 ? [over, under * 10n ** BigInt(-step.exponent)] : [over * 10n ** BigInt(step.exponent), under];
    if (step.kind === 'linear') {
      const [a, b, c, d] = [plain(step.rawA), plain(step.engA), plain(step.rawB), plain(step.engB)];
      const x = [over * a[1] - a[0] * under, under * a[1]] as const;
      const rise = [d[0] * b[1] - b[0] * d[1], d[1] * b[1]] as const;
      const run = [c[0] * a[1] - a[0] * c[1], c[1] * a[1]] as const;
      const moved = [x[0] * rise[0] * run[1], x[1] * rise[1] * run[0]] as const;
      [over, under] = [moved[0] * b[1] + b[0] * moved[1], moved[1] * b[1]];
    }
  }
  return under < 0n ? [-over, -under] : [over, under];
}

const milli = (least: number, most: number) => fc.integer({ min: least * 1000, max: most * 1000 }).map((n) => n / 1000);
const lineStep: fc.Arbitrary<Step> = fc.oneof(
  fc.record({ kind: fc.constant('gain' as const), gain: milli(-50, 50).filter((g) => g !== 0), offset: milli(-500, 500) }),
  fc.record({ kind: fc.constant('power' as const), exponent: fc.integer({ min: -4, max: 4 }) }),
  fc
    .record({
      kind: fc.constant('linear' as const),
      rawA: milli(-30_000, 30_000),
      engA: milli(-900, 900),
      rawB: milli(-30_000, 30_000),
      engB: milli(-900, 900),
    })
    .filter(({ rawA, rawB, engA, engB }) => rawA !== rawB && engA !== engB),
);

describe('whatever the steps', () => {
  test('lines are what fractions of BigInts say: exact where their decimals end, and the nearest double elsewhere', () => {
    fc.assert(
      fc.property(fc.array(lineStep, { minLength: 1, maxLength: 4 }), fc.integer({ min: -2_000_000, max: 2_000_000 }), (steps, raw) => {
        const [over, under] = fractionAlong(steps, BigInt(raw));
        const value = toEngineering(scaleOf(steps), raw).value;
        const exact = along(steps.map((step) => ruleOf(step.kind).line?.(step)).reduce((a, b) => (a && b ? after(a, b) : a)) as Line, raw);
        // By long division to 40 digits.
        const digits = (over * 10n ** 40n) / under;
        const near = Number(digits) / 1e40;
        expect(Math.abs((asNumber(value) ?? NaN) - near)).toBeLessThanOrEqual(Math.abs(near) * 2 ** -52 + 1e-39);
        if (exact) expect(exact.digits * under * 10n ** BigInt(Math.max(0, exact.exponent))).toBe(over * 10n ** BigInt(Math.max(0, -exact.exponent)));
      }),
      { numRuns: 500, seed: 11 },
    );
  });

  test('every one of 65 536 counts comes back from the text that it is shown as, where the decimals show each count', () => {
    const cases: readonly [Scale, number][] = [
      [linear(0, 0, 27_648, 150), 3],
      [linear(0, 0, 32_767, 2300), 2],
      [scaleOf([{ kind: 'gain', gain: 0.1, offset: -40 }]), 1],
      [scaleOf([linear(-27_648, -10, 27_648, 10), { kind: 'power', exponent: 3 }]), 1],
      [{ kind: 'table', points: [[-32_768, -100], [0, 5], [10_000, 400], [32_767, 900]], ends: 'extend' }, 3], // prettier-ignore
      [{ kind: 'polynomial', terms: [3, 0.02, 1e-7], from: -32_768, to: 32_767 }, 3],
      [scaleOf([linear(0, 0, 27_648, 400), { kind: 'platinum', r0: 100 }]), 3],
    ];
    for (const [scale, decimals] of cases) {
      const signal = def('INT', scale, decimals);
      let lost = 0;
      for (let raw = -32_768; raw <= 32_767; raw++) {
        const { text, eng: value } = followWire(signal, { kind: 'typed', value: raw });
        if (value === null) continue;
        const entry = parseFor(signal, text);
        const plan = entry.ok ? planWrite(signal, entry.value) : entry;
        if (!plan.ok || plan.value.raw !== raw) lost++;
      }
      expect([scale.kind, lost]).toEqual([scale.kind, 0]);
    }
  });

  test('counts of 64 bits come back exactly', () => {
    fc.assert(
      fc.property(fc.array(lineStep, { minLength: 1, maxLength: 3 }), fc.bigInt({ min: -(2n ** 63n), max: 2n ** 63n - 1n }), (steps, raw) => {
        const line = steps.map((step) => ruleOf(step.kind).line?.(step)).reduce((a, b) => (a && b ? after(a, b) : a)) as Line;
        const value = along(line, raw);
        if (value) expect(wholeBefore(line, value)).toBe(raw);
        if (value) expect(toRaw(scaleOf(steps), toEngineering(scaleOf(steps), raw).value, true)).toEqual({ ok: true, value: raw });
      }),
      { numRuns: 500, seed: 12 },
    );
  });

  test('a table between rising points only rises, gives its points, and comes back', () => {
    const points = fc
      .uniqueArray(fc.tuple(milli(-1000, 1000), milli(-1000, 1000)), { minLength: 2, maxLength: 30, selector: ([x]) => x })
      .map((all) => all.sort(([a], [b]) => a - b))
      .map((all) => {
        const ys = all.map(([, y]) => y).sort((a, b) => a - b);
        return all.map(([x], i) => [x, (ys[i] ?? 0) + i / 1000] as const);
      });
    fc.assert(
      fc.property(points, fc.array(milli(-1000, 1000), { minLength: 2, maxLength: 20 }), (all, xs) => {
        const scale: Scale = { kind: 'table', points: all, ends: 'extend' };
        for (const [x, y] of all) expect(eng(scale, x)).toBeCloseTo(y, 9);
        const sorted = [...xs].sort((a, b) => a - b);
        for (const [i, x] of sorted.entries()) {
          if (i > 0) expect(eng(scale, x)).toBeGreaterThanOrEqual(eng(scale, sorted[i - 1] ?? x) - 1e-9);
          const back = toRaw(scale, eng(scale, x), false);
          expect(back.ok && Math.abs(Number(back.value) - x)).toBeLessThan(1e-6);
        }
      }),
      { numRuns: 200, seed: 13 },
    );
  });

  test('ten times larger is ten times larger, and back again the same', () => {
    fc.assert(
      fc.property(fc.array(lineStep, { minLength: 1, maxLength: 3 }), fc.integer({ min: -3, max: 3 }), milli(-3000, 3000), (steps, exponent, raw) => {
        const scale = scaleOf(steps);
        const [one, other] = [eng(scale, raw), eng(timesTen(scale, exponent), raw)];
        expect(Math.abs(other - one * 10 ** exponent)).toBeLessThanOrEqual(Math.abs(other) * 1e-12 + 1e-12);
      }),
      { numRuns: 200, seed: 14 },
    );
  });
});

describe('single steps', () => {
  test('a root shows flow: half of it at a quarter of the pressure, 0 below its cut (ISO 5167-1: with the root)', () => {
    const root: Scale = { kind: 'root', zero: 0, span: 27_648, full: 120, cut: 0.02 };
    expect([eng(root, 0), eng(root, 6912), eng(root, 27_648), eng(root, -50)]).toEqual([0, 60, 120, 0]);
    expect(eng(root, 10)).toBe(0);
    expect(toRaw(root, 60, true)).toEqual({ ok: true, value: 6912n });
    expect(toRaw(root, -1, true)).toMatchObject({ ok: false, problem: { code: 'scale-inverse' } });
  });
  test('outside a table there is no value, the last one, or the line goes on', () => {
    const of = (ends: 'none' | 'hold' | 'extend'): Scale => ({ kind: 'table', points: [[0, 0], [10, 100]], ends }); // prettier-ignore
    expect([eng(of('none'), 12), eng(of('hold'), 12), eng(of('extend'), 12), eng(of('hold'), -3), eng(of('none'), 10)]).toEqual([
      NaN,
      100,
      120,
      0,
      100,
    ]);
  });
  test('a rest is never below zero; what is held is held', () => {
    expect([eng({ kind: 'modulus', by: 360 }, -10), eng({ kind: 'modulus', by: 360 }, 725)]).toEqual([350, 5]);
    const clamp: Scale = { kind: 'clamp', low: 0, high: 100 };
    expect([eng(clamp, -3), eng(clamp, 50), eng(clamp, 120)]).toEqual([0, 50, 100]);
    expect(toRaw(clamp, 101, true).ok).toBe(false);
  });
  test('a formula is an expression of x; its way back is given, or found', () => {
    const given: Scale = { kind: 'formula', expression: 'x * x / 100', back: 'sqrt(y * 100)', from: 0, to: 1000 };
    const found: Scale = { kind: 'formula', expression: 'x * x / 100', back: '', from: 0, to: 1000 };
    for (const scale of [given, found]) {
      expect(checkScale(scale).ok).toBe(true);
      expect([eng(scale, 50), eng(scale, 1001)]).toEqual([25, NaN]);
      expect(toRaw(scale, 25, true)).toEqual({ ok: true, value: 50n });
    }
    expect(scaleTraits({ kind: 'formula', expression: 'x * x', back: '', from: -5, to: 5 }).inverse).toBe('none');
  });
  test('a polynomial that turns has no way back', () => {
    expect(scaleTraits({ kind: 'polynomial', terms: [0, 0, 1], from: -1, to: 1 }).inverse).toBe('none');
    expect(scaleTraits({ kind: 'polynomial', terms: [0, 0, 1], from: 0, to: 1 }).inverse).toBe('unique');
  });
});

describe('a loop of 4–20 mA tells its faults (NAMUR NE 43)', () => {
  // A card of 0…27648 for 0–20 mA, a transmitter of 0 to 10 bar: 4 mA are 5529.6 counts (common practice).
  const bar = scaleOf([linear(0, 0, 27_648, 20), { kind: 'current' }, linear(4, 0, 20, 10)]);
  const counts = (mA: number): number => Math.round((mA / 20) * 27_648);
  test.each([
    [3.5, 'broken-wire', 'bad', '–'],
    [0, 'broken-wire', 'bad', '–'],
    [3.7, 'under-range', 'uncertain', '-0.19'],
    [4, null, 'good', '0.00'],
    [12, null, 'good', '5.00'],
    [20, null, 'good', '10.00'],
    [20.7, 'over-range', 'uncertain', '10.44'],
    [21.2, 'short-circuit', 'bad', '–'],
  ])('%d mA: %s, %s', (mA, reason, level, text) => {
    expect(followWire(def('INT', bar, 2), { kind: 'typed', value: counts(mA) })).toMatchObject({ text, quality: { level, reason } });
  });
  test('a card that clips at 4 mA cannot show a broken wire, and that is told', () => {
    const clipped = scaleOf([linear(0, 4, 27_648, 20), { kind: 'current' }, linear(4, 0, 20, 10)]);
    expect(faultsShown(clipped, 0, 65_535)).toEqual({ broken: false, short: true });
    expect(faultsShown(clipped, -32_768, 32_767)).toEqual({ broken: true, short: true });
    expect(faultsShown(linear(0, 0, 10, 1), 0, 10)).toBeNull();
  });
  test('and nothing is written that would be one', () => {
    expect(planWrite(def('INT', bar, 2), 5)).toMatchObject({ ok: true, value: { raw: 16_589 } });
    expect(planWrite(def('INT', bar, 2), 15)).toMatchObject({ ok: false, problem: { code: 'scale-inverse' } });
  });
});

describe('a transmitter on a card', () => {
  const [loop, dead, volts] = [SIGNALS[0], SIGNALS[1], SIGNALS[2]];
  if (!loop || !dead || !volts) throw new Error();
  test('0 to 10 bar by 4–20 mA on a card of 0…27648: 4 mA are no count on one of its own, and 5529.6 on one for 0–20 mA (common practice)', () => {
    const [own, other] = [loop, dead].map((card) => transmitterScale({ from: 0, to: 10, gives: loop, rawLow: 0, rawHigh: 27_648, card }));
    if (!own?.ok || !other?.ok) throw new Error();
    expect([eng(own.value, 0), eng(own.value, 27_648), eng(own.value, 13_824)]).toEqual([0, 10, 5]);
    expect([eng(other.value, 5529.6), eng(other.value, 27_648)]).toEqual([0, 10]);
    expect(toEngineering(other.value, 0).health?.reason).toBe('broken-wire');
  });
  test('a current does not go on a card of voltages; no span is none', () => {
    expect(transmitterScale({ from: 0, to: 10, gives: loop, rawLow: 0, rawHigh: 27_648, card: volts })).toMatchObject({
      ok: false,
      problem: { place: 'card' },
    });
    expect(transmitterScale({ from: 5, to: 5, gives: volts, rawLow: 0, rawHigh: 27_648, card: volts })).toMatchObject({
      ok: false,
      problem: { place: 'to' },
    });
    expect(transmitterScale({ from: 0, to: NaN, gives: volts, rawLow: 0, rawHigh: 27_648, card: volts }).ok).toBe(false);
  });
});

describe('test values', () => {
  test('are ends and quarters of the raw span, the limits and the ends of the type, each once and as it is shown', () => {
    const signal = { ...def('INT', linear(0, 0, 27_648, 150), 1), range: { low: 20, high: 140 }, unavailable: [-32_768] };
    const rows = testValues(signal).map(({ what, raw, text }) => [what, raw, text]);
    expect(rows.slice(0, 7)).toEqual([
      ['0 % of the raw span', 0, '0.0'],
      ['25 % of the raw span', 6912, '37.5'],
      ['50 % of the raw span', 13_824, '75.0'],
      ['75 % of the raw span', 20_736, '112.5'],
      ['100 % of the raw span', 27_648, '150.0'],
      ['expected from', 3686, '20.0'],
      ['expected to', 25_805, '140.0'],
    ]);
    expect(testValues(signal).find(({ raw }) => raw === -32_768)).toMatchObject({ text: '–' });
    expect(testValues(def('STRING(4)', { kind: 'none' }, null))).toEqual([]);
  });
});

describe('what is refused', () => {
  test.each<[string, Step]>([
    ['Both raw points are the same', linear(5, 0, 5, 10)],
    ['Both engineering points are the same', linear(0, 5, 10, 5)],
    ['must be a number', linear(0, NaN, 10, 5)],
    ['A gain of 0', { kind: 'gain', gain: 0, offset: 3 }],
    ['whole number from -18 to 18', { kind: 'power', exponent: 19 }],
    ['is no length of time', { kind: 'duration', from: 'fortnight', to: 's' }],
    ['two points at least', { kind: 'table', points: [[0, 0]], ends: 'hold' }],
    ['Points 2 and 3 are both at 5', { kind: 'table', points: [[0, 0], [5, 1], [5, 2]], ends: 'hold' }], // prettier-ignore
    ['Point 3, at 4, lies before', { kind: 'table', points: [[0, 0], [5, 1], [4, 2]], ends: 'hold' }], // prettier-ignore
    ['no pair of numbers', { kind: 'table', points: [[0, 0], [5, Infinity]], ends: 'hold' }], // prettier-ignore
    ['has no value, is held, or goes on', { kind: 'table', points: [[0, 0], [5, 1]], ends: 'bend' as never }], // prettier-ignore
    ['same raw value', { kind: 'root', zero: 4, span: 4, full: 10, cut: 0 }],
    ['The cut is 0 to 0.5', { kind: 'root', zero: 0, span: 4, full: 10, cut: 0.9 }],
    ['1 to 20 terms', { kind: 'polynomial', terms: [], from: 0, to: 1 }],
    ['smaller number to a larger', { kind: 'polynomial', terms: [1, 2], from: 1, to: 1 }],
    ['there is no “z”', { kind: 'formula', expression: 'z + 1', back: '', from: 0, to: 1 }],
    ['goes by what was before', { kind: 'formula', expression: 'previous(x)', back: '', from: 0, to: 1 }],
    ['gives no number', { kind: 'formula', expression: 'x > 1', back: '', from: 0, to: 1 }],
    ['At 0 the formula has no value', { kind: 'formula', expression: '1 / x', back: '', from: 0, to: 1 }],
    ['does not lead back', { kind: 'formula', expression: 'x * 2', back: 'y / 3', from: 0, to: 1 }],
    ['one of the types', { kind: 'thermocouple', type: 'X' as never, reference: 0 }],
    ['reference junction of type T', { kind: 'thermocouple', type: 'T', reference: 200 }],
    ['Choose a sensor of 100, 500, 1000', { kind: 'platinum', r0: 120 }],
    ['above zero', { kind: 'modulus', by: 0 }],
    ['smaller number and a larger', { kind: 'clamp', low: 3, high: 3 }],
  ])('%s', (message, step) => {
    const checked = checkScale(step);
    expect(checked.ok ? '' : checked.problem.message).toContain(message);
    const inChain = checkScale({ kind: 'chain', steps: [{ kind: 'power', exponent: 1 }, step] });
    expect(inChain.ok ? '' : inChain.problem.message).toMatch(/^Step 2: /);
  });
  test('what is no step, a chain of one, and one of too many', () => {
    for (const value of [
      null,
      3,
      {},
      { kind: 'toString' },
      { kind: 'linear' },
      { kind: 'power', exponent: '1' },
      { kind: 'power', exponent: 1, more: 2 },
      { kind: 'table', points: [[1]], ends: 'hold' },
    ])
      expect(isStep(value)).toBe(false);
    const power: Step = { kind: 'power', exponent: 1 };
    expect(checkScale({ kind: 'chain', steps: [power] }).ok).toBe(false);
    expect(checkScale({ kind: 'chain', steps: Array.from({ length: 9 }, () => power) }).ok).toBe(false);
  });
  test('each kind says its formula and source', () => {
    for (const kind of STEP_KINDS) expect([kind, ruleOf(kind).formula !== '' && ruleOf(kind).source !== '']).toEqual([kind, true]);
    expect(lineOf(0.1, 0)).toEqual({ p: 1n, q: 0n, r: 10n });
  });
});
