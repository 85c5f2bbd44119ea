/** Reads a tag list from a workbook (XLSX, ISO/IEC 29500). What is packed is measured before it is believed. */
import * as XLSX from '@e965/xlsx';
import { Unzip, UnzipInflate } from 'fflate';
import { fail, ok, type Problem, type Result } from '@/core/result.ts';
import { listOfTable, unreadable, type ReadingChoices, type ReadList } from '@/core/taglist/readList.ts';

/** A sheet of a million rows unpacks to a few hundred megabytes. */
const MAX_UNPACKED_BYTES = 600_000_000;
/** Bytes given to the unpacking at once: between two pieces the sum is looked at. */
const PIECE = 65_536;
const MAX_COLUMNS = 200;
/** Cells that merged ones are carried down to. */
const MOST_CARRIED = 1_000_000;

export function looksLikeWorkbook(bytes: Uint8Array): boolean {
  return bytes[0] === 0x50 && bytes[1] === 0x4b;
}

/** Old workbooks, of before 2007, are another format. */
export function looksLikeOldWorkbook(bytes: Uint8Array): boolean {
  return [0xd0, 0xcf, 0x11, 0xe0].every((byte, i) => bytes[i] === byte);
}

/** @param maxUnpacked bytes above which it is refused */
export function readWorkbook(bytes: Uint8Array, choices: ReadingChoices = {}, maxUnpacked = MAX_UNPACKED_BYTES): ReadList {
  const nothing = (problem: Problem): ReadList => unreadable('workbook', problem);
  const refused = refusal(bytes, maxUnpacked);
  if (refused) return nothing(refused);
  let book: XLSX.WorkBook;
  try {
    const { SheetNames } = XLSX.read(bytes, { type: 'array', bookSheets: true });
    const wanted = SheetNames.includes(choices.sheet ?? '') ? (choices.sheet ?? '') : (SheetNames[0] ?? '');
    book = XLSX.read(bytes, {
      type: 'array',
      dense: true,
      cellHTML: false,
      cellText: false,
      sheetStubs: true,
      sheets: choices.sheet ? [wanted] : undefined,
    });
  } catch (error) {
    return nothing({
      code: 'workbook',
      message: `The workbook is damaged: ${error instanceof Error ? error.message.slice(0, 200) : 'it cannot be read'}.`,
      remedy: 'Open it in a spreadsheet and save it again, or save the sheet as CSV.',
    });
  }
  const sheets = book.SheetNames;
  if (choices.sheet && !sheets.includes(choices.sheet))
    return {
      ...nothing({
        code: 'sheet',
        message: `The workbook has no sheet “${choices.sheet.slice(0, 60)}”.`,
        remedy: `It has ${sheets.join(', ').slice(0, 200)}.`,
      }),
      sheets,
    };
  // Where nobody chose, the sheet with the best list: most columns told, then most rows.
  const read = (choices.sheet ? [choices.sheet] : sheets).map((sheet) => sheetList(book, sheet, sheets, choices));
  const best = read.reduce<ReadList | null>((a, b) => (a === null || worth(b) > worth(a) ? b : a), null);
  return best ?? nothing({ code: 'empty', message: 'The workbook has no sheet.' });
}

/** The cells of the first sheet as texts. */
export function readSheet(bytes: Uint8Array, maxUnpacked = MAX_UNPACKED_BYTES): Result<readonly (readonly string[])[]> {
  const refused = refusal(bytes, maxUnpacked);
  if (refused) return { ok: false, problem: refused };
  try {
    const book = XLSX.read(bytes, { type: 'array', dense: true, cellHTML: false, cellText: false });
    const content = book.Sheets[book.SheetNames[0] ?? ''];
    return content ? ok(tableOf(content).rows) : fail('empty', 'The workbook has no sheet.');
  } catch {
    return fail('workbook', 'The workbook is damaged: it cannot be read.', 'Open it in a spreadsheet and save it again.');
  }
}

function worth(list: ReadList): number {
  return list.rows.length === 0 ? -1 : list.columns.byKey.size * 10 - list.problems.length;
}

function sheetList(book: XLSX.WorkBook, sheet: string, sheets: readonly string[], choices: ReadingChoices): ReadList {
  const content = book.Sheets[sheet];
  const table = content ? tableOf(content) : { rows: [], wrong: new Map<number, Map<number, Problem>>() };
  carryDown(table.rows, content?.['!merges'] ?? []);
  const list = listOfTable('workbook', { rows: table.rows, cellProblems: table.wrong }, choices, { delimiter: '\t', problems: [], sheets, sheet });
  const { headerAt } = list.columns;
  const merged = (content?.['!merges'] ?? []).filter(({ s, e }) => s.r <= headerAt && e.r >= headerAt && e.c > s.c);
  const addressAt = list.columns.byKey.get('address');
  const problems = merged.map(({ s, e }) => ({
    code: 'merged-heading',
    message: `The heading in ${XLSX.utils.encode_range({ s, e })} is merged over ${e.c - s.c + 1} columns, so only the first of them has one.`,
    remedy: 'Unmerge it, or choose the columns below.',
    place: `row ${headerAt + 1}, column ${s.c + 1}`,
  }));
  return {
    ...list,
    // A merged heading is no more than a warning where all that is needed was found.
    problems: list.problems.length > 0 ? [...list.problems, ...problems] : list.problems,
    rows: list.rows.map((row) => {
      const problem = addressAt === undefined ? null : splitBit(content, row.row - 1, addressAt, row.cells.address ?? '');
      return problem ? { ...row, problems: [...(row.problems ?? []), problem] } : row;
    }),
  };
}

