/** A list as it was read, from whatever it is written in: rows with their cells by meaning, and what is wrong with them. */
import { withoutGuard } from '../csvGuard.ts';
import type { Problem } from '../result.ts';
import { COLUMN_WORDS, findColumns, type ColumnChoices, type ColumnKey, type Columns } from './columns.ts';
import type { Layout } from './layout.ts';
import { MAX_CELL_CHARACTERS, MAX_LIST_COLUMNS, MAX_LIST_ROWS } from './limits.ts';
import { splitRows, type Split } from './splits.ts';
import type { Delimiter, ListFormat } from './written.ts';

/** One row of the list as it stands, with where it stands. */
export interface ListRow {
  /** Counting from 1, the header row included: the number that a spreadsheet or an editor shows. */
  readonly row: number;
  /** Where it stands, when that is no row of a table: `line 12, column 3`. */
  readonly place?: string;
  readonly cells: Readonly<Partial<Record<ColumnKey, string>>>;
  /** Cells beyond the header's last column. */
  readonly surplus: number;
  /** What is wrong with it already as it is read; it is then not understood. */
  readonly problems?: readonly Problem[];
  readonly notes?: readonly string[];
  /** Types that it is a member of, the outermost first. */
  readonly within?: readonly string[];
  /** The name of the enumeration whose value it is. */
  readonly enumeration?: string;
  /** Its address depends on how structures are laid out, which nobody said. */
  readonly isUnplaced?: true;
  /** It lies inside a variable: so many bits after that one's address. */
  readonly inside?: { readonly address: string; readonly atBit: number };
}

export interface ReadList {
  readonly format: ListFormat;
  readonly columns: Columns;
  readonly rows: readonly ListRow[];
  readonly delimiter: Delimiter;
  /** Numbers are written with a decimal comma. */
  readonly decimalComma: boolean;
  /** The first rows as they stand, for the columns to be chosen by. */
  readonly first: readonly (readonly string[])[];
  /** What makes the whole list unreadable, or one row of it (its place names the row). */
  readonly problems: readonly Problem[];
  /** The sheets of a workbook, and which one is read. */
  readonly sheets: readonly string[];
  readonly sheet: string;
  /** The version of the controller's program that the list is from, where it says. */
  readonly programVersion: string;
}

/** What the engineer has said of how the list is written; what is not given is found. */
export interface ReadingChoices extends ColumnChoices {
  readonly delimiter?: Delimiter | undefined;
  readonly decimalComma?: boolean | undefined;
  readonly sheet?: string | undefined;
  /** Columns that hold several things. */
  readonly splits?: readonly Split[] | undefined;
  /** How the controller lays its structures out. */
  readonly layout?: Layout | undefined;
  /** The word of a pragma that marks variables for panels. */
  readonly panelMark?: string | undefined;
}

/** A table of cells, from text or a workbook. */
export interface Table {
  readonly rows: readonly (readonly string[])[];
  /** What is wrong with single cells: by row and column, counting from 0. */
  readonly cellProblems?: ReadonlyMap<number, ReadonlyMap<number, Problem>>;
}

const FIRST_ROWS = 12;
const NO_COLUMNS: Columns = { byKey: new Map(), unknown: [], header: [], headerAt: -1, guesses: [] };
export const NOTHING_READ: Omit<ReadList, 'format'> = {
  columns: NO_COLUMNS,
  rows: [],
  delimiter: ',',
  decimalComma: false,
  first: [],
  problems: [],
  sheets: [],
  sheet: '',
  programVersion: '',
};

export function unreadable(format: ListFormat, problem: Problem): ReadList {
  return { format, ...NOTHING_READ, problems: [problem] };
}

/** Rows that were told apart by their notation, not by columns. */
export function listOfRows(format: ListFormat, rows: readonly ListRow[], problems: readonly Problem[], programVersion: string): ReadList {
  if (rows.length > MAX_LIST_ROWS) return unreadable(format, tooManyRows(rows.length));
  const nothing: Problem = { code: 'no-rows', message: 'The file declares no variable.', remedy: 'Export the list from the controller again.' };
  return { format, ...NOTHING_READ, rows, problems: rows.length === 0 && problems.length === 0 ? [nothing] : problems, programVersion };
}

