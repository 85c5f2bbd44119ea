'use client';
/** Rows of one part of a draft; only those on the screen are asked for and drawn. */
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useRef, useState } from 'react';
import type { DraftPart, DraftRow, DraftRows } from '@/core/taglist/draft.ts';
import type { UnderstoodRow } from '@/core/taglist/understand.ts';
import { call } from '../live/api.ts';
import { DraftRowLine, LINE_COLUMNS, LINE_HEADINGS } from './DraftRowLine.tsx';

const ROW = 31;
const PAGE = 100;

export interface Decided {
  readonly renames: ReadonlySet<string>;
  readonly bytes: ReadonlySet<string>;
  toggle(kind: 'renames' | 'bytes', name: string): void;
}

export function DraftTable({
  draftId,
  part,
  decided,
  onOpen,
}: {
  readonly draftId: string;
  readonly part: DraftPart;
  readonly decided: Decided | null;
  /** Shows a row whole. */
  readonly onOpen: (row: UnderstoodRow) => void;
}) {
  const scroller = useRef<HTMLDivElement>(null);
  const [pages, setPages] = useState<ReadonlyMap<number, readonly DraftRow[]>>(new Map());
  const [total, setTotal] = useState<number | null>(null);
  const asked = useRef(new Set<number>());
  // eslint-disable-next-line react-hooks/incompatible-library -- the virtualizer's functions are used only while drawing
  const virtual = useVirtualizer({ count: total ?? 0, getScrollElement: () => scroller.current, estimateSize: () => ROW, overscan: 12 });
  const items = virtual.getVirtualItems();
  const [firstPage, lastPage] = [Math.floor((items[0]?.index ?? 0) / PAGE), Math.floor((items.at(-1)?.index ?? 0) / PAGE)];

  useEffect(() => {
    for (let page = firstPage; page <= lastPage; page++) {
      if (asked.current.has(page)) continue;
      asked.current.add(page);
      void call<DraftRows>('GET', `/lists/drafts/${draftId}/rows?part=${part}&from=${page * PAGE}&limit=${PAGE}`).then((told) => {
        if (!told.ok) {
          asked.current.delete(page);
          return;
        }
        setTotal(told.value.total);
        setPages((now) => new Map(now).set(page, told.value.rows));
      });
    }
  }, [draftId, part, firstPage, lastPage]);

  return (
    <div className="card-flat flex min-h-40 flex-1 flex-col text-[13px]" role="table" aria-label="Rows of the list" aria-rowcount={total ?? 0}>
      <div role="row" className={`${LINE_COLUMNS[part]} quiet border-base-300 h-8 items-center border-b font-semibold`}>
        {LINE_HEADINGS[part].map((heading) => (
          <span key={heading} role="columnheader">
            {heading}
          </span>
        ))}
      </div>
      <div ref={scroller} className="min-h-0 flex-1 overflow-auto" tabIndex={0} role="rowgroup" aria-label="Rows">
        {total === 0 ? <p className="quiet p-4">Nothing here.</p> : null}
        <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {items.map((item) => {
            const row = pages.get(Math.floor(item.index / PAGE))?.[item.index % PAGE];
            return (
              <div
                key={item.key}
                className="border-base-300 absolute inset-x-0 border-b"
                style={{ height: ROW, transform: `translateY(${item.start}px)` }}
              >
                {row ? <DraftRowLine row={row} part={part} decided={decided} onOpen={onOpen} /> : null}
              </div>
            );
          })}
        </div>
      </div>
    </div>
  );
}
