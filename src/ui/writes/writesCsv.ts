/** The log of writes as CSV (RFC 4180): a text in it cannot start a formula in a spreadsheet. */
import { FORMULA } from '@/core/csvGuard.ts';
import Papa from 'papaparse';
import type { WriteRecord } from '@/core/live/writeOutcome.ts';
import { formatValue, fromJson, type ValueJson } from '@/core/value/engineering.ts';

export function writesCsv(writes: readonly WriteRecord[]): string {
  return Papa.unparse(
    {
      fields: ['at', 'tag', 'device', 'before', 'asked', 'sent', 'held', 'origin', 'unlocked by', 'signed in', 'outcome', 'note'],
      data: writes.map((w) => [
        w.at,
        w.tagName,
        w.deviceName,
        valueText(w.old),
        valueText(w.asked),
        valueText(w.sent),
        valueText(w.held),
        w.origin,
        w.who,
        w.by,
        w.state,
        w.note,
      ]),
    },
    { newline: '\r\n', escapeFormulae: FORMULA },
  );
}

export function valueText(json: ValueJson | null): string {
  const value = json === null ? null : fromJson(json);
  return value?.ok ? formatValue(value.value, null) : '';
}

/** For a narrow column: seven significant digits of a number, all of anything else. The whole is in the tooltip and the CSV. */
export function shortText(json: ValueJson | null): string {
  return json?.kind === 'number' && typeof json.value === 'number' ? formatValue(Number(json.value.toPrecision(7)), null) : valueText(json);
}
