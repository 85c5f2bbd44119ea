/** Mill Latch's own list in JSON: `{ "format": "mill-latch-tags", "version": 1, "tags": [ … ] }`. */
import { array, boolean, number, object, string, ValidationError, type AnyObjectSchema } from 'yup';
import { atOnce } from '../inSlices.ts';
import { checkingJsonText } from '../jsonText.ts';
import { fail, ok, type Problem, type Result } from '../result.ts';
import { formatNames } from '../value/valueNames.ts';
import type { ColumnKey } from './columns.ts';
import type { ListRow } from './readList.ts';

export const LIST_FORMAT = 'mill-latch-tags';
export const LIST_VERSION = 1;

/** One tag; only name is needed. Numbers as JSON numbers, an address always as text. */
export function listTagSchema(): AnyObjectSchema {
  const words = (max: number) => string().strict().max(max);
  const count = () => number().strict();
  return object({
    name: words(400).required('The name is missing.'),
    address: words(200),
    type: words(60),
    length: count().integer().min(1),
    order: words(8),
    access: string().strict().oneOf(['R', 'RW'], 'Access is R or RW.'),
    unit: words(20),
    decimals: count().integer().min(0).max(12),
    rawLow: count(),
    rawHigh: count(),
    low: count(),
    high: count(),
    period: count().integer(),
    group: words(80),
    comment: words(400),
    panel: boolean().strict(),
    within: array().of(words(80).min(1)).max(16),
    enumeration: words(80),
    initial: words(200),
    names: array().of(object({ value: count().integer().required(), name: words(60).required() }).noUnknown(true, 'A name has value and name.')),
  }).noUnknown(true, 'A tag has no such field.');
}

/** All but the tags, which are looked at one by one. */
export function listFileSchema(): AnyObjectSchema {
  return object({
    format: string().strict().oneOf([LIST_FORMAT]).required(),
    version: number().strict().required(),
    program: object({ name: string().strict().max(200), version: string().strict().max(40) }).noUnknown(true, 'A program has name and version.'),
    tags: array().required('The list of tags is missing.'),
  }).noUnknown(true, 'A list has format, version, program and tags.');
}

export function looksLikeJson(text: string): boolean {
  // A pragma of a program, {VERSION 2}, begins with a brace too.
  return /^\uFEFF?\s*(\[|\{\s*["}])/.test(text.slice(0, 400));
}

export interface OwnList {
  readonly rows: readonly ListRow[];
  readonly version: string;
}

/** A tag with a mistake is a row with the reason; rows count from 1. */
export function parseOwnJson(text: string): Result<OwnList> {
  const checked = atOnce(checkingJsonText(text));
  if (!checked.ok) return checked;
  let file: unknown;
  try {
    file = JSON.parse(text.replace(/^\uFEFF/, ''));
  } catch (error) {
    return fail('json', 'The file is not valid JSON.', 'Export it again.', jsonPlace(text, error));
  }
  const schema = listFileSchema();
  try {
    schema.validateSync(file, { strict: true });
  } catch (error) {
    if (!(error instanceof ValidationError)) throw error;
    const { format, version } = (typeof file === 'object' && file !== null ? file : {}) as { format?: unknown; version?: unknown };
    if (format !== LIST_FORMAT)
      return fail(
        'not-ours',
        `The JSON is no tag list of Mill Latch: its format is not “${LIST_FORMAT}”.`,
        'See the help of Lists for the schema.',
        'format',
      );
    return typeof version === 'number' && version > LIST_VERSION
      ? newer(version)
      : fail('json', error.message, 'See the schema of tag lists.', error.path);
  }
  const { tags, program, version } = file as { tags: readonly unknown[]; program?: { version?: string }; version: number };
  if (version > LIST_VERSION) return newer(version);
  const tagSchema = listTagSchema();
  return ok({ rows: tags.map((tag, i) => rowOf(tag, i + 1, tagSchema)), version: program?.version ?? '' });
}

function newer(version: number): Result<never> {
  return fail(
    'newer',
    `The list was written by a newer Mill Latch (version ${version}, this one knows ${LIST_VERSION}).`,
    'Import it with the newer one.',
    'version',
  );
}

function rowOf(tag: unknown, row: number, schema: AnyObjectSchema): ListRow {
  const place = `tag ${row}`;
  try {
    schema.validateSync(tag, { strict: true });
  } catch (error) {
    if (!(error instanceof ValidationError)) throw error;
    const problem: Problem = { code: 'json', message: error.message, remedy: 'See the schema of tag lists.', place: `${place}, ${error.path ?? ''}` };
    const name = typeof tag === 'object' && tag !== null ? (tag as { name?: unknown }).name : null;
    return { row, place, cells: typeof name === 'string' ? { name } : {}, surplus: 0, problems: [problem] };
  }
  const { names, panel, within, enumeration, ...plain } = tag as {
    names?: { value: number; name: string }[];
    panel?: boolean;
    within?: string[];
    enumeration?: string;
  } & Partial<Record<ColumnKey, string | number>>;
  const cells: Partial<Record<ColumnKey, string>> = {};
  for (const [key, value] of Object.entries(plain)) cells[key as ColumnKey] = String(value);
  if (names) cells.enumeration = formatNames(names);
  if (panel) cells.panel = 'yes';
  return { row, place, cells, surplus: 0, ...(within && within.length > 0 ? { within } : {}), ...(enumeration ? { enumeration } : {}) };
}

/** The place that the parser names: a position, or the words around the mistake. */
function jsonPlace(text: string, error: unknown): string | undefined {
  const words = error instanceof Error ? error.message : '';
  const position = /position (\d+)/.exec(words)?.[1];
  const around = /, (\.\.\.)?"(.+?)"(\.\.\.)? is not valid JSON$/s.exec(words);
  const at = position !== undefined ? Number(position) : around ? text.indexOf(around[2] ?? '') + (around[1] ? AROUND : 0) : -1;
  if (at < 0) return undefined;
  const before = text.slice(0, at).split('\n');
  return `line ${before.length}, column ${(before.at(-1)?.length ?? 0) + 1}`;
}

/** Characters that stand before the mistake in the parser's message. */
const AROUND = 10;
