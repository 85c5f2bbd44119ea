/** The results as CSV (RFC 4180): a text in it cannot start a formula in a spreadsheet. */
import Papa from 'papaparse';
import { FORMULA } from '../../csvGuard.ts';
import type { CheckReport } from './report.ts';

export function reportCsv({ rows, head }: CheckReport): string {
  return Papa.unparse(
    {
      fields: [
        'tag',
        'where',
        'unit',
        'outcome',
        'proof now',
        'compared',
        'witness',
        'how',
        'by',
        'at',
        'not ruled out',
        'notes',
        'photos',
        'finding',
        'cure',
        'trail head',
      ],
      data: rows.map((row) => [
        ...[row.name, row.where, row.unit, row.state, row.proofNow, row.sentence, row.witness, row.how, row.who, row.at],
        ...[row.open.join('; '), row.notes.join('; '), row.photos.join(' '), row.finding, row.cure, head.hash],
      ]),
    },
    { newline: '\r\n', escapeFormulae: FORMULA },
  );
}
