'use client';
/** Rows of a list as they are understood; only those on the screen are drawn. */
import { useVirtualizer } from '@tanstack/react-virtual';
import { Check, X } from 'lucide-react';
import { useRef } from 'react';
import type { ListPreview, UnderstoodRow } from '@/core/taglist/understand.ts';

const ROW = 31;
const COLUMNS = 'grid grid-cols-[3.5rem_1.8fr_1fr_1fr_1fr_1fr_0.8fr_3.2fr] gap-x-3 px-3';

export function ListPreviewTable({ preview }: { readonly preview: ListPreview }) {
  const scroller = useRef<HTMLDivElement>(null);
  // The rows that cannot be taken come first: they are what there is to do.
  const rows = [...preview.rows].sort((a, b) => Number(b.problems.length > 0) - Number(a.problems.length > 0) || a.row - b.row);
  // eslint-disable-next-line react-hooks/incompatible-library -- the virtualizer's functions are used only while drawing
  const virtual = useVirtualizer({ count: rows.length, getScrollElement: () => scroller.current, estimateSize: () => ROW, overscan: 12 });
  return (
    <div className="card-flat flex min-h-40 flex-1 flex-col text-[13px]" role="table" aria-label="Rows of the list" aria-rowcount={rows.length}>
      <div role="row" className={`${COLUMNS} quiet border-base-300 h-8 items-center border-b font-semibold`}>
        {['Row', 'Tag', 'Address', 'Is', 'Type', 'Group', 'Unit', 'Comment, or what is wrong'].map((heading) => (
          <span key={heading} role="columnheader">
            {heading}
          </span>
        ))}
      </div>
      <div ref={scroller} className="min-h-0 flex-1 overflow-auto" tabIndex={0} role="rowgroup" aria-label="Rows">
        <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {virtual.getVirtualItems().map((item) => {
            const row = rows[item.index];
            return row ? <Row key={row.row} row={row} top={item.start} /> : null;
          })}
        </div>
      </div>
    </div>
  );
}

function Row({ row, top }: { readonly row: UnderstoodRow; readonly top: number }) {
  const { cells, tag, problems } = row;
  const wrong = problems.map((p) => `${p.place?.replace(/^row \d+, /, '') ?? ''}: ${p.message} ${p.remedy ?? ''}`).join(' ');
  return (
    <div
      role="row"
      data-row={row.row}
      data-understood={tag !== null}
      className={`${COLUMNS} border-base-300 absolute inset-x-0 items-center border-b`}
      style={{ height: ROW, transform: `translateY(${top}px)` }}
    >
      <span role="cell" className={`num flex items-center gap-1 ${tag ? 'is-good' : 'is-bad'}`}>
        {tag ? <Check size={13} aria-label="understood" /> : <X size={13} aria-label="not understood" />}
        {row.row}
      </span>
      <span role="cell" className="truncate font-medium">
        {cells.name}
      </span>
      <span role="cell" className="num truncate">
        {cells.address}
      </span>
      <span role="cell" className="num truncate">
        {tag?.canonical ?? '–'}
      </span>
      <span role="cell" className="num truncate">
        {tag?.type ?? cells.type}
      </span>
      <span role="cell" className="truncate">
        {cells.group}
      </span>
      <span role="cell" className="truncate">
        {cells.unit}
      </span>
      <span role="cell" className={`truncate ${wrong ? 'is-bad' : 'quiet'}`} title={wrong || cells.comment}>
        {wrong || cells.comment}
      </span>
    </div>
  );
}
