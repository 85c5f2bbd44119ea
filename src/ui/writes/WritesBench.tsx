'use client';
/** The log of writes to machines: what was asked, what is held, who and when; filtered, and exported as CSV. */
import { counted } from '@/core/counted.ts';
import { useVirtualizer } from '@tanstack/react-virtual';
import { Download, Search } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import { WRITERS, type Writer } from '@/core/live/status.ts';
import type { WriteRecord, WriteState } from '@/core/live/writeOutcome.ts';
import { call } from '../live/api.ts';
import { useLive } from '../live/liveHooks.ts';
import { dayAndTime } from '../parts/moment.ts';
import { saveCsv } from '../parts/saveCsv.ts';
import { useLoaded } from '../parts/useLoaded.ts';
import { shortText, valueText, writesCsv } from './writesCsv.ts';

const ROW = 31;
const SHOWN = 1000;
const EXPORTED = 10_000;
const COLUMNS = 'grid grid-cols-[11.5rem_1.2fr_0.7fr_0.8fr_0.8fr_0.8fr_0.8fr_0.6fr_0.8fr_2.4fr] gap-x-3 px-3';

const STATES: Readonly<Record<WriteState, { readonly mark: string; readonly words: string; readonly tone: string }>> = {
  sent: { mark: '…', words: 'on its way', tone: 'quiet' },
  done: { mark: '●', words: 'done', tone: 'is-good' },
  differs: { mark: '◑', words: 'differs', tone: 'is-look' },
  refused: { mark: '✕', words: 'refused', tone: 'is-bad' },
  unknown: { mark: '?', words: 'unknown', tone: 'is-bad' },
  changedBack: { mark: '↺', words: 'changed back', tone: 'is-look' },
};
export const ORIGIN_WORDS: Readonly<Record<Writer, string>> = { engineer: 'bench', panel: 'panel', rule: 'rule', check: 'check' };

interface Filter {
  readonly text: string;
  readonly state: string;
  readonly origin: string;
}

function queryOf({ text, state, origin }: Filter, limit: number): string {
  const query = new URLSearchParams({ limit: String(limit) });
  if (text.trim()) query.set('text', text.trim());
  if (state) query.set('state', state);
  if (origin) query.set('origin', origin);
  return `/writes?${query.toString()}`;
}

export function WritesBench() {
  const live = useLive();
  const [filter, setFilter] = useState<Filter>({ text: '', state: '', origin: '' });
  const [round, setRound] = useState(0);
  useEffect(() => live.onWrite(() => setRound((n) => n + 1)), [live]);
  const { value: writes, problem: notLoaded } = useLoaded<readonly WriteRecord[]>(queryOf(filter, SHOWN), round);
  const [notSaved, setNotSaved] = useState('');
  const problem = notLoaded || notSaved;
  const save = async (): Promise<void> => {
    const all = await call<readonly WriteRecord[]>('GET', queryOf(filter, EXPORTED));
    setNotSaved(all.ok ? '' : all.problem.message);
    if (all.ok) saveCsv('writes.csv', writesCsv(all.value));
  };
  const isFiltered = filter.text !== '' || filter.state !== '' || filter.origin !== '';
  return (
    <div className="flex h-full flex-col gap-2">
      <div className="flex items-center gap-2">
        <h1 className="font-semibold">Log of writes</h1>
        <label className="input input-sm ml-2 w-64">
          <Search size={14} aria-hidden className="quiet" />
          <input
            aria-label="Find writes"
            placeholder="Tag, device, person or note"
            value={filter.text}
            onChange={(e) => setFilter({ ...filter, text: e.target.value })}
          />
        </label>
        <select
          aria-label="Outcome"
          className="select select-sm w-40"
          value={filter.state}
          onChange={(e) => setFilter({ ...filter, state: e.target.value })}
        >
          <option value="">any outcome</option>
          {Object.entries(STATES).map(([state, { words }]) => (
            <option key={state} value={state}>
              {words}
            </option>
          ))}
        </select>
        <select
          aria-label="Origin"
          className="select select-sm w-36"
          value={filter.origin}
          onChange={(e) => setFilter({ ...filter, origin: e.target.value })}
        >
          <option value="">from anywhere</option>
          {WRITERS.map((origin) => (
            <option key={origin} value={origin}>
              {ORIGIN_WORDS[origin]}
            </option>
          ))}
        </select>
        <span className="quiet" role="status">
          {writes === null ? 'Loading …' : writes.length === SHOWN ? `the newest ${SHOWN}` : counted(writes.length, 'write')}
        </span>
        <span className="flex-1" />
        <button type="button" className="btn btn-sm btn-outline" disabled={!writes?.length} onClick={() => void save()}>
          <Download size={14} aria-hidden /> Export as CSV
        </button>
      </div>
      {problem ? (
        <p className="is-bad" role="alert">
          {problem}
        </p>
      ) : null}
      {writes?.length === 0 ? (
        <p className="card-flat quiet p-8 text-center">
          {isFiltered
            ? 'No write is like that.'
            : 'Nothing was written to a machine yet. Every write will stand here, with who, when and what came of it.'}
        </p>
      ) : (
        <WritesTable writes={writes ?? []} />
      )}
    </div>
  );
}

