import { describe, expect, test } from '@jest/globals';
import { readFileSync } from 'node:fs';
import { followWire, planWrite, type SignalDefinition } from '@/core/signal.ts';
import { AS_IS } from '@/core/scaling/scale.ts';
import { orderWidth } from '@/core/value/byteOrder.ts';
import { parseDataType } from '@/core/value/dataType.ts';

/** tests/data/decode.json: values packed by Python's struct module, see its own `source`. */
interface Row {
  readonly type: string;
  readonly order: string;
  readonly wire: string;
  readonly value: number | string;
}
const vectors = JSON.parse(readFileSync(new URL('../data/decode.json', import.meta.url), 'utf8')) as { rows: Row[] };

const LETTERS: Readonly<Record<string, Readonly<Record<number, string>>>> = {
  big: { 2: 'AB', 4: 'ABCD', 8: 'ABCDEFGH' },
  wordSwapped: { 2: 'AB', 4: 'CDAB', 8: 'GHEFCDAB' },
  byteSwapped: { 2: 'BA', 4: 'BADC', 8: 'BADCFEHG' },
  little: { 2: 'BA', 4: 'DCBA', 8: 'HGFEDCBA' },
};

function definitionOf(row: Row): SignalDefinition {
  const type = parseDataType(row.type === 'STRING' ? `STRING(${row.wire.length / 2})` : row.type === 'BCD16' ? 'UINT bcd' : row.type);
  if (!type.ok) throw new Error(type.problem.message);
  return {
    type: type.value,
    order: LETTERS[row.order]?.[orderWidth(type.value)] ?? '',
    bit: null,
    scale: AS_IS,
    unit: '',
    decimals: null,
    range: null,
  };
}

const { rows } = vectors;

describe('values packed by another language', () => {
  test('the file holds 268 values', () => {
    expect(rows).toHaveLength(268);
  });
  test.each(rows.map((row) => [row.type, row.order, row.wire, row] as const))('%s %s %s decodes and encodes back', (_type, _order, wire, row) => {
    const def = definitionOf(row);
    const bytes = Uint8Array.from(Buffer.from(wire, 'hex'));
    const stages = followWire(def, { kind: 'bytes', bytes });
    expect(String(stages.raw)).toBe(String(row.value));
    expect(stages.quality.level).toBe('good');
    const back = planWrite(def, stages.eng ?? '');
    expect(back.ok && Buffer.from(back.value.bytes).toString('hex')).toBe(wire);
  });
});
