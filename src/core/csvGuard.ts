/**
 * Texts in CSV that a spreadsheet would take for a formula get an apostrophe in front; numbers stay numbers. OWASP, CSV
 * Injection (from memory): = + - @, tab and carriage return begin one.
 */

/** What gets the apostrophe, for papaparse's `escapeFormulae`; also what has one already, so that it comes back the same. */
export const FORMULA = /^'+[=+@\t\r-]|^[=+@\t\r]|^-(?!(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?$)/;

/** The apostrophe is none of the text. */
export function withoutGuard(cell: string): string {
  return /^'+[=+@\t\r-]/.test(cell) ? cell.slice(1) : cell;
}
