/** Another named point of a device in place of the one that is meant. */
import { describe, expect, test } from '@jest/globals';
import { cureOf } from '@/core/check/explained.ts';
import { explanationsOf } from '@/core/check/mistakes/explanations.ts';
import { seenBetween, seenNumber } from '@/core/check/mistakes/observation.ts';
import { alikeNow, isSibling, likeness, type OtherPoint, type OtherPoints } from '@/core/check/mistakes/otherPoints.ts';
import type { Sight } from '@/core/check/mistakes/way.ts';
import type { SignalDefinition } from '@/core/signal.ts';
import { parseDataType } from '@/core/value/dataType.ts';

function def(type: string, more: Partial<SignalDefinition> = {}): SignalDefinition {
  const parsed = parseDataType(type);
  if (!parsed.ok) throw new Error(type);
  return { type: parsed.value, order: 'AB', bit: null, scale: { kind: 'none' }, unit: 'kg', decimals: 2, range: null, isTyped: true, ...more };
}
type Held = Readonly<Record<string, readonly [type: string, value: number | boolean]>>;
function others(own: string, held: Held): OtherPoints {
  const points = Object.entries(held).map(([address, [type, value]]): [string, OtherPoint] => [
    address,
    { name: address, type: def(type).type, wire: { kind: 'typed', value } },
  ]);
  return { own, listsOwn: null, points: new Map(points) };
}
const sight = (value: number | boolean | null, own: string, held: Held): Sight => ({
  wire: value === null ? null : { kind: 'typed', value },
  around: null,
  others: others(own, held),
});
function explained(d: SignalDefinition, looks: readonly { readonly sight: Sight; readonly shown: string }[]): readonly string[] {
  const seen = looks.map(({ sight: at, shown }) => ({ sight: at, seen: seenNumber(shown) ?? seenBetween(0, 0), setThere: null }));
  return explanationsOf(d, null, seen).map(({ mistakes }) => mistakes.map(({ words }) => words).join(' and '));
}

describe('what another point holds', () => {
  const BAGGERS: Held = { 'Bagger[1].Weight': ['REAL', 3.25], 'Bagger[2].Weight': ['REAL', 18.8], 'Bagger[2].Target': ['REAL', 18.8] };
  test('explains what was seen, one whose index is another first', () => {
    const found = explained(def('REAL'), [{ sight: sight(21.6, 'Bagger[3].Weight', BAGGERS), shown: '18.80' }]);
    expect(found.slice(0, 2)).toEqual(['Bagger[2].Weight in its place', 'Bagger[2].Target in its place']);
  });
  test('is likelier the nearer its index is', () => {
    const held: Held = { 'Bagger[0].Weight': ['REAL', 25.2], 'Bagger[2].Weight': ['REAL', 25.2], 'Bagger[1].Weight': ['REAL', 25.2] };
    const found = explained(def('REAL'), [{ sight: sight(0, 'Bagger[3].Weight', held), shown: '25.20' }]);
    expect(found).toEqual([2, 1, 0].map((index) => `Bagger[${index}].Weight in its place`));
  });
  test('explains nothing that a second look contradicts', () => {
    const later: Held = { ...BAGGERS, 'Bagger[2].Weight': ['REAL', 20] };
    const found = explained(def('REAL'), [
      { sight: sight(21.6, 'Bagger[3].Weight', BAGGERS), shown: '18.80' },
      { sight: sight(22.8, 'Bagger[3].Weight', later), shown: '20.00' },
    ]);
    expect(found).toEqual(['Bagger[2].Weight in its place']);
  });
  test('is cured by its address, and by its type where that is another one', () => {
    const real = def('REAL');
    const [first] = explanationsOf(real, null, [
      { sight: sight(21.6, 'A', { B: ['LREAL', 5.5] }), seen: seenNumber('5.50') ?? seenBetween(0, 0), setThere: null },
    ]);
    expect(first && cureOf(real, first.way, 1)).toEqual({ moveBy: 0, address: 'B', type: 'LREAL' });
  });
  test('is the same point in the type that the device declares, where it could not be read as ours', () => {
    const at = sight(null, 'Pallet.Bags', { 'Pallet.Bags': ['DINT', 36], 'Pallet.Layer': ['SINT', 36] });
    expect(explained(def('INT', { decimals: null }), [{ sight: at, shown: '36' }])[0]).toBe('DINT, as the device declares it');
  });
  test('is the very number before one that is only near it', () => {
    const at = sight(14.44, 'Hopper.Weight', { 'Hopper.WeightSetPoint': ['LREAL', 120], 'Hopper.LastBatch': ['LREAL', 120.04] });
    const seen = { kind: 'number', value: 120.04, low: 117.6, high: 122.4, text: null } as const;
    const found = explanationsOf(def('LREAL'), null, [{ sight: at, seen, setThere: null }]);
    expect(found[0]?.mistakes[0]?.words).toBe('Hopper.LastBatch in its place');
  });
});

describe('a value that another point holds too', () => {
  test.each<[string, string, number, string, Held, readonly string[]]>([
    ['of the same name with another number', 'REAL', 25, 'Bagger[3].Target', { 'Bagger[2].Target': ['REAL', 25] }, ['Bagger[2].Target']],
    ['of any name, where it is no round number', 'LREAL', 120.28, 'Hopper.Weight', { 'Hopper.LastBatch': ['LREAL', 120.28] }, ['Hopper.LastBatch']],
    ['of another name, where many hold such a number', 'LREAL', 120, 'Hopper.Weight', { 'Hopper.LastBatch': ['LREAL', 120] }, []],
    ['a whole one of another name', 'DINT', 36, 'Pallet.Bags', { 'Line.Count': ['DINT', 36] }, []],
    ['another number', 'REAL', 25, 'Bagger[3].Target', { 'Bagger[2].Target': ['REAL', 24] }, []],
    ['its own address, by another tag', 'REAL', 25.5, 'Bagger[3].Target', { 'Bagger[3].Target': ['REAL', 25.5] }, []],
  ])('%s', (_what, type, value, own, held, names) => {
    expect(alikeNow(def(type), sight(value, own, held))).toEqual(names);
  });
  test('says nothing of states, of which there are few', () => {
    expect(alikeNow(def('BOOL', { unit: '' }), sight(true, 'Gate[1]', { 'Gate[2]': ['BOOL', true] }))).toEqual([]);
  });
});

test('addresses are siblings where their numbers alone differ, and likelier the more they share', () => {
  expect(isSibling('Bagger[3].Jaw[0]', 'Bagger[2].Jaw[0]')).toBe(true);
  expect(isSibling('Bagger[3].Jaw[0]', 'Bagger[3].Jaw[0]')).toBe(false);
  expect(isSibling('Bagger[3].Weight', 'Bagger[2].Target')).toBe(false);
  expect(likeness('Hopper.Weight', 'Hopper.LastBatch')).toBeLessThan(likeness('Hopper.Weight', 'Hopper.WeightSet'));
  expect(likeness('aa', 'aa')).toBe(1);
});
