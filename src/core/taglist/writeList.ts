/** Tags as a list in the columns that come in: what goes out can be imported again. */
import { FORMULA } from '../csvGuard.ts';
import Papa from 'papaparse';
import type { Tag } from '../project/entities.ts';
import type { Scale } from '../scaling/scale.ts';
import { formatNames } from '../value/valueNames.ts';

const FIELDS = [
  'Name',
  'Address',
  'Data type',
  'Order',
  'Access',
  'Unit',
  'Decimals',
  'Raw low',
  'Raw high',
  'Low',
  'High',
  'Scan period',
  'Group',
  'Comment',
  'Initial value',
  'Value names',
];

/**
 * RFC 4180. A text that a spreadsheet would take for a formula gets an apostrophe in front, which is taken off again when the
 * list comes back. A scale goes out as raw range
 * where its ends are those of the tag's range, which is all that two ranges can say.
 */
export function writeList(tags: readonly Tag[], scaleOf: (tagId: string) => Scale | null = () => null): string {
  return [...listPortions(tags, scaleOf)].join('');
}

/** The same in portions of some hundred rows. */
export function* listPortions(tags: readonly Tag[], scaleOf: (tagId: string) => Scale | null): Generator<string> {
  yield Papa.unparse([FIELDS], HOW);
  for (let from = 0; from < tags.length; from += PORTION)
    yield `\r\n${Papa.unparse(
      tags.slice(from, from + PORTION).map((tag) => rowOf(tag, scaleOf(tag.id))),
      HOW,
    )}`;
}

const PORTION = 200;
const HOW = { newline: '\r\n', escapeFormulae: FORMULA } as const;

function rowOf(t: Tag, scale: Scale | null): readonly string[] {
  const text = (value: number | null): string => (value === null ? '' : String(value));
  const [rawLow, rawHigh] = rawRange(t, scale);
  return [
    t.name,
    t.address,
    t.type,
    t.order,
    t.access === 'readWrite' ? 'RW' : 'R',
    t.unit,
    text(t.decimals),
    text(rawLow),
    text(rawHigh),
    text(t.rangeLow),
    text(t.rangeHigh),
    String(t.periodMs),
    t.group,
    t.comment,
    t.initial,
    formatNames(t.names),
  ];
}

function rawRange({ rangeLow, rangeHigh }: Tag, scale: Scale | null): readonly [number | null, number | null] {
  return scale?.kind === 'linear' && scale.engA === rangeLow && scale.engB === rangeHigh ? [scale.rawA, scale.rawB] : [null, null];
}