/** A cell that is merged over several rows says the same of each of them. */
function carryDown(rows: string[][], merges: readonly XLSX.Range[]): void {
  let carried = 0;
  for (const { s, e } of merges) {
    const text = rows[s.r]?.[s.c] ?? '';
    for (let at = s.r + 1; at <= Math.min(e.r, rows.length - 1) && text !== '' && carried < MOST_CARRIED; at++, carried++) {
      const row = (rows[at] ??= []);
      while (row.length <= s.c) row.push('');
      row[s.c] ||= text;
    }
  }
}

/** An address with bit 10 that is kept as a number has bit 1 for ever: which bit was meant can no longer be known. */
function splitBit(sheet: XLSX.WorkSheet | undefined, row: number, column: number, address: string): Problem | null {
  const cell = cellAt(sheet, row, column);
  if (cell?.t !== 'n' || typeof cell.v !== 'number' || Number.isInteger(cell.v)) return null;
  return {
    code: 'number-cell',
    message: `The spreadsheet keeps this address as the number ${address}, so ${address} and ${address}0 look the same: which bit is meant cannot be known.`,
    remedy: 'Format the column as text, enter the address again, and save.',
    place: `row ${row + 1}, column ${column + 1}`,
  };
}

function cellAt(sheet: XLSX.WorkSheet | undefined, row: number, column: number): XLSX.CellObject | undefined {
  const data = sheet?.['!data'] as (XLSX.CellObject[] | undefined)[] | undefined;
  return data?.[row]?.[column];
}

function tableOf(sheet: XLSX.WorkSheet): { readonly rows: string[][]; readonly wrong: Map<number, Map<number, Problem>> } {
  const data = (sheet['!data'] ?? []) as (XLSX.CellObject[] | undefined)[];
  const wrong = new Map<number, Map<number, Problem>>();
  const rows = Array.from({ length: data.length }, (_, r) => {
    const cells = data[r] ?? [];
    return Array.from({ length: Math.min(cells.length, MAX_COLUMNS) }, (__, c) => {
      const cell = cells[c];
      if (!cell) return '';
      const problem = wrongCell(cell, r, c);
      if (problem) wrong.set(r, (wrong.get(r) ?? new Map<number, Problem>()).set(c, problem));
      return typeof cell.v === 'string' || typeof cell.v === 'number' || typeof cell.v === 'boolean' ? String(cell.v) : '';
    });
  });
  return { rows, wrong };
}

function wrongCell(cell: XLSX.CellObject, row: number, column: number): Problem | null {
  const place = `row ${row + 1}, column ${column + 1}`;
  const name = XLSX.utils.encode_cell({ r: row, c: column });
  if (cell.f !== undefined)
    return {
      code: 'formula-cell',
      message: `${name} holds a formula, and nobody knows when its value was worked out.`,
      remedy: 'Paste it as a value, and save.',
      place,
    };
  if (cell.t === 'e') return { code: 'error-cell', message: `${name} holds an error of the spreadsheet.`, remedy: 'Correct it, and save.', place };
  return null;
}

/** What the sizes in a zip say may be a lie, so it is unpacked and counted, and thrown away, before anything reads it. */
function refusal(bytes: Uint8Array, maxUnpacked: number): Problem | null {
  let total = 0;
  let isBroken = false;
  const unzip = new Unzip();
  unzip.register(UnzipInflate);
  unzip.onfile = (file) => {
    file.ondata = (error, chunk) => {
      isBroken ||= error !== null;
      total += chunk?.length ?? 0;
    };
    file.start();
  };
  try {
    for (let at = 0; at < bytes.length && total <= maxUnpacked && !isBroken; at += PIECE)
      unzip.push(bytes.subarray(at, at + PIECE), at + PIECE >= bytes.length);
  } catch {
    isBroken = true;
  }
  if (total > maxUnpacked)
    return {
      code: 'too-large',
      message: `The workbook unpacks to more than ${maxUnpacked / 1_000_000} MB.`,
      remedy: 'Leave out what is not needed, or split it.',
    };
  if (isBroken)
    return { code: 'workbook', message: 'The workbook is damaged: it does not unpack.', remedy: 'Open it in a spreadsheet and save it again.' };
  return null;
}
