import { describe, expect, test } from '@jest/globals';
import { rawOfShown, shownOfRaw } from '@/core/conversion.ts';
import { errorBudget, straightLineError } from '@/core/errorBudget.ts';
import { endsOf } from '@/core/panel/shownOn.ts';
import { AS_IS, healthMarks, scaleOf, unitGiven, workedOut, type Scale } from '@/core/scaling/scale.ts';
import type { Step } from '@/core/scaling/step.ts';
import { unitChange } from '@/core/units/unitChange.ts';
import type { SignalDefinition } from '@/core/signal.ts';
import { testValues } from '@/core/testValues.ts';
import { parseDataType } from '@/core/value/dataType.ts';

function tag(typeName: string, scale: Scale, over: Partial<SignalDefinition> = {}): SignalDefinition {
  const type = parseDataType(typeName);
  if (!type.ok) throw new Error(typeName);
  return { type: type.value, order: 'AB', bit: null, scale, unit: '°C', decimals: 1, range: null, ...over };
}
/** 0…27648 counts are 0…150: a count is 0.005425… (common practice). */
const AMPS: Scale = { kind: 'linear', rawA: 0, engA: 0, rawB: 27_648, engB: 150 };

describe('the error budget of a tag', () => {
  test('says what a count is worth, which decimals make sense, and what is lost when it is written', () => {
    const budget = errorBudget(tag('INT', AMPS));
    expect(budget?.worth?.most).toBeCloseTo(150 / 27_648, 12);
    expect(budget?.worth?.least).toBeCloseTo(150 / 27_648, 12);
    expect(budget?.decimals).toBe(3);
    expect(budget?.writing).toBeCloseTo(75 / 27_648, 12);
    expect(budget?.showing).toBe(0.05);
    expect(budget?.straightLine).toBeNull();
    // A third of the way is 50.0; 9216 counts are that exactly.
    expect(budget?.example).toEqual({ asked: '50.0', held: '50', shown: '50.0' });
  });
  test('tenths lose nothing, and a REAL has no counts', () => {
    expect(errorBudget(tag('INT', { kind: 'power', exponent: -1 }))).toMatchObject({ decimals: 1, showing: 0, worth: { most: 0.1 } });
    expect(errorBudget(tag('REAL', { kind: 'none' }))).toMatchObject({ worth: null, decimals: null, writing: 0 });
    expect(errorBudget(tag('INT', { kind: 'clamp', low: 0, high: 5 }))?.writing).not.toBeNull();
    expect(errorBudget(tag('BOOL', { kind: 'none' }))).toBeNull();
  });
  test('says what a straight line would be off where the scale is a curve', () => {
    // y = x² between 0 and 1: the chord is x, and most off, by a quarter, in the middle.
    const square: Scale = { kind: 'polynomial', terms: [0, 0, 1], from: 0, to: 1 };
    expect(straightLineError(square, 0, 1)).toEqual({ most: 0.25, part: 0.25, at: 0.5 });
    // IEC 60751: Pt100 has 138.5055 Ω at 100 °C and 119.3971 Ω at 50 °C, where the chord from 0 to 100 °C says 50.376 °C.
    const chord = (119.3971 - 100) / (138.5055 - 100) * 100; // prettier-ignore
    const off = straightLineError({ kind: 'platinum', r0: 100 }, 100, 138.5055);
    expect(off?.most).toBeGreaterThanOrEqual(chord - 50 - 0.001);
    expect(off?.most).toBeLessThan(chord - 50 + 0.01);
    expect(straightLineError(AMPS, 0, 27_648)).toBeNull();
  });
});

describe('what is shown, entered again', () => {
  test('is the same raw value, or one of those that are told', () => {
    // 27648 counts over 150.0: a place shows about eighteen counts as one.
    const alike = errorBudget(tag('INT', AMPS))?.alike;
    expect(alike).toEqual({ text: '75.0', from: 13_815, to: 13_833 });
    for (const [raw, text] of [[13_814, '74.9'], [13_815, '75.0'], [13_833, '75.0'], [13_834, '75.1']] as const)
      expect(shownOfRaw(tag('INT', AMPS), String(raw))).toMatchObject({ ok: true, value: { text } }); // prettier-ignore
    expect(errorBudget(tag('INT', AMPS, { decimals: 3 }))?.alike).toBeNull();
    expect(errorBudget(tag('INT', { kind: 'power', exponent: -1 }))?.alike).toBeNull();
  });
});

describe('the unit that a scale comes to', () => {
  test('is said by its last step that says one', () => {
    const mV: Step = { kind: 'linear', rawA: 0, engA: 0, rawB: 27_648, engB: 80 };
    expect(unitGiven(scaleOf([mV, { kind: 'thermocouple', type: 'K', reference: 0 }]))).toBe('°C');
    expect(unitGiven(scaleOf([mV, { kind: 'thermocouple', type: 'K', reference: 0 }, { kind: 'unit', from: '°C', to: '°F' }, { kind: 'clamp', low: 0, high: 9 }]))).toBe('°F'); // prettier-ignore
    expect(unitGiven({ kind: 'duration', from: 'ns', to: 's' })).toBe('s');
    expect(unitGiven(mV)).toBeNull();
  });
  test('a step of a unit that comes or goes is told from any other change', () => {
    const unit: Step = { kind: 'unit', from: '°C', to: '°F' };
    const one: Step = { kind: 'power', exponent: -1 };
    expect(unitChange(one, scaleOf([one, unit]))).toMatchObject({ from: '°C', to: '°F' });
    expect(unitChange(scaleOf([one, unit]), one)).toMatchObject({ from: '°F', to: '°C' });
    expect(unitChange(AS_IS, unit)).toMatchObject({ from: '°C', to: '°F' });
    expect(unitChange(one, scaleOf([{ kind: 'power', exponent: -2 }, unit]))).toBeNull();
    expect(unitChange(one, one)).toBeNull();
  });
});

