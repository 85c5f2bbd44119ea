/** The rules for what an engineer says of a list, the same for a request and for what is stored. */
import { array, boolean, number, object, string, type AnyObjectSchema } from 'yup';
import { COLUMN_KEYS, type ColumnKey } from './columns.ts';
import { LAYOUTS, type Layout } from './layout.ts';
import { DELIMITERS, ENCODINGS, SPLIT_SIGNS, type Delimiter, type Encoding, type SplitSign } from './written.ts';

const MAX_COLUMNS = 200;
const patterns = () =>
  array()
    .of(string().min(1, 'A pattern is not empty.').max(200, 'A pattern has at most 200 characters.').required())
    .max(50, 'At most 50 patterns.')
    .defined();

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
        object({
          column: number()
            .integer()
            .min(0)
            .max(MAX_COLUMNS - 1)
            .defined(),
          at: string<SplitSign>().oneOf(SPLIT_SIGNS, 'A column is split at a space or a sign.').defined(),
        }).noUnknown(true, 'A split has column and at.'),
      )
      .max(20, 'At most 20 columns can be split.'),
    layout: string<Layout>().oneOf(LAYOUTS),
    textLength: number().integer().min(1, 'A text has 1 to 1024 characters.').max(1024, 'A text has 1 to 1024 characters.'),
    prefix: string()
      .max(40, 'A prefix has at most 40 characters.')
      // eslint-disable-next-line no-control-regex -- control characters are exactly what names may not hold
      .matches(/^[^\u0000-\u001f\u007f]*$/, 'A prefix holds no control characters.'),
    rule: object({ include: patterns(), exclude: patterns(), onlyForPanels: boolean().defined() })
      .noUnknown(true, 'A rule has include, exclude and onlyForPanels.')
      .optional()
      .default(undefined),
  }).noUnknown(true, 'A list has no such choice.');
}
