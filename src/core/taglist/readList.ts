/** Reads a tag list from delimited text (RFC 4180, and its cousins with semicolon, tab or pipe). */
import Papa from 'papaparse';
import type { Problem } from '../result.ts';
import { findColumns, type ColumnKey, type Columns } from './columns.ts';

/** One row of the list as it stands, with where it stands. */
export interface ListRow {
  /** Counting from 1, the header row included: the number a spreadsheet shows. */
  readonly row: number;
  readonly cells: Readonly<Partial<Record<ColumnKey, string>>>;
  /** Cells beyond the header's last column. */
  readonly surplus: number;
}

export interface ReadList {
  readonly columns: Columns;
  readonly rows: readonly ListRow[];
  /** What makes the whole list unreadable, or one row of it (its place names the row). */
  readonly problems: readonly Problem[];
}

export const MAX_LIST_BYTES = 8_000_000;
export const MAX_LIST_ROWS = 15_000;

const NOTHING: Omit<ReadList, 'problems'> = { columns: { byKey: new Map(), unknown: [], header: [] }, rows: [] };

export function readList(text: string): ReadList {
  if (text.trim() === '')
    return {
      ...NOTHING,
      problems: [{ code: 'empty', message: 'The file is empty.', remedy: 'Export the list from the controller again.', place: 'row 1' }],
    };
  if (text.length > MAX_LIST_BYTES)
    return {
      ...NOTHING,
      problems: [
        {
          code: 'too-large',
          message: `The list is larger than ${MAX_LIST_BYTES / 1_000_000} MB.`,
          remedy: 'Split it, or leave out what is not needed.',
        },
      ],
    };
  if (text.includes('\u0000'))
    return {
      ...NOTHING,
      problems: [{ code: 'not-text', message: 'The file holds NUL bytes, so it is no text in UTF-8.', remedy: 'Save it as CSV in UTF-8.' }],
    };
  const parsed = Papa.parse<string[]>(text.replace(/^\uFEFF/, ''), { skipEmptyLines: false, delimitersToGuess: [',', ';', '\t', '|'] });
  const problems: Problem[] = parsed.errors
    .filter((e, i, all) => e.type === 'Quotes' && all.findIndex((other) => other.type === 'Quotes' && other.row === e.row) === i)
    .map((e) => ({
      code: 'quotes',
      message: e.code === 'MissingQuotes' ? 'A quoted cell is never closed.' : 'A quote stands in the middle of a cell.',
      remedy: 'Close the quotes, and double a quote that belongs to the text.',
      place: quotePlace(parsed.data, e.row ?? 0, e.code),
    }));
  const [header, ...body] = parsed.data;
  const columns = findColumns(header ?? []);
  for (const [key, word] of columns.missing)
    problems.push({
      code: 'missing-column',
      message: `No column holds the ${word}.`,
      remedy: `Give one column the heading “${key}”.`,
      place: 'row 1',
    });
  for (const [key, at] of columns.twice)
    problems.push({
      code: 'column-twice',
      message: `Two columns both look like the ${key}.`,
      remedy: 'Rename or remove one of them.',
      place: `row 1, column ${at + 1}`,
    });
  const rows: ListRow[] = [];
  body.forEach((cells, i) => {
    if (cells.every((cell) => cell.trim() === '')) return;
    const byKey: Partial<Record<ColumnKey, string>> = {};
    for (const [key, at] of columns.byKey) byKey[key] = cells[at]?.trim() ?? '';
    rows.push({ row: i + 2, cells: byKey, surplus: Math.max(0, cells.length - columns.header.length) });
  });
  if (rows.length > MAX_LIST_ROWS)
    return {
      ...NOTHING,
      problems: [
        { code: 'too-many-rows', message: `The list has ${rows.length} rows; up to ${MAX_LIST_ROWS} are taken at once.`, remedy: 'Split it.' },
      ],
    };
  if (rows.length === 0 && problems.length === 0)
    problems.push({
      code: 'no-rows',
      message: 'Below the headings there is no row.',
      remedy: 'Export the list from the controller again.',
      place: 'row 2',
    });
  return { columns, rows, problems };
}

/** The cell that a quoting error is about: one never closed swallows the rest, so it is its row's last. */
function quotePlace(data: readonly (readonly string[])[], row: number, code: string): string {
  const cells = data[row] ?? [];
  const quoted = cells.findIndex((cell) => cell.includes('"'));
  return `row ${row + 1}, column ${code === 'MissingQuotes' || quoted < 0 ? cells.length : quoted + 1}`;
}
