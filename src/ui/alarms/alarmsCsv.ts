/** What became of alarms as CSV (RFC 4180): a text in it cannot start a formula in a spreadsheet. */
import Papa from 'papaparse';
import { FORMULA } from '@/core/csvGuard.ts';
import type { AlarmRecord } from '@/core/alarm/alarmLine.ts';

export function alarmsCsv(records: readonly AlarmRecord[]): string {
  return Papa.unparse(
    {
      fields: ['at', 'event', 'text', 'priority', 'group', 'by', 'note'],
      data: records.map(({ at, kind, text, priority, group, by, note }) => [at, kind, text, priority, group, by, note]),
    },
    { newline: '\r\n', escapeFormulae: FORMULA },
  );
}
