/** The space of plausible mistakes: which values tell them apart, and which of them explain what was seen. */
import { beforeAll, describe, expect, test } from '@jest/globals';
import '@/core/units/ucumUnits.ts';
import { explanationsOf } from '@/core/check/mistakes/explanations.ts';
import { investigate, type Looked } from '@/core/check/mistakes/investigation.ts';
import { mistakesOf } from '@/core/check/mistakes/mistakeSpace.ts';
import { agreesWith, seenNumber, type Seen } from '@/core/check/mistakes/observation.ts';
import { tellingValues } from '@/core/check/mistakes/tellingValues.ts';
import { shownBy, textBy, wayOf, type Sight } from '@/core/check/mistakes/way.ts';
import { changedParts, pathParts } from '@/core/check/digest.ts';
import type { SignalDefinition } from '@/core/signal.ts';
import { parseDataType } from '@/core/value/dataType.ts';
import { campaign, scoreOf, type Outcome } from '../../support/mistakes/campaign.ts';

const REGISTERS = { bytes: 2, name: 'register' };

function def(type: string, more: Partial<SignalDefinition> = {}): SignalDefinition {
  const parsed = parseDataType(type);
  if (!parsed.ok) throw new Error();
  return { type: parsed.value, order: 'AB', bit: null, scale: { kind: 'none' }, unit: '', decimals: null, range: null, ...more };
}

/** Registers as they come, the tag's own from a place on. */
function sight(hex: string, at: number, size: number): Sight {
  const bytes = Uint8Array.from(hex.match(/../g) ?? [], (pair) => parseInt(pair, 16));
  return { wire: { kind: 'bytes', bytes: bytes.subarray(at, at + size) }, around: { bytes, at } };
}

function seen(text: string): Seen {
  const number = seenNumber(text);
  if (!number) throw new Error(text);
  return number;
}

const words = (d: SignalDefinition, looked: readonly { readonly sight: Sight; readonly seen: Seen }[]): readonly string[] =>
  explanationsOf(
    d,
    REGISTERS,
    looked.map((each) => ({ ...each, setThere: null })),
  ).map(({ mistakes }) => mistakes.map((each) => each.words).join(' and '));

describe('an explanation of a wrong value', () => {
  // 87.5 of 0…150 at 0…27648 is 3F00h (common practice).
  const scaled = def('INT', { scale: { kind: 'linear', rawA: 0, engA: 0, rawB: 27648, engB: 150 }, unit: '°C', decimals: 1 });
  const around = sight('1112131415163f003e801c1d', 6, 2);

  test.each([
    ['8.8', 'a scale 10 times smaller'],
    ['62.5', 'the ends of the scale swapped'],
    ['189.5', 'turned into °F'],
    ['30.8', '°F taken for °C'],
    ['16128', 'shown without its scale'],
    ['86.8', 'one register further on, as with another counting base'],
  ])('%s where the mapping gives 87.5: %s', (text, wanted) => {
    expect(words(scaled, [{ sight: around, seen: seen(text) }])[0]).toBe(wanted);
  });
  test('a value that agrees needs none, and one that nothing plausible gives has none', () => {
    expect(words(scaled, [{ sight: around, seen: seen('87.5') }])).toEqual([]);
    expect(words(scaled, [{ sight: around, seen: seen('33.31') }])).toEqual([]);
  });
  test('words swapped, as a REAL of two registers has them: 123456.0 is 47F12000h (IEEE 754)', () => {
    const real = def('REAL', { order: 'ABCD', decimals: 1 });
    const found = explanationsOf(real, REGISTERS, [{ sight: sight('0102200047f10506', 2, 4), seen: seen('123456.0'), setThere: null }]);
    expect(found[0]).toMatchObject({ mistakes: [{ kind: 'order' }], way: { def: { order: 'CDAB' } }, texts: ['123456.0'] });
  });
  test('two at once: a word swap and a factor', () => {
    const found = words(def('DINT', { order: 'ABCD', scale: { kind: 'power', exponent: -1 } }), [
      { sight: sight('00000102e2400001', 4, 4), seen: seen('1234.56') },
    ]);
    expect(found[0]).toBe('words swapped (CDAB) and a scale 10 times smaller');
  });
  test('it explains all that was seen: another value rules out what the first one left', () => {
    const count = def('UINT');
    const first = { sight: sight('0000000000010100', 4, 2), seen: seen('256') };
    expect(words(count, [first]).slice(0, 3)).toEqual(
      expect.arrayContaining(['one register further on, as with another counting base', 'bytes swapped (BA)']),
    );
    const second = { sight: sight('0000000001020203', 4, 2), seen: seen('513') };
    const left = words(count, [first, second]);
    expect(left[0]).toBe('bytes swapped (BA)');
    expect(left).not.toContain('one register further on, as with another counting base');
  });
  test('a panel that shows dashes is explained by what decodes to nothing', () => {
    const found = explanationsOf(def('UINT'), REGISTERS, [{ sight: sight('00000000abcd0000', 4, 2), seen: { kind: 'nothing' }, setThere: null }]);
    expect(found[0]?.mistakes[0]?.words).toBe('read as UINT bcd');
  });
  test('a value of another source than memory has no order, no neighbour and no width to be mistaken', () => {
    const typed = def('REAL', { isTyped: true, unit: 'bar', decimals: 2, scale: { kind: 'power', exponent: 0 } });
    const kinds = new Set(
      mistakesOf(wayOf(typed), null)
        .flat()
        .map(({ mistake }) => mistake.kind),
    );
    expect([...kinds].sort()).toEqual(['point', 'ten', 'unit']);
  });
});

