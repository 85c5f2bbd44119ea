'use client';
/** How exact the tag can be, in a few lines. */
import { useMemo } from 'react';
import { errorBudget } from '@/core/errorBudget.ts';
import type { SignalDefinition } from '@/core/signal.ts';

export function ErrorBudgetCard({ def }: { readonly def: SignalDefinition }) {
  const budget = useMemo(() => errorBudget(def), [def]);
  if (!budget) return null;
  const { worth, decimals, writing, showing, alike, straightLine, example } = budget;
  const unit = def.unit ? ` ${def.unit}` : '';
  const short = (value: number): string => String(Number(value.toPrecision(3)));
  const rows: (readonly [what: string, value: string, note: string])[] = [];
  if (worth)
    rows.push([
      'A count is worth',
      `${worth.most - worth.least < worth.most * 1e-6 ? short(worth.most) : `${short(worth.least)} to ${short(worth.most)}`}${unit}`,
      '',
    ]);
  if (decimals !== null)
    rows.push([
      'Decimals that make sense',
      String(decimals),
      def.decimals === null || def.decimals === decimals
        ? ''
        : def.decimals > decimals
          ? `it shows ${def.decimals}: the last ones say nothing`
          : `it shows ${def.decimals}`,
    ]);
  rows.push(['Rounded away when it is shown', showing === 0 ? 'nothing' : `up to ${short(showing)}${unit}`, '']);
  rows.push([
    'Rounded away when it is written',
    writing === null ? 'it cannot be written' : writing === 0 ? 'nothing' : `up to ${short(writing)}${unit}`,
    '',
  ]);
  rows.push([
    'What is shown, entered again',
    alike ? `one of ${alike.to - alike.from + 1} raw values` : 'the same raw value',
    alike ? `${alike.text}${unit} stands for raw ${alike.from} to ${alike.to}` : '',
  ]);
  if (straightLine)
    rows.push([
      'A straight line would be off by',
      `up to ${short(straightLine.most)}${unit}`,
      `${short(straightLine.part * 100)} % of the span, at raw ${short(straightLine.at)}`,
    ]);
  if (example) rows.push([`Whoever asks for ${example.asked}${unit}`, `sees ${example.shown}${unit}`, `the controller holds ${example.held}${unit}`]);
  return (
    <details className="card-flat p-4" data-error-budget>
      <summary className="cursor-pointer font-semibold">Error budget</summary>
      <table className="table-xs mt-2 w-full">
        <tbody>
          {rows.map(([what, value, note]) => (
            <tr key={what}>
              <th scope="row" className="text-left font-normal">
                {what}
                {note === '' ? null : <span className="quiet block">{note}</span>}
              </th>
              <td className="num text-right align-top">{value}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </details>
  );
}