export function listOfTable(
  format: ListFormat,
  { rows: cellsOf, cellProblems }: Table,
  choices: ReadingChoices,
  from: { readonly delimiter: Delimiter; readonly problems: readonly Problem[]; readonly sheets?: readonly string[]; readonly sheet?: string },
): ReadList {
  const widest = cellsOf.findIndex((cells) => cells.length > MAX_LIST_COLUMNS);
  if (widest >= 0) return unreadable(format, tooManyColumns(cellsOf[widest]?.length ?? 0, widest));
  const table = splitRows(cellsOf, choices.splits ?? []).map(cutCells);
  const problems: Problem[] = [...from.problems];
  const columns = findColumns(table, choices);
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
  const columnOf = [...columns.byKey];
  const width = columns.headerAt < 0 ? Infinity : Math.max(columns.header.length, usualWidth(table.slice(columns.headerAt + 1)));
  for (let at = columns.headerAt + 1; at < table.length; at++) {
    const cells = table[at] ?? [];
    if (cells.every((cell) => cell.trim() === '')) continue;
    const byKey: Partial<Record<ColumnKey, string>> = {};
    const inUse: Problem[] = [];
    for (const [key, column] of columnOf) {
      const cell = cells[column] ?? '';
      byKey[key] = withoutGuard(cell.trim());
      const wrong = cell.length > MAX_CELL_CHARACTERS ? tooLong(at, column) : cellProblems?.get(at)?.get(column);
      if (wrong) inUse.push(wrong);
    }
    rows.push({ row: at + 1, cells: byKey, surplus: Math.max(0, cells.length - width), ...(inUse.length > 0 ? { problems: inUse } : {}) });
  }
  if (rows.length > MAX_LIST_ROWS) return unreadable(format, tooManyRows(rows.length));
  carryGroupsDown(rows);
  if (rows.length === 0 && problems.length === 0)
    problems.push({
      code: 'no-rows',
      message: 'Below the headings there is no row.',
      remedy: 'Export the list from the controller again.',
      place: `row ${columns.headerAt + 2}`,
    });
  return {
    format,
    columns,
    rows,
    delimiter: from.delimiter,
    decimalComma: choices.decimalComma ?? (from.delimiter !== ',' && writesDecimalCommas(rows)),
    first: table.slice(0, FIRST_ROWS).map((cells) => cells.map((c) => c.slice(0, 80))),
    problems,
    sheets: from.sheets ?? [],
    sheet: from.sheet ?? '',
    programVersion: '',
  };
}

/** What is longer than any cell is cut just behind that, so that it is still known to be too long. */
function cutCells(cells: readonly string[]): readonly string[] {
  return cells.some((cell) => cell.length > MAX_CELL_CHARACTERS) ? cells.map((cell) => cell.slice(0, MAX_CELL_CHARACTERS + 1)) : cells;
}

function tooLong(row: number, column: number): Problem {
  return {
    code: 'too-long',
    message: `The cell has more than ${MAX_CELL_CHARACTERS} characters.`,
    remedy: 'Shorten it, or exclude the row.',
    place: `row ${row + 1}, column ${column + 1}`,
  };
}

function tooManyColumns(count: number, row: number): Problem {
  return {
    code: 'too-many-columns',
    message: `A row has ${count} cells; up to ${MAX_LIST_COLUMNS} are taken.`,
    remedy: 'Is it a list of tags, and is the delimiter right?',
    place: `row ${row + 1}`,
  };
}

function tooManyRows(count: number): Problem {
  return { code: 'too-many-rows', message: `The list has ${count} rows; up to ${MAX_LIST_ROWS} are taken.`, remedy: 'Split it.' };
}

/**
 * A group that was one merged cell stands in its first row alone, once the sheet is saved as text. Where most rows have
 * none and the first one has, each belongs to the group above it.
 */
function carryGroupsDown(rows: ListRow[]): void {
  const filled = rows.filter(({ cells }) => cells.group).length;
  if (filled === 0 || filled > rows.length / 2 || !rows[0]?.cells.group) return;
  let above = '';
  for (const [at, row] of rows.entries()) {
    if (row.cells.group) above = row.cells.group;
    else
      rows[at] = { ...row, cells: { ...row.cells, group: above }, notes: [...(row.notes ?? []), `The group ${above} is carried down from above.`] };
  }
}

/** The width that most rows have: a last column may stand without a heading. 0 where there is none. */
function usualWidth(rows: readonly (readonly string[])[]): number {
  const counts = new Map<number, number>();
  let filled = 0;
  for (const cells of rows) {
    if (cells.every((cell) => cell.trim() === '')) continue;
    filled++;
    counts.set(cells.length, (counts.get(cells.length) ?? 0) + 1);
  }
  for (const [width, count] of counts) if (count > 1 && count > filled / 2) return width;
  return 0;
}

const NUMBER_KEYS = ['low', 'high', 'rawLow', 'rawHigh', 'factor', 'divisor', 'offset'] as const;

/** Commas in numbers are decimals where some number shows it, and none shows that points are: else nobody can know. */
function writesDecimalCommas(rows: readonly ListRow[]): boolean {
  let commas = 0;
  for (const { cells } of rows)
    for (const key of NUMBER_KEYS) {
      const cell = cells[key] ?? '';
      // 1.200 alone may be either; 1.200,5 is a decimal comma, and 0.5 or 12.34 a decimal point.
      if (/^[+-]?\d{1,3}(\.\d{3})+$/.test(cell)) continue;
      if (/^[+-]?(\d+|\d{1,3}(\.\d{3})+),\d+$/.test(cell)) commas++;
      else if (cell.includes('.')) return false;
    }
  return commas > 0;
}
