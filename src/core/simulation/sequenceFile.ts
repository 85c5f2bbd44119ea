/** A sequence from a CSV: seconds from the beginning, and the value from then on; a line of headings may stand before. */
import Papa from 'papaparse';
import { fail, ok, type Result } from '../result.ts';
import { MOST_STEPS, type SequenceStep } from './behaviour.ts';

export function readSequence(text: string): Result<readonly SequenceStep[]> {
  const { data } = Papa.parse<string[]>(text.replace(/^\uFEFF/, '').trim(), { skipEmptyLines: 'greedy', delimitersToGuess: [';', '\t', ','] });
  const rows = data.map((cells) => cells.map((cell) => cell.trim()));
  const isHeading = rows[0] !== undefined && secondsIn(rows[0][0] ?? '') === null;
  const steps: SequenceStep[] = [];
  for (const [i, cells] of rows.entries()) {
    if (i === 0 && isHeading) continue;
    const place = `row ${i + 1}`;
    const at = secondsIn(cells[0] ?? '');
    if (at === null || at < 0)
      return fail('sequence', `“${cells[0] ?? ''}” is no number of seconds.`, 'The first column is the time in seconds.', place);
    if (cells[1] === undefined || cells[1] === '') return fail('sequence', 'There is no value.', 'The second column is the value.', place);
    if (cells.slice(2).some((cell) => cell !== '')) return fail('sequence', 'There are more than two columns.', 'Leave time and value.', place);
    const before = steps.at(-1)?.at ?? -1;
    if (at <= before) return fail('sequence', `${at} s is not after ${before} s.`, 'Put the rows in order.', place);
    // Panels take a point; what a spreadsheet wrote with a comma is the same number.
    steps.push({ at, value: /^[+-]?\d+,\d+$/.test(cells[1]) ? cells[1].replace(',', '.') : cells[1] });
    if (steps.length > MOST_STEPS) return fail('sequence', `There are more than ${MOST_STEPS} rows.`, 'Make it shorter.', place);
  }
  const [first] = steps;
  if (!first) return fail('sequence', 'There is no row.', 'Each row has a time in seconds and a value.');
  // What is measured begins at some time of its own.
  return ok(steps.map(({ at, value }) => ({ at: at - first.at, value })));
}

/** With a point or, where columns are not parted by it, a comma. */
function secondsIn(cell: string): number | null {
  return /^[+-]?\d+(?:[.,]\d+)?$/.test(cell) ? Number(cell.replace(',', '.')) : null;
}