function WritesTable({ writes }: { readonly writes: readonly WriteRecord[] }) {
  const scroller = useRef<HTMLDivElement>(null);
  // eslint-disable-next-line react-hooks/incompatible-library -- the virtualizer's functions are used only while drawing
  const virtual = useVirtualizer({ count: writes.length, getScrollElement: () => scroller.current, estimateSize: () => ROW, overscan: 8 });
  return (
    <div
      ref={scroller}
      role="table"
      aria-label="Writes"
      aria-rowcount={writes.length + 1}
      tabIndex={0}
      className="card-flat min-h-32 flex-1 overflow-auto text-[13px]"
    >
      <div role="row" className={`${COLUMNS} bg-base-200 border-base-300 sticky top-0 z-10 h-8 items-center border-b font-semibold`}>
        {['When', 'Tag', 'Device', 'Before', 'Asked', 'Sent', 'Held', 'From', 'Unlocked by', 'Outcome'].map((heading, i) => (
          <span key={heading} role="columnheader" className={i >= 3 && i <= 6 ? 'text-right' : ''}>
            {heading}
          </span>
        ))}
      </div>
      <div role="rowgroup" style={{ height: virtual.getTotalSize(), position: 'relative' }}>
        {virtual.getVirtualItems().map((item) => {
          const write = writes[item.index];
          if (!write) return null;
          const { mark, words, tone } = STATES[write.state];
          return (
            <div
              key={write.id}
              role="row"
              data-write={write.state}
              className={`${COLUMNS} border-base-300 absolute inset-x-0 items-center border-b`}
              style={{ height: ROW, transform: `translateY(${item.start}px)` }}
            >
              <span role="cell" className="truncate tabular-nums" title={write.at}>
                {dayAndTime(write.at)}
              </span>
              <span role="cell" className="truncate font-medium" title={write.tagName}>
                {write.tagName}
              </span>
              <span role="cell" className="truncate">
                {write.deviceName}
              </span>
              {[write.old, write.asked, write.sent, write.held].map((value, i) => (
                <span key={i} role="cell" className="num truncate text-right" title={valueText(value)}>
                  {shortText(value)}
                </span>
              ))}
              <span role="cell" className="truncate">
                {ORIGIN_WORDS[write.origin]}
              </span>
              <span role="cell" className="truncate">
                {write.by === '' ? write.who : `${write.by} (opened by ${write.who})`}
              </span>
              <span role="cell" className="truncate" title={write.note}>
                <span className={tone}>
                  {mark} {words}
                </span>{' '}
                <span className="quiet">{write.note}</span>
              </span>
            </div>
          );
        })}
      </div>
    </div>
  );
}
