/** Stretches of the past as bytes: what went in comes out, and what is no stretch is none. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { decodeChunk, encodeChunk, type RecordedColumn, type RecordedEntry } from '@/core/check/recording/chunk.ts';
import { mappingIn, mappingText } from '@/core/check/recording/pastMapping.ts';
import { atOnce } from '@/core/inSlices.ts';
import { followWire, type SignalDefinition } from '@/core/signal.ts';
import { parseDataType } from '@/core/value/dataType.ts';

const FROM = 1_796_000_000_000;
const columnOf = (n: number, size: number): fc.Arbitrary<RecordedColumn> =>
  fc
    .array(
      fc.record({
        after: fc.integer({ min: 0, max: 60_000 }),
        bytes: fc.option(fc.uint8Array({ minLength: size, maxLength: size }), { freq: 6 }),
        reason: fc.constantFrom('silent', 'overdue', 'link-down'),
      }),
      { maxLength: 40 },
    )
    .map((all) => ({
      tagId: `t${n}`,
      size,
      mapping: n % 2 === 0 ? 'even' : 'odd',
      place: `HR ${n * 16}`,
      entries: all
        .map(({ after, bytes, reason }): RecordedEntry => ({ at: FROM + after, bytes, reason: bytes ? '' : reason }))
        .sort((a, b) => a.at - b.at),
    }));
const stretch = fc.tuple(...[2, 4, 8, 1, 16].map((size, n) => columnOf(n, size)));

describe('a stretch of the past', () => {
  test('comes out as it went in', () => {
    fc.assert(
      fc.property(stretch, (columns) => {
        expect(decodeChunk(atOnce(encodeChunk(FROM, FROM + 60_000, columns)))).toEqual(columns);
      }),
    );
  });
  test('gives the tags that are asked for, and no others', () => {
    fc.assert(
      fc.property(stretch, fc.subarray(['t0', 't1', 't2', 't3', 't4']), (columns, wanted) => {
        const read = decodeChunk(atOnce(encodeChunk(FROM, FROM + 60_000, columns)), new Set(wanted));
        expect(read).toEqual(columns.filter(({ tagId }) => wanted.includes(tagId)));
      }),
    );
  });
  test('that was cut off, or is something else, is none', () => {
    fc.assert(
      fc.property(stretch, fc.double({ min: 0, max: 0.999, noNaN: true }), (columns, part) => {
        const bytes = atOnce(encodeChunk(FROM, FROM + 60_000, columns));
        expect(decodeChunk(bytes.subarray(0, Math.floor(bytes.length * part)))).toBeNull();
      }),
    );
    fc.assert(fc.property(fc.uint8Array({ maxLength: 60 }), (bytes) => decodeChunk(bytes) === null));
  });
});

test('a mapping of the past shows what it showed then', () => {
  const type = parseDataType('INT');
  if (!type.ok) throw new Error();
  const def: SignalDefinition = {
    type: type.value,
    order: 'AB',
    bit: null,
    scale: { kind: 'linear', rawA: 0, engA: 0, rawB: 27648, engB: 150 },
    unit: '°C',
    decimals: 1,
    range: null,
    names: [{ value: 3, name: 'Dry' }],
  };
  const then = mappingIn(mappingText(def));
  // 16128 (3F00h) of 0…27648 to 0…150 is 87.5 (common practice).
  expect(then && followWire(then, { kind: 'bytes', bytes: Uint8Array.of(0x3f, 0x00) }).text).toBe('87.5');
  expect(mappingIn('["NOTYPE","AB",null,[],"",null,[]]')).toBeNull();
  expect(mappingIn('nonsense')).toBeNull();
});
