/** Numbers that no process has: told as a doubt, with the ways in which the bytes would be plausible. */
import { describe, expect, test } from '@jest/globals';
import { plausibleWays } from '@/core/check/plausibleWays.ts';
import { followWire, type SignalDefinition } from '@/core/signal.ts';
import { AS_IS } from '@/core/scaling/scale.ts';
import { parseDataType } from '@/core/value/dataType.ts';
import { PlausibilityWatch } from '@/core/value/plausible.ts';

function defOf(typeText: string, order: string, more: Partial<SignalDefinition> = {}): SignalDefinition {
  const type = parseDataType(typeText);
  if (!type.ok) throw new Error(typeText);
  return { type: type.value, order, bit: null, scale: AS_IS, unit: '', decimals: null, range: null, ...more };
}
const bytesOf = (hex: string) => ({ kind: 'bytes', bytes: Uint8Array.from(Buffer.from(hex.replaceAll(' ', ''), 'hex')) }) as const;
const reasonOf = (def: SignalDefinition, hex: string): string | null => followWire(def, bytesOf(hex)).quality.reason;

describe('by itself', () => {
  // IEEE 754: 98.2 is 42C46666; its words swapped are 6666 42C4, read as 2.7e23.
  test('a real with its words swapped, next to nothing or beyond all measures', () => {
    expect(reasonOf(defOf('REAL', 'ABCD'), '42C46666')).toBeNull();
    expect(reasonOf(defOf('REAL', 'ABCD'), '666642C4')).toBe('implausible');
    expect(reasonOf(defOf('REAL', 'ABCD'), '00004120')).toBe('implausible');
    expect(reasonOf(defOf('REAL', 'ABCD'), '00000000')).toBeNull();
    expect(reasonOf(defOf('LREAL', 'ABCDEFGH'), '0000000000005940')).toBe('implausible');
  });
  test('a whole number whose bytes are letters; not one that is small, and no bits of fields, digits or times', () => {
    expect(followWire(defOf('UDINT', 'ABCD'), bytesOf('4B494C4E')).quality).toMatchObject({
      reason: 'implausible',
      detail: 'its bytes read as the text “KILN”',
    });
    expect(reasonOf(defOf('UINT', 'AB'), '4B49')).toBeNull();
    expect(reasonOf(defOf('UDINT bcd', 'ABCD'), '12345678')).toBeNull();
    expect(reasonOf(defOf('TIME', 'ABCD'), '4B494C4E')).toBeNull();
    expect(reasonOf(defOf('DINT', 'ABCD'), '0001E240')).toBeNull();
  });
  test('a range that somebody has set is asked instead', () => {
    expect(reasonOf(defOf('REAL', 'ABCD', { range: { low: 0, high: 1e30 } }), '666642C4')).toBeNull();
    expect(reasonOf(defOf('REAL', 'ABCD', { range: { low: 0, high: 150 } }), '666642C4')).toBe('out-of-range');
  });
});

describe('the ways that would be plausible', () => {
  const ways = (type: string, order: string, hex: string) =>
    plausibleWays(defOf(type, order), bytesOf(hex)).map((way) => `${way.text}: ${way.words}`);
  test('the simplest change first', () => {
    expect(ways('REAL', 'ABCD', '666642C4')[0]).toBe('98.2: words swapped');
    expect(ways('REAL', 'ABCD', '00004120')[0]).toBe('10: words swapped');
    expect(ways('UDINT', 'ABCD', '42C46666')[0]).toBe('98.2: read as REAL');
    expect(ways('UDINT', 'ABCD', '4B494C4E')).toContain('KILN: read as a text of 4 characters');
    // A count that is read as a real next to nothing.
    expect(ways('REAL', 'ABCD', '000004D2')[0]).toBe('1234: read as DINT');
  });
  test('one that was plausible before too stands before a simpler one that was not', () => {
    const def = defOf('REAL', 'BADC');
    const seen = ['782842CD', '11F742CD', 'C75842CD'].map(bytesOf);
    expect(plausibleWays(def, bytesOf('C75842CD'), seen)[0]?.words).toBe('words swapped');
  });
  test('none where nothing would be', () => {
    expect(plausibleWays(defOf('REAL', 'ABCD'), { kind: 'typed', value: 1e30 })).toEqual([]);
  });
});

describe('by what came before', () => {
  const watch = (typeText: string, values: readonly number[]): (string | null)[] => {
    const type = parseDataType(typeText);
    const watching = new PlausibilityWatch();
    return type.ok ? values.map((value) => watching.next(type.value, value)) : [];
  };
  test('an exponent that jumps from reading to reading, and is calm again', () => {
    expect(watch('REAL', [1, 1e8, 2])).toEqual([null, null, expect.stringContaining('jumps')]);
    // A valve that opens, and zero, are none.
    expect(watch('REAL', [0, 50_000, 0, 0.01, 12, 900]).every((doubt) => doubt === null)).toBe(true);
    const calm = watch('REAL', [1, 1e8, 2, ...Array.from({ length: 25 }, (_, i) => 2 + i / 10)]);
    expect([calm[2], calm.at(-1)]).toEqual([expect.stringContaining('jumps'), null]);
  });
  test('a counter that runs backwards; not one that is reset, goes over its end, or has not grown yet', () => {
    const grown = [100, 101, 102, 103, 104, 105, 106, 107, 108, 109];
    expect(watch('UDINT', [...grown, 105]).at(-1)).toContain('backwards');
    expect(watch('UDINT', [...grown, 0]).at(-1)).toBeNull();
    expect(watch('UDINT', [...grown.map((n) => n + 4_294_967_000), 3]).at(-1)).toBeNull();
    expect(watch('UDINT', [100, 101, 99, 102, 98]).every((doubt) => doubt === null)).toBe(true);
    // A temperature goes up and down.
    expect(watch('DINT', [...grown, 105]).at(-1)).toBeNull();
    expect(watch('UINT', [...grown, 105]).at(-1)).toBeNull();
  });
});
