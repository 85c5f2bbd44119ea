/** Reads a tag list from delimited text (RFC 4180, and its cousins with semicolon, tab or pipe). */
import Papa from 'papaparse';
import type { Problem } from '../result.ts';
import { MAX_LIST_BYTES, MAX_LIST_ROWS } from './limits.ts';
import { DELIMITERS, type Delimiter } from './written.ts';
import { COLUMN_WORDS, findColumns, type ColumnChoices, type ColumnKey, type Columns } from './columns.ts';

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
  readonly delimiter: Delimiter;
  /** Numbers are written with a decimal comma. */
  readonly decimalComma: boolean;
  /** The first rows as they stand, for the columns to be chosen by. */
  readonly first: readonly (readonly string[])[];
  /** What makes the whole list unreadable, or one row of it (its place names the row). */
  readonly problems: readonly Problem[];
}

/** What the engineer has said of how the text is written; what is not given is found. */
export interface ReadingChoices extends ColumnChoices {
  readonly delimiter?: Delimiter | undefined;
  readonly decimalComma?: boolean | undefined;
}

const FIRST_ROWS = 12;

export function readList(text: string, choices: ReadingChoices = {}): ReadList {
  const nothing = (problem: Problem): ReadList => ({
    columns: { byKey: new Map(), unknown: [], header: [], headerAt: -1, guesses: [] },
    rows: [],
    delimiter: ',',
    decimalComma: false,
    first: [],
    problems: [problem],
  });
  if (text.trim() === '')
    return nothing({ code: 'empty', message: 'The file is empty.', remedy: 'Export the list from the controller again.', place: 'row 1' });
  if (text.length > MAX_LIST_BYTES)
    return nothing({
      code: 'too-large',
      message: `The list is larger than ${MAX_LIST_BYTES / 1_000_000} MB.`,
      remedy: 'Split it, or leave out what is not needed.',
    });
  if (text.includes('\u0000'))
    return nothing({ code: 'not-text', message: 'The file holds NUL bytes, so it is no text in UTF-8.', remedy: 'Save it as CSV in UTF-8.' });
  const parsed = Papa.parse<string[]>(text.replace(/^\uFEFF/, ''), {
    skipEmptyLines: false,
    delimiter: choices.delimiter ?? '',
    delimitersToGuess: [...DELIMITERS],
  });
  const problems: Problem[] = parsed.errors
    .filter((e, i, all) => e.type === 'Quotes' && all.findIndex((other) => other.type === 'Quotes' && other.row === e.row) === i)
    .map((e) => ({
      code: 'quotes',
      message: e.code === 'MissingQuotes' ? 'A quoted cell is never closed.' : 'A quote stands in the middle of a cell.',
      remedy: 'Close the quotes, and double a quote that belongs to the text.',
      place: quotePlace(parsed.data, e.row ?? 0, e.code),
    }));
  const columns = findColumns(parsed.data, choices);
  for (const key of columns.missing)
    problems.push({
      code: 'missing-column',
      message: `No column holds the ${COLUMN_WORDS[key]}.`,
      remedy: `Choose the column, or give it the heading “${key}”.`,
      place: `row ${columns.headerAt + 1}`,
    });
  for (const [key, at] of columns.twice)
    problems.push({
      code: 'column-twice',
      message: `Two columns both look like the ${COLUMN_WORDS[key]}.`,
      remedy: 'Choose one of them, or rename the other.',
      place: `row ${columns.headerAt + 1}, column ${at + 1}`,
    });
  const rows: ListRow[] = [];
  const width = columns.headerAt < 0 ? Infinity : columns.header.length;
  for (let at = columns.headerAt + 1; at < parsed.data.length; at++) {
    const cells = parsed.data[at] ?? [];
    if (cells.every((cell) => cell.trim() === '')) continue;
    const byKey: Partial<Record<ColumnKey, string>> = {};
    for (const [key, column] of columns.byKey) byKey[key] = cells[column]?.trim() ?? '';
    rows.push({ row: at + 1, cells: byKey, surplus: Math.max(0, cells.length - width) });
  }
  if (rows.length > MAX_LIST_ROWS)
    return nothing({ code: 'too-many-rows', message: `The list has ${rows.length} rows; up to ${MAX_LIST_ROWS} are taken.`, remedy: 'Split it.' });
  if (rows.length === 0 && problems.length === 0)
    problems.push({
      code: 'no-rows',
      message: 'Below the headings there is no row.',
      remedy: 'Export the list from the controller again.',
      place: `row ${columns.headerAt + 2}`,
    });
  const delimiter = DELIMITERS.find((d) => d === parsed.meta.delimiter) ?? ',';
  const decimalComma = choices.decimalComma ?? (delimiter !== ',' && writesDecimalCommas(rows));
  return {
    columns,
    rows,
    delimiter,
    decimalComma,
    first: parsed.data.slice(0, FIRST_ROWS).map((cells) => cells.map((c) => c.slice(0, 80))),
    problems,
  };
}

/** Commas in numbers are decimals where some number has one comma, and none has a point: else nobody can know. */
function writesDecimalCommas(rows: readonly ListRow[]): boolean {
  let commas = 0;
  for (const { cells } of rows)
    for (const key of ['low', 'high', 'rawLow', 'rawHigh'] as const) {
      const cell = cells[key] ?? '';
      if (cell.includes('.')) return false;
      if (/^[+-]?\d+,\d+$/.test(cell)) commas++;
    }
  return commas > 0;
}

/** The cell that a quoting error is about: one never closed swallows the rest, so it is its row's last. */
function quotePlace(data: readonly (readonly string[])[], row: number, code: string): string {
  const cells = data[row] ?? [];
  const quoted = cells.findIndex((cell) => cell.includes('"'));
  return `row ${row + 1}, column ${code === 'MissingQuotes' || quoted < 0 ? cells.length : quoted + 1}`;
}
