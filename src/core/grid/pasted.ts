/** Blocks of cells as spreadsheets put them on the clipboard: tabs between cells, lines between rows, quoted where needed. */
import Papa from 'papaparse';

export const MOST_PASTED_ROWS = 20_000;

/** @returns rows of cells; the line end of the last row makes no row of its own */
export function cellsOf(text: string): readonly (readonly string[])[] {
  const plain = text.replace(/\r\n?/g, '\n').replace(/\n$/, '');
  return Papa.parse<string[]>(plain, { delimiter: '\t', newline: '\n', skipEmptyLines: false }).data;
}

export function textOfCells(rows: readonly (readonly string[])[]): string {
  return Papa.unparse(
    rows.map((row) => [...row]),
    { delimiter: '\t', newline: '\n' },
  );
}
