'use client';
import { settingsOf } from '@/core/panel/kinds.ts';
import { useStage } from '../SceneContext.tsx';
import { useTagViews } from '../useValues.ts';
import type { DrawingProps } from './drawing.ts';
import { TableCell } from './TableCell.tsx';

const LIST = /\s*[|;\n]\s*/;

export function TableDrawing({ element }: DrawingProps) {
  const { cells, columns, columnNames, rowNames, units } = settingsOf('table', element);
  const { scene } = useStage();
  const views = useTagViews(cells);
  const heads = columnNames === '' ? [] : columnNames.split(LIST);
  const names = rowNames === '' ? [] : rowNames.split(LIST);
  const rows = Array.from({ length: Math.ceil(cells.length / columns) }, (_, r) => cells.slice(r * columns, (r + 1) * columns));
  return (
    <div className="bg-base-100 hairline h-full w-full overflow-auto rounded-md">
      <table className="w-full border-collapse text-[14px]">
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
              {row.map((id, c) => (
                <TableCell key={c} tag={scene.tag(id)} view={views[r * columns + c] ?? null} hasUnit={units} units={scene.panel.units} />
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {cells.length === 0 ? <p className="quiet p-3">No tags yet: choose them in its settings.</p> : null}
    </div>
  );
}
