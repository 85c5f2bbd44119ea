'use client';
/** The texts of a panel and what each is in one language, to be filled in. */
import { useVirtualizer } from '@tanstack/react-virtual';
import { useMemo, useRef, useState } from 'react';
import type { TextRow } from '@/core/panel/textTable.ts';
import { translationOf } from '@/core/panel/wording.ts';
import { useChange, useProject } from '../../live/LiveContext.tsx';
import { translationChanges } from './translationChanges.ts';

const ROW_PX = 34;
const SHOWN = { all: 'all', missing: 'missing', 'too long': 'too long' } as const;
type Shown = keyof typeof SHOWN;

interface TextRowsProps {
  readonly rows: readonly TextRow[];
  /** Which of the languages. */
  readonly at: number;
  readonly code: string;
}

export function TextRows({ rows, at, code }: TextRowsProps) {
  const [filter, setFilter] = useState('');
  const [shown, setShown] = useState<Shown>('all');
  const found = useMemo(() => {
    const wanted = filter.trim().toLowerCase();
    return rows.filter(
      ({ source, where, said, marks }) =>
        (shown === 'all' || marks[at] === shown) && (wanted === '' || `${source} ${where} ${said[at] ?? ''}`.toLowerCase().includes(wanted)),
    );
  }, [rows, at, filter, shown]);
  const scroller = useRef<HTMLDivElement>(null);
  // eslint-disable-next-line react-hooks/incompatible-library -- rows are drawn as they are scrolled to
  const virtual = useVirtualizer({ count: found.length, getScrollElement: () => scroller.current, estimateSize: () => ROW_PX, overscan: 8 });
  return (
    <div className="flex flex-col gap-1">
      <div className="flex items-center gap-2">
        <input
          className="input input-sm w-56"
          type="search"
          aria-label="Find a text"
          placeholder="Find a text"
          value={filter}
          onChange={(e) => setFilter(e.target.value)}
        />
        <select className="select select-sm w-32" aria-label="Texts shown" value={shown} onChange={(e) => setShown(e.target.value as Shown)}>
          {Object.entries(SHOWN).map(([one, words]) => (
            <option key={one} value={one}>
              {words}
            </option>
          ))}
        </select>
        <span className="quiet text-xs">
          {found.length} of {rows.length} texts
        </span>
      </div>
      <div ref={scroller} className="hairline h-64 overflow-auto rounded" role="table" aria-label="Texts" aria-rowcount={found.length}>
        {found.length === 0 ? (
          <p className="quiet p-3 text-sm">{rows.length === 0 ? 'The panel says nothing yet.' : 'No text is like that.'}</p>
        ) : null}
        <div className="relative" style={{ height: virtual.getTotalSize() }}>
          {virtual.getVirtualItems().map(({ index, start }) => {
            const row = found[index];
            return row ? <Row key={row.source} row={row} at={at} code={code} top={start} n={index + 1} /> : null;
          })}
        </div>
      </div>
    </div>
  );
}

interface RowProps {
  readonly row: TextRow;
  readonly at: number;
  readonly code: string;
  readonly top: number;
  readonly n: number;
}

function Row({ row: { source, where, said, marks }, at, code, top, n }: RowProps) {
  const project = useProject();
  const change = useChange();
  const text = said[at] ?? '';
  const [typed, setTyped] = useState<string | null>(null);
  const kept = typed === null || typed.trim() === '' ? null : translationOf(source, typed);
  const wrong = kept?.ok === false ? `${kept.problem.message} ${kept.problem.remedy ?? ''}` : '';
  const keep = async (): Promise<void> => {
    const after = typed?.trim() ?? text;
    if (wrong !== '') return;
    setTyped(null);
    if (after !== text)
      await change(`“${source.slice(0, 40)}” in ${code}`, translationChanges(project, [{ language: code, source, before: text, after }]));
  };
  const mark = marks[at] ?? '';
  return (
    <div
      role="row"
      aria-rowindex={n}
      className="border-base-300 absolute inset-x-0 grid items-center gap-2 border-b px-2 text-[13px]"
      style={{ top, height: ROW_PX, gridTemplateColumns: '1fr 9rem 1.2fr 5rem' }}
      data-source={source}
    >
      <span role="cell" className="truncate" title={source} dir="auto">
        {source.replaceAll('\n', ' ↵ ')}
      </span>
      <span role="cell" className="quiet truncate text-[12px]" title={where}>
        {where}
      </span>
      <span role="cell">
        <textarea
          rows={1}
          lang={code}
          dir="auto"
          aria-label={`${source.slice(0, 80)} in ${code}`}
          aria-invalid={wrong !== ''}
          title={wrong || undefined}
          className={`textarea textarea-xs h-7 min-h-7 w-full resize-none text-[13px] ${wrong ? 'textarea-error' : ''}`}
          value={typed ?? text}
          maxLength={2000}
          onChange={(e) => setTyped(e.target.value)}
          onBlur={() => void keep()}
          onKeyDown={(e) => {
            if (e.key === 'Enter' && !e.shiftKey) {
              e.preventDefault();
              e.currentTarget.blur();
            }
            if (e.key === 'Escape' && typed !== null) {
              e.preventDefault();
              setTyped(null);
            }
          }}
        />
      </span>
      <span role="cell" className={`truncate text-[12px] ${wrong ? 'is-bad' : mark === 'too long' ? 'is-look' : 'quiet'}`} title={wrong || undefined}>
        {wrong ? '✕ a value is lost' : mark === 'too long' ? '◑ too long' : mark}
      </span>
    </div>
  );
}
