/** The rules for what an engineer says of a list, the same for a request and for what is stored. */
import { WITHOUT_CONTROL_CHARACTERS } from '../patterns.ts';
import { array, boolean, mixed, number, object, string, type AnyObjectSchema } from 'yup';
import { COLUMN_KEYS, type ColumnKey } from './columns.ts';
import { parseDataType } from '../value/dataType.ts';
import { LAYOUTS, type Layout } from './layout.ts';
import { PLAIN_NUMBERS, type PlainNumbers } from './addressRule.ts';
import { MOST_PARTS, type Split } from './splits.ts';
import { DELIMITERS, ENCODINGS, type Delimiter, type Encoding } from './written.ts';

const MAX_COLUMNS = 200;
const patterns = () =>
  array()
    .of(string().min(1, 'A pattern is not empty.').max(200, 'A pattern has at most 200 characters.').required())
    .max(50, 'At most 50 patterns.')
    .defined();

function isSplit(value: unknown): boolean {
  if (typeof value !== 'object' || value === null) return false;
  const { column, at, parts, widths, pattern, ...rest } = value as Record<string, unknown>;
  const isCount = (n: unknown, min: number, max: number): boolean => typeof n === 'number' && Number.isInteger(n) && n >= min && n <= max;
  if (!isCount(column, 0, MAX_COLUMNS - 1) || Object.keys(rest).length > 0) return false;
  if ([at, widths, pattern].filter((given) => given !== undefined).length !== 1) return false;
  if (at !== undefined) return typeof at === 'string' && at.length >= 1 && at.length <= 20 && (parts === undefined || isCount(parts, 2, MOST_PARTS));
  if (parts !== undefined) return false;
  if (widths !== undefined)
    return Array.isArray(widths) && widths.length >= 1 && widths.length < MOST_PARTS && widths.every((w) => isCount(w, 1, 400));
  return typeof pattern === 'string' && pattern.length <= 200 && isCount(pattern.split('*').length - 1, 1, MOST_PARTS);
}

function isTypeWords(value: unknown): boolean {
  if (typeof value !== 'object' || value === null || Array.isArray(value)) return false;
  const all = Object.entries(value);
  return all.length <= 200 && all.every(([word, type]) => word.length <= 60 && typeof type === 'string' && parseDataType(type).ok);
}

function isCells(value: unknown): boolean {
  if (typeof value !== 'object' || value === null || Array.isArray(value)) return false;
  return Object.entries(value).every(
    ([key, cell]) => (COLUMN_KEYS as readonly string[]).includes(key) && typeof cell === 'string' && cell.length <= 1000,
  );
}

export function draftChoicesSchema(): AnyObjectSchema {
  return object({
    encoding: string<Encoding>().oneOf(ENCODINGS.map(([id]) => id)),
    delimiter: string<Delimiter>().oneOf(DELIMITERS),
    decimalComma: boolean(),
    headerAt: number().integer().min(-1).max(1000, 'The headings stand in the first 1000 rows.'),
    columns: array()
      .of(
        string<ColumnKey | ''>()
          .oneOf(['', ...COLUMN_KEYS], 'No such column is known.')
          .defined(),
      )
      .max(MAX_COLUMNS, `A list has at most ${MAX_COLUMNS} columns.`),
    headings: array().of(string().max(400).defined()).max(MAX_COLUMNS, `A list has at most ${MAX_COLUMNS} columns.`),
    sheet: string().max(60, 'The name of a sheet has at most 60 characters.'),
    splits: array()
      .of(
        mixed<Split>((value): value is Split => isSplit(value))
          .typeError('A split has a column, and a text with the number of parts, widths, or a pattern with stars.')
          .defined(),
      )
      .max(20, 'At most 20 columns can be split.'),
    plainNumbers: string<PlainNumbers>().oneOf(PLAIN_NUMBERS, 'Plain numbers name holding or input registers.'),
    countsFrom: number<0 | 1>().oneOf([0, 1], 'Numbers count from 0 or from 1.'),
    typeWords: mixed<Readonly<Record<string, string>>>((value): value is Readonly<Record<string, string>> => isTypeWords(value)).typeError(
      'For each word of the list one data type that is known here.',
    ),
    panelMark: string().max(60, 'The mark has at most 60 characters.'),
    corrections: array()
      .of(
        object({
          name: string().max(400).defined(),
          cells: mixed<Readonly<Partial<Record<ColumnKey, string>>>>((value): value is Readonly<Partial<Record<ColumnKey, string>>> =>
            isCells(value),
          ).defined(),
        }).noUnknown(true, 'A correction has name and cells.'),
      )
      .max(5000, 'At most 5000 rows can be corrected; correct the rest in the list itself.'),
    layout: string<Layout>().oneOf(LAYOUTS),
    textLength: number().integer().min(1, 'A text has 1 to 1024 characters.').max(1024, 'A text has 1 to 1024 characters.'),
    prefix: string().max(40, 'A prefix has at most 40 characters.').matches(WITHOUT_CONTROL_CHARACTERS, 'A prefix holds no control characters.'),
    rule: object({ include: patterns(), exclude: patterns(), onlyForPanels: boolean().defined() })
      .noUnknown(true, 'A rule has include, exclude and onlyForPanels.')
      .optional()
      .default(undefined),
  }).noUnknown(true, 'A list has no such choice.');
}
