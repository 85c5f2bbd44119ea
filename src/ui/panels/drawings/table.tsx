'use client';
import { useState } from 'react';
import { HEADINGS } from '@/core/panel/sceneWording.ts';
import { settingsOf } from '@/core/panel/kinds.ts';
import { useStage } from '../SceneContext.tsx';
import { useMeasured } from '../useMeasured.ts';
import { useTagViews } from '../useValues.ts';
import type { DrawingProps } from './drawing.ts';
import { TableCell } from './TableCell.tsx';

const LINES_PX = 2;
const widthOf = (table: HTMLElement): number => table.offsetWidth;

/** Where it is too narrow for its columns each row becomes a list of them: a column cut at the edge could be read as another number. */
export function TableDrawing({ element, w }: DrawingProps) {
  const { cells, columns, columnNames, rowNames, units } = settingsOf('table', element);
  const { scene } = useStage();
  const views = useTagViews(cells);
  const [table, setTable] = useState<HTMLTableElement | null>(null);
  const isListed = (useMeasured(table, widthOf) ?? 0) > w - LINES_PX;
  const heads = columnNames === '' ? [] : columnNames.split(HEADINGS);
  const names = rowNames === '' ? [] : rowNames.split(HEADINGS);
  const rows = Array.from({ length: Math.ceil(cells.length / columns) }, (_, r) => cells.slice(r * columns, (r + 1) * columns));
  const cell = (id: string, r: number, c: number, as: 'td' | 'dd') => (
    <TableCell key={c} as={as} tag={scene.tag(id)} view={views[r * columns + c] ?? null} hasUnit={units} units={scene.panel.units} />
  );
  return (
    <div className="bg-base-100 hairline h-full w-full overflow-x-hidden overflow-y-auto rounded-md text-[14px]">
      {isListed ? (
        <>
          {element.label === '' ? null : <p className="quiet px-3 pt-1 text-[13px]">{element.label}</p>}
          {rows.map((row, r) => (
            <section key={r} className="border-base-300 border-t py-1" aria-label={names[r]}>
              {names[r] ? <h3 className="truncate px-2 font-semibold">{names[r]}</h3> : null}
              <dl>
                {row.map((id, c) => (
                  <div key={c} className="flex justify-between gap-2">
                    <dt className="quiet min-w-0 truncate px-2">{heads[c] ?? ''}</dt>
                    {cell(id, r, c, 'dd')}
                  </div>
                ))}
              </dl>
            </section>
          ))}
        </>
      ) : (
        <table ref={setTable} className="w-full border-collapse">
          {element.label === '' ? null : <caption className="quiet px-3 pt-1 text-left text-[13px]">{element.label}</caption>}
          {heads.length === 0 ? null : (
            <thead>
              <tr>
                {names.length === 0 ? null : <td />}
                {Array.from({ length: columns }, (_, c) => (
                  <th key={c} scope="col" className="quiet px-2 py-1 text-right font-normal">
                    {heads[c] ?? ''}
                  </th>
                ))}
              </tr>
            </thead>
          )}
          <tbody>
            {rows.map((row, r) => (
              <tr key={r} className="border-base-300 border-t">
                {names.length === 0 ? null : (
                  <th scope="row" className="px-2 py-1 text-left font-semibold whitespace-nowrap">
                    {names[r] ?? ''}
                  </th>
                )}
                {row.map((id, c) => cell(id, r, c, 'td'))}
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {cells.length === 0 ? <p className="quiet p-3">No tags yet: choose them in its settings.</p> : null}
    </div>
  );
}