describe('a formula in the numbers at hand', () => {
  test('comes to what the scale comes to, step by step', () => {
    const scale = scaleOf([
      { kind: 'linear', rawA: 0, engA: 4, rawB: 27_648, engB: 20 },
      { kind: 'gain', gain: -2, offset: -1.5 },
      { kind: 'power', exponent: -1 },
    ]);
    expect(workedOut(scale, 13_824)).toEqual([
      { formula: '4 + (13824 − 0) · (20 − 4) / (27648 − 0)', value: 12 },
      { formula: '-2 · 12 + (-1.5)', value: -25.5 },
      { formula: '(-25.5) · 10^-1', value: -2.55 },
    ]);
  });
  test('of every kind it can be worked out again by hand', () => {
    expect(workedOut({ kind: 'table', points: [[0, 0], [100, 10], [400, 20]], ends: 'extend' }, 250)).toEqual([{ formula: '10 + (250 − 100) · (20 − 10) / (400 − 100)', value: 15 }]); // prettier-ignore
    expect(workedOut({ kind: 'root', zero: 0, span: 400, full: 120, cut: 0 }, 100)).toEqual([
      { formula: '120 · √((100 − 0) / (400 − 0))', value: 60 },
    ]);
    expect(workedOut({ kind: 'unit', from: '°C', to: '°F' }, 100)).toEqual([{ formula: '100 · 9 / 5 + 32', value: 212 }]);
    expect(workedOut({ kind: 'modulus', by: 360, from: -180 }, 270)).toEqual([{ formula: '270 − 360 · ⌊(270 − (-180)) / 360⌋', value: -90 }]);
    expect(workedOut({ kind: 'formula', expression: 'x * 2 + max(x, 1)', back: '', from: 0, to: 10 }, 3)).toEqual([{ formula: '3 * 2 + max(3, 1)', value: 9 }]); // prettier-ignore
  });
});

describe('what is told beside a scale', () => {
  const LOOP = scaleOf([
    { kind: 'linear', rawA: 0, engA: 0, rawB: 27_648, engB: 20 },
    { kind: 'current' },
    { kind: 'linear', rawA: 4, engA: 0, rawB: 20, engB: 10 },
  ]);
  test('the limits of NAMUR NE 43 as counts of the card: 3.6, 3.8, 20.5 and 21 mA', () => {
    expect(healthMarks(LOOP).map(({ raw }) => Number(raw.toFixed(1)))).toEqual([4976.6, 5253.1, 28_339.2, 29_030.4]);
    expect(healthMarks(AMPS)).toEqual([]);
  });
  test('limits, ranges and faults are among the test values, each with what is shown there', () => {
    const def = tag('INT', LOOP, {
      unit: 'bar',
      range: { low: 0, high: 10 },
      rawRange: { low: 5253, high: 28_339 },
      limits: { lowLow: null, low: null, high: 8, highHigh: null, hysteresis: 0, delayMs: 0 },
    });
    const values = testValues(def);
    expect(values.find(({ what }) => what === 'limit high')).toMatchObject({ raw: 23_224, text: '8.0' });
    expect(values.find(({ what }) => what === 'broken wire')).toMatchObject({ raw: 4977 });
    expect(values.find(({ what }) => what === 'raw to')).toMatchObject({ raw: 28_339 });
  });
  test('bars take their ends from the display, else from the expected range, else from the points of the scale', () => {
    expect(endsOf(tag('INT', AMPS))).toEqual({ low: 0, high: 150 });
    expect(endsOf(tag('INT', AMPS, { range: { low: 10, high: 60 } }))).toEqual({ low: 10, high: 60 });
    expect(endsOf(tag('INT', AMPS, { range: { low: 10, high: 60 }, display: { low: -5, high: 200 } }))).toEqual({ low: -5, high: 200 });
    expect(endsOf(tag('INT', { kind: 'power', exponent: -1 }))).toBeNull();
  });
  test('a raw value outside its range is uncertain, and is not written', () => {
    const def = tag('INT', AMPS, { rawRange: { low: 0, high: 27_648 }, unit: 'A' });
    const over = shownOfRaw(def, '27649');
    expect(over).toMatchObject({ ok: true, value: { text: '150.0', note: expect.stringContaining('raw 0 to 27648') as unknown as string } });
    expect(shownOfRaw(def, '27648')).toMatchObject({ ok: true, value: { note: '' } });
    expect(rawOfShown(def, '150')).toEqual({ ok: true, value: { raw: '27648', achieved: '150' } });
  });
  test('a type cannot hold what is asked, and an entry without end is refused: neither breaks anything', () => {
    expect(shownOfRaw(tag('INT', AMPS), '70000')).toMatchObject({ ok: false, problem: { code: 'out-of-type' } });
    for (const text of ['1e309', '-1e309', 'NaN', 'Infinity', '']) expect(rawOfShown(tag('INT', AMPS), text).ok).toBe(false);
  });
});
