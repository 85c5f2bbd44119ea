/** Tags as a list in the columns that come in: what goes out can be brought in again. */
import Papa from 'papaparse';
import type { Tag } from '../project/entities.ts';

const FIELDS = ['Name', 'Address', 'Data type', 'Order', 'Access', 'Unit', 'Decimals', 'Low', 'High', 'Period', 'Group', 'Comment'];

/** RFC 4180. A text that a spreadsheet would take for a formula gets an apostrophe in front. */
export function writeList(tags: readonly Tag[]): string {
  const text = (value: number | null): string => (value === null ? '' : String(value));
  return Papa.unparse(
    {
      fields: FIELDS,
      data: tags.map((t) => [
        t.name,
        t.address,
        t.type,
        t.order,
        t.access === 'readWrite' ? 'RW' : 'R',
        t.unit,
        text(t.decimals),
        text(t.rangeLow),
        text(t.rangeHigh),
        String(t.periodMs),
        t.group,
        t.comment,
      ]),
    },
    { newline: '\r\n', escapeFormulae: /^[=+@\t\r]|^-(?!\d)/ },
  );
}
