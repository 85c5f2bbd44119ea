'use client';
/** A table of test values, as it is shown and as it is taken along. */
import { useMemo } from 'react';
import Papa from 'papaparse';
import { FORMULA } from '@/core/csvGuard.ts';
import { rawText, type SignalDefinition } from '@/core/signal.ts';
import { testValues } from '@/core/testValues.ts';
import { useRadix } from '../live/radix.ts';
import { saveCsv } from '../parts/saveCsv.ts';

export function TestValues({ name, def }: { readonly name: string; readonly def: SignalDefinition }) {
  const radix = useRadix();
  const rows = useMemo(() => testValues(def), [def]);
  const save = (): void => {
    const data = rows.map(({ what, raw, text, why }) => [what, rawText(def.type, raw), text, def.unit, why]);
    saveCsv(
      `${name} test values.csv`,
      Papa.unparse({ fields: ['what', 'raw', 'shows', 'unit', 'note'], data }, { newline: '\r\n', escapeFormulae: FORMULA }),
    );
  };
  return (
    <details className="card-flat p-4" data-test-values>
      <summary className="cursor-pointer font-semibold">Test values</summary>
      <table className="table-xs mt-2 w-full">
        <thead>
          <tr className="text-left text-xs">
            <th scope="col">What</th>
            <th scope="col" className="text-right">
              Raw
            </th>
            <th scope="col" className="text-right">
              Shows
            </th>
          </tr>
        </thead>
        <tbody>
          {rows.map(({ what, raw, text, why }) => (
            <tr key={String(raw)}>
              <td>
                {what}
                {why === '' ? null : <span className="is-look block">{why}</span>}
              </td>
              <td className="num text-right align-top">{rawText(def.type, raw, radix)}</td>
              <td className="num text-right align-top whitespace-nowrap">
                {text} {text === '–' ? '' : def.unit}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <button type="button" className="btn btn-xs btn-outline mt-2" onClick={save}>
        Save as CSV
      </button>
    </details>
  );
}
