/** Reads a tag list from delimited text (RFC 4180, and its cousins with semicolon, tab or pipe). */
import Papa from 'papaparse';
import { firstOfEach } from '../firstOfEach.ts';
import type { Problem } from '../result.ts';
import { MAX_LIST_BYTES, MAX_PROBLEMS } from './limits.ts';
import { listOfTable, unreadable, type ReadingChoices, type ReadList } from './readList.ts';
import { DELIMITERS } from './written.ts';

export function readDelimited(text: string, choices: ReadingChoices = {}): ReadList {
  const nothing = (problem: Problem): ReadList => unreadable('delimited', problem);
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
  // Lines may end in several ways in one file: parts of it were written by different programs.
  const parsed = Papa.parse<string[]>(text.replace(/^\uFEFF/, '').replace(/\r\n?/g, '\n'), {
    skipEmptyLines: false,
    newline: '\n',
    delimiter: choices.delimiter ?? '',
    delimitersToGuess: [...DELIMITERS],
  });
  const quotes = parsed.errors.filter((e) => e.type === 'Quotes');
  const problems = firstOfEach(quotes, (e) => e.row)
    .slice(0, MAX_PROBLEMS)
    .map((e) => ({
      code: 'quotes',
      message: e.code === 'MissingQuotes' ? 'A quoted cell is never closed.' : 'A quote stands in the middle of a cell.',
      remedy: 'Close the quotes, and double a quote that belongs to the text.',
      place: quotePlace(parsed.data, e.row ?? 0, e.code),
    }));
  const delimiter = DELIMITERS.find((d) => d === parsed.meta.delimiter) ?? ',';
  return listOfTable('delimited', { rows: parsed.data }, choices, { delimiter, problems });
}

/** The cell that a quoting error is about: one never closed swallows the rest, so it is its row's last. */
function quotePlace(data: readonly (readonly string[])[], row: number, code: string): string {
  const cells = data[row] ?? [];
  const quoted = cells.findIndex((cell) => cell.includes('"'));
  return `row ${row + 1}, column ${code === 'MissingQuotes' || quoted < 0 ? cells.length : quoted + 1}`;
}
