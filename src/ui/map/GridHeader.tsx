'use client';
/** The titles of the map's columns: pressed they sort, their edges are drawn to other widths. */
import { memo } from 'react';
import type { ColumnKey, MapColumn } from './columns.ts';
import type { SetWidth, Sort } from './mapView.ts';
import { WidthHandle } from './WidthHandle.tsx';

interface GridHeaderProps {
  readonly columns: readonly MapColumn[];
  readonly template: string;
  readonly sort: Sort | null;
  readonly onSort: (key: ColumnKey) => void;
  readonly onWidth: SetWidth;
}

/** While the map is scrolled it stays as it is. */
export const GridHeader = memo(function GridHeader({ columns, template, sort, onSort, onWidth }: GridHeaderProps) {
  return (
    <div
      role="row"
      aria-rowindex={1}
      className="bg-base-200 border-base-300 sticky top-0 z-10 grid h-8 items-center border-b px-3 font-semibold"
      style={{ gridTemplateColumns: template }}
    >
      {columns.map((c) => (
        <span
          key={c.key}
          role="columnheader"
          aria-sort={sort?.key === c.key ? (sort.isDown ? 'descending' : 'ascending') : undefined}
          className={`relative truncate pr-3 ${c.right ? 'text-right' : ''}`}
        >
          <button type="button" tabIndex={-1} className="font-semibold" title={`Sort by ${c.title.toLowerCase()}`} onClick={() => onSort(c.key)}>
            {c.title}
            {sort?.key === c.key ? (sort.isDown ? ' ↓' : ' ↑') : ''}
          </button>
          <WidthHandle title={c.title} onWidth={(width) => onWidth(c.key, width)} />
        </span>
      ))}
    </div>
  );
});
