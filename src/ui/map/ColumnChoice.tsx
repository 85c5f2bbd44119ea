'use client';
import { Columns3 } from 'lucide-react';
import { MAP_COLUMNS, type MapColumn } from './columns.ts';

/** Which columns of the map are shown. */
export function ColumnChoice({
  isShown,
  onToggle,
}: {
  readonly isShown: (column: MapColumn) => boolean;
  readonly onToggle: (column: MapColumn) => void;
}) {
  return (
    <details className="dropdown dropdown-end">
      <summary className="btn btn-sm btn-outline btn-square" aria-label="Columns" title="Columns">
        <Columns3 size={14} aria-hidden />
      </summary>
      <ul className="dropdown-content flex flex-col bg-base-100 hairline z-20 w-48 p-2 text-[13px] shadow-none">
        {MAP_COLUMNS.filter(({ key }) => key !== 'name').map((column) => (
          <li key={column.key}>
            <label className="flex items-center gap-2 py-1">
              <input type="checkbox" className="checkbox checkbox-xs" checked={isShown(column)} onChange={() => onToggle(column)} />
              {column.title}
            </label>
          </li>
        ))}
      </ul>
    </details>
  );
}