describe('values that tell mistakes apart', () => {
  test('every mistake shows another text at one of them than the right mapping, but those that are named', () => {
    const scaled = def('INT', { scale: { kind: 'linear', rawA: -27648, engA: -50, rawB: 27648, engB: 400 }, unit: '°C', decimals: 1 });
    const { values, hidden, mistakes } = tellingValues(scaled, REGISTERS, { low: -50, high: 400 });
    expect(mistakes).toBeGreaterThan(30);
    expect(hidden).toEqual([]);
    expect(values.length).toBeLessThanOrEqual(2);
  });
  test('a sign that no value within the range needs is said not to be told apart', () => {
    const { hidden } = tellingValues(def('INT', { decimals: 0 }), REGISTERS, { low: 0, high: 1000 });
    expect(hidden.map(({ words: said }) => said)).toEqual(['read as UINT, without a sign']);
  });
  test('a bit is told by both its states', () => {
    const { values, hidden } = tellingValues(def('BOOL', { bit: 3 }), REGISTERS, null);
    expect(values.map(({ text }) => text).sort()).toEqual(['off', 'on']);
    expect(hidden).toEqual([]);
  });
});

describe('what is seen', () => {
  test('of a number is known to half of its last place', () => {
    const real = wayOf(def('REAL', { order: 'ABCD' }));
    const one = sight('3f800000', 0, 4);
    expect(['1.0', '1', '0.96', '1.04'].map((text) => agreesWith(real, { sight: one, seen: seen(text) }))).toEqual([true, true, false, false]);
  });
  test('of a 64-bit count is known to its last digit', () => {
    const count = wayOf(def('LINT', { order: 'ABCDEFGH' }));
    // 2^53 + 1 is the first whole number that no double holds.
    const wide = sight('0020000000000001', 0, 8);
    expect(['9007199254740993', '9007199254740992'].map((text) => agreesWith(count, { sight: wide, seen: seen(text) }))).toEqual([true, false]);
  });
});

test('a shifted value loses the bits that leave its register', () => {
  const way = { ...wayOf(def('UINT')), bits: 4 };
  expect(shownBy(way, sight('f123', 0, 2)).value).toBe(0x1230);
  expect(shownBy({ ...way, bits: -4 }, sight('f123', 0, 2)).value).toBe(0xf12);
  expect(textBy({ ...wayOf(def('UINT', { decimals: 2, scale: { kind: 'power', exponent: -2 } })), point: 1 }, sight('04d2', 0, 2))).toBe('123.4');
});

test('a mapping that agrees is asked for another value only where that would tell more', () => {
  const bit = def('BOOL', { bit: 0 });
  const looked: Looked[] = [];
  for (let i = 0; i < 4; i++) {
    const { agrees, next } = investigate(bit, REGISTERS, null, looked, 'mapping');
    expect(agrees).toBe(true);
    if (next === null) break;
    const on = next.text === 'on';
    // The memory around it was all off: on, no other bit shows the same.
    looked.push({ tried: next.text, sight: sight(on ? '00000001' : '00000000', 2, 2), seen: { kind: 'state', value: on } });
  }
  expect(looked).toHaveLength(1);
});

test('what has changed since a proof is told, part by part', () => {
  const before = pathParts(['10.0.0.5:502', '1', 'HR17'], def('REAL', { order: 'CDAB', unit: '°C', decimals: 1 }));
  const now = pathParts(['10.0.0.5:502', '1', 'HR18'], def('REAL', { order: 'ABCD', unit: '°C', decimals: 1, range: { low: 0, high: 1 } }));
  expect(changedParts(before, now)).toEqual(['source was 10.0.0.5:502 1 HR17, is 10.0.0.5:502 1 HR18', 'order was CDAB, is ABCD']);
});

/**
 * A controller and a panel written in Python, with struct and fractions, which make their mistakes by themselves: a short round of what
 * `npm run bench -- checks` does with 2 000 tags.
 */
describe('mistakes of somebody else', () => {
  let outcomes: readonly Outcome[];
  beforeAll(async () => {
    outcomes = await campaign(160, 11);
  }, 120_000);

  test('one at a time are found and named first', () => {
    const { cases, first, amongThree } = scoreOf(outcomes, 'single');
    expect(cases).toBeGreaterThan(50);
    expect(first / cases).toBeGreaterThanOrEqual(0.9);
    expect(amongThree / cases).toBeGreaterThanOrEqual(0.97);
  });
  test('two at once are found', () => {
    const { cases, first, amongThree } = scoreOf(outcomes, 'double');
    expect(first / cases).toBeGreaterThanOrEqual(0.8);
    expect(amongThree / cases).toBeGreaterThanOrEqual(0.9);
  });
  test('that are not in the space are said to be explained by nothing', () => {
    const { cases, none, first } = scoreOf(outcomes, 'outside');
    expect((none + first) / cases).toBeGreaterThanOrEqual(0.9);
  });
  test('a right mapping is never called wrong', () => {
    expect(scoreOf(outcomes, 'right')).toMatchObject({ cases: 16, wronglyBlamed: 0 });
  });
  test('it takes few values', () => {
    expect(outcomes.reduce((sum, { values }) => sum + values, 0) / outcomes.length).toBeLessThanOrEqual(3);
  });
});
