'use client';
/** What people did beside changing the project and writing to machines: filtered, and exported as CSV. */
import { Download, Search } from 'lucide-react';
import Papa from 'papaparse';
import { useState } from 'react';
import { counted } from '@/core/counted.ts';
import { FORMULA } from '@/core/csvGuard.ts';
import { AUDIT_KINDS, type AuditEntry, type AuditKind } from '@/core/live/auditEntry.ts';
import { call } from '../live/api.ts';
import { dayAndTime } from '../parts/moment.ts';
import { saveCsv } from '../parts/saveCsv.ts';
import { useLoaded } from '../parts/useLoaded.ts';

const SHOWN = 500;
const EXPORTED = 10_000;
const COLUMNS = 'grid grid-cols-[11.5rem_11rem_12rem_1fr] gap-x-3 px-3';

const KIND_WORDS: Readonly<Record<AuditKind, string>> = {
  started: 'server started',
  ended: 'server ended',
  unlocked: 'unlocked',
  locked: 'locked',
  network: 'network',
  code: 'code shown',
  joined: 'joined',
  'not-joined': 'could not join',
  pin: 'PIN set',
  'signed-in': 'signed in',
  'signed-out': 'signed out',
  'not-signed-in': 'not signed in',
  rights: 'rights',
  checked: 'checked by eye',
  armed: 'armed',
  disarmed: 'disarmed',
  off: 'seen to be off',
  backup: 'backup',
  paired: 'paired',
  sent: 'sent to a panel host',
  'taken-over': 'taken over',
  'rolled-back': 'rolled back',
  restore: 'restored',
  'may-be-set': 'may be set for checks',
  'not-set': 'not set for checks any more',
  isolated: 'declared isolated',
  'in-use': 'in use again',
  stays: 'stays as it was set',
};

interface Filter {
  readonly text: string;
  readonly kind: string;
}

function pathOf({ text, kind }: Filter, limit: number): string {
  const query = new URLSearchParams({ limit: String(limit) });
  if (text.trim()) query.set('text', text.trim());
  if (kind) query.set('kind', kind);
  return `/audit?${query.toString()}`;
}

export function AuditBench() {
  const [filter, setFilter] = useState<Filter>({ text: '', kind: '' });
  const { value: entries, problem } = useLoaded<readonly AuditEntry[]>(pathOf(filter, SHOWN));
  const [notSaved, setNotSaved] = useState('');
  const save = async (): Promise<void> => {
    const all = await call<readonly AuditEntry[]>('GET', pathOf(filter, EXPORTED));
    setNotSaved(all.ok ? '' : all.problem.message);
    if (all.ok) saveCsv('audit.csv', csvOf(all.value));
  };
  return (
    <div className="flex h-full flex-col gap-2">
      <div className="flex items-center gap-2">
        <h1 className="font-semibold">Audit trail</h1>
        <label className="input input-sm ml-2 w-64">
          <Search size={14} aria-hidden className="quiet" />
          <input
            aria-label="Find entries"
            placeholder="Person, device or words"
            value={filter.text}
            onChange={(e) => setFilter({ ...filter, text: e.target.value })}
          />
        </label>
        <select
          aria-label="Kind of entry"
          className="select select-sm w-44"
          value={filter.kind}
          onChange={(e) => setFilter({ ...filter, kind: e.target.value })}
        >
          <option value="">everything</option>
          {AUDIT_KINDS.map((kind) => (
            <option key={kind} value={kind}>
              {KIND_WORDS[kind]}
            </option>
          ))}
        </select>
        <span className="quiet" role="status">
          {entries === null ? 'Loading …' : entries.length === SHOWN ? `the newest ${SHOWN}` : counted(entries.length, 'record')}
        </span>
        <span className="flex-1" />
        <button type="button" className="btn btn-sm btn-outline" disabled={!entries?.length} onClick={() => void save()}>
          <Download size={14} aria-hidden /> Export as CSV
        </button>
      </div>
      {problem || notSaved ? (
        <p className="is-bad" role="alert">
          {problem || notSaved}
        </p>
      ) : null}
      {entries?.length === 0 ? (
        <p className="card-flat quiet p-8 text-center">No entry is like that.</p>
      ) : (
        <div role="table" aria-label="Audit trail" tabIndex={0} className="card-flat min-h-32 flex-1 overflow-auto text-[13px]">
          <div role="row" className={`${COLUMNS} bg-base-200 border-base-300 sticky top-0 z-10 h-8 items-center border-b font-semibold`}>
            {['When', 'What', 'Who', 'Details'].map((heading) => (
              <span key={heading} role="columnheader">
                {heading}
              </span>
            ))}
          </div>
          {entries?.map((entry) => (
            <div key={entry.seq} role="row" data-audit={entry.kind} className={`${COLUMNS} border-base-300 border-b py-1`}>
              <span role="cell" className="tabular-nums" title={entry.at}>
                {dayAndTime(entry.at)}
              </span>
              <span role="cell">{KIND_WORDS[entry.kind]}</span>
              <span role="cell" className="break-words">
                {entry.who}
              </span>
              <span role="cell" className="break-words">
                {entry.detail}
              </span>
            </div>
          ))}
        </div>
      )}
    </div>
  );
}

function csvOf(entries: readonly AuditEntry[]): string {
  const data = entries.map(({ at, kind, who, detail }) => [at, kind, who, detail]);
  return Papa.unparse({ fields: ['at', 'what', 'who', 'details'], data }, { newline: '\r\n', escapeFormulae: FORMULA });
}
