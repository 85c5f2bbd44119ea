'use client';
/** What was changed in the project, the newest first; undo and redo walk along it. */
import { Redo2, Undo2 } from 'lucide-react';
import { useEffect, useState } from 'react';
import { call } from '../live/api.ts';
import { useProject, useStep } from '../live/LiveContext.tsx';
import { Dialog } from '../parts/Dialog.tsx';
import { dayAndTime } from '../parts/moment.ts';

interface Entry {
  readonly seq: number;
  readonly label: string;
  readonly origin: string;
  readonly at: string;
  readonly state: 'done' | 'undone' | 'dropped';
}

const SHOWN = 200;
const STATE = {
  done: { word: '', tone: '' },
  undone: { word: 'undone, can be redone', tone: 'is-look' },
  dropped: { word: 'undone for good', tone: 'quiet line-through' },
} as const;

export function HistoryDialog({ onClose }: { readonly onClose: () => void }) {
  const { revision } = useProject();
  const step = useStep();
  const [entries, setEntries] = useState<readonly Entry[] | null>(null);
  const [problem, setProblem] = useState('');
  useEffect(() => {
    const stop = new AbortController();
    void call<readonly Entry[]>('GET', `/history?limit=${SHOWN}`, undefined, stop.signal).then((loaded) => {
      if (stop.signal.aborted) return;
      if (loaded.ok) setEntries(loaded.value);
      else setProblem(`${loaded.problem.message} ${loaded.problem.remedy ?? ''}`);
    });
    return () => stop.abort();
  }, [revision]);
  const canUndo = entries?.some((e) => e.state === 'done' && e.origin !== 'set-up') ?? false;
  const canRedo = entries?.some((e) => e.state === 'undone') ?? false;
  return (
    <Dialog title="What was changed" onClose={onClose} wide>
      <p className="quiet mb-3">
        Undo takes changes back one by one, the newest first, after a restart too. Writes to machines and proofs are never undone.
      </p>
      {problem ? (
        <p className="is-bad" role="alert">
          {problem}
        </p>
      ) : null}
      {entries === null && !problem ? <p className="quiet">Loading …</p> : null}
      {entries?.length === 0 ? <p className="quiet">Nothing was changed yet.</p> : null}
      <ol className="max-h-[50vh] overflow-auto text-[13px]" aria-label="Changes" tabIndex={0}>
        {entries?.map((entry) => (
          <li key={entry.seq} className="border-base-300 flex gap-3 border-b py-1" data-change-state={entry.state}>
            <span className="quiet w-48 shrink-0 whitespace-nowrap tabular-nums">{dayAndTime(entry.at)}</span>
            <span className={`min-w-0 flex-1 truncate ${STATE[entry.state].tone}`} title={entry.label}>
              {entry.label}
            </span>
            <span className="quiet shrink-0">{entry.origin === 'set-up' ? 'set-up' : STATE[entry.state].word}</span>
          </li>
        ))}
      </ol>
      <div className="mt-4 flex justify-end gap-2">
        <button type="button" className="btn btn-sm" disabled={!canUndo} onClick={() => void step('undo')}>
          <Undo2 size={14} aria-hidden /> Undo
        </button>
        <button type="button" className="btn btn-sm" disabled={!canRedo} onClick={() => void step('redo')}>
          <Redo2 size={14} aria-hidden /> Redo
        </button>
        <button type="button" className="btn btn-sm btn-primary" onClick={onClose}>
          Close
        </button>
      </div>
    </Dialog>
  );
}
