/** Tags as a list in the columns that come in: what goes out can be imported again. */
import { FORMULA } from '../csvGuard.ts';
import Papa from 'papaparse';
import type { Tag } from '../project/entities.ts';
import { pointIn } from '../project/tagSource.ts';
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
export function writeList(tags: readonly Tag[], beside: BesideTags = NOTHING_BESIDE): string {
  return [...listPortions(tags, beside)].join('');
}

/** What else a list says of tags. */
export interface BesideTags {
  readonly scaleOf: (tagId: string) => Scale | null;
  /** The names of the groups that it stands in: `Zone 1/Bed`. */
  readonly groupOf: (tag: Tag) => string;
}
const NOTHING_BESIDE: BesideTags = { scaleOf: () => null, groupOf: () => '' };

/** The same in portions of some hundred rows. */
export function* listPortions(tags: readonly Tag[], beside: BesideTags): Generator<string> {
  yield Papa.unparse([FIELDS], HOW);
  for (let from = 0; from < tags.length; from += PORTION)
    yield `\r\n${Papa.unparse(
      tags.slice(from, from + PORTION).map((tag) => rowOf(tag, beside)),
      HOW,
    )}`;
}

const PORTION = 200;
const HOW = { newline: '\r\n', escapeFormulae: FORMULA } as const;

function rowOf(t: Tag, { scaleOf, groupOf }: BesideTags): readonly string[] {
  const point = pointIn(t);
  const text = (value: number | null): string => (value === null ? '' : String(value));
  const [rawLow, rawHigh] = rawRange(t, scaleOf(t.id));
  return [
    t.name,
    point?.address ?? '',
    t.type,
    point?.order ?? '',
    t.access === null ? '' : t.access === 'readWrite' ? 'RW' : 'R',
    t.unit,
    text(t.decimals),
    text(rawLow),
    text(rawHigh),
    text(t.rangeLow),
    text(t.rangeHigh),
    text(point?.periodMs ?? null),
    groupOf(t),
    t.comment,
    t.initial,
    formatNames(t.names),
  ];
}

function rawRange({ rangeLow, rangeHigh }: Tag, scale: Scale | null): readonly [number | null, number | null] {
  return scale?.kind === 'linear' && scale.engA === rangeLow && scale.engB === rangeHigh ? [scale.rawA, scale.rawB] : [null, null];
}
