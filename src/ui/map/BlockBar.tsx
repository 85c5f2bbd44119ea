'use client';
/** What can be done to the rows that are selected. */
import { CopyPlus, ListOrdered, Replace, Trash2, X, ArrowDownToLine } from 'lucide-react';
import { useState } from 'react';

export interface BlockActions {
  readonly fill: () => void;
  /** @param by null for the usual step */
  readonly countOn: (by: number | null) => void;
  readonly replace: () => void;
  readonly duplicate: () => void;
  readonly remove: () => void;
}

interface BlockBarProps {
  readonly rows: number;
  readonly columns: string;
  readonly act: BlockActions;
  readonly onLeave: () => void;
}

export function BlockBar({ rows, columns, act, onLeave }: BlockBarProps) {
  const [by, setBy] = useState('');
  const step = /^-?\d{1,6}$/.test(by.trim()) ? Number(by) : null;
  return (
    <div className="bg-base-200 border-base-300 flex items-center gap-2 border-b px-3 py-1" role="toolbar" aria-label="Selected tags">
      <strong>{rows} tags</strong>
      <span className="quiet max-w-56 truncate" title={columns}>
        {columns}
      </span>
      <span className="flex-1" />
      <button type="button" className="btn btn-xs btn-outline" title="The first row in all others (Ctrl+D)" onClick={act.fill}>
        <ArrowDownToLine size={13} aria-hidden /> Fill down
      </button>
      <span className="join">
        <button
          type="button"
          className="btn btn-xs btn-outline join-item"
          title="The first row counts on: names by one, addresses by what a value takes, masks by their bits (Ctrl+Shift+D)"
          onClick={() => act.countOn(step)}
        >
          <ListOrdered size={13} aria-hidden /> Count on
        </button>
        <input
          aria-label="Count on by"
          placeholder="by"
          className="input input-xs join-item num w-14"
          value={by}
          onChange={(e) => setBy(e.target.value)}
          onKeyDown={(e) => e.key === 'Enter' && act.countOn(step)}
        />
      </span>
      <button type="button" className="btn btn-xs btn-outline" title="Ctrl+H" onClick={act.replace}>
        <Replace size={13} aria-hidden /> Replace
      </button>
      <button type="button" className="btn btn-xs btn-outline" onClick={act.duplicate}>
        <CopyPlus size={13} aria-hidden /> Duplicate
      </button>
      <button type="button" className="btn btn-xs btn-ghost is-bad" title="Del" onClick={act.remove}>
        <Trash2 size={13} aria-hidden /> Remove
      </button>
      <button type="button" className="btn btn-xs btn-ghost btn-square" aria-label="Leave the selection" onClick={onLeave}>
        <X size={13} aria-hidden />
      </button>
    </div>
  );
}
