'use client';
/** Asks a network who speaks a protocol, while a link is made: what is found fills the form. */
import { useEffect, useRef, useState } from 'react';
import type { Finding } from '@/core/find/finding.ts';
import { callLines } from '../live/api.ts';

type Party = Extract<Finding, { readonly kind: 'party' }>;

interface DiscoveryProps {
  readonly driverId: string;
  /** The form as it is: adapter and port say whom to ask. */
  readonly settings: () => Readonly<Record<string, unknown>>;
  readonly onTake: (party: Party) => void;
}

export function Discovery({ driverId, settings, onTake }: DiscoveryProps) {
  const [found, setFound] = useState<readonly Finding[]>([]);
  const [state, setState] = useState<'idle' | 'running' | 'ended'>('idle');
  const stop = useRef<AbortController | null>(null);
  useEffect(() => () => stop.current?.abort(), []);

  const begin = async (): Promise<void> => {
    setFound([]);
    setState('running');
    const mine = new AbortController();
    stop.current = mine;
    const done = await callLines<Finding>('POST', '/discover', (finding) => setFound((known) => [...known, finding]), mine.signal, {
      driver: driverId,
      settings: settings(),
    });
    if (mine.signal.aborted) return;
    if (!done.ok) setFound([{ kind: 'problem', message: done.problem.message, remedy: done.problem.remedy ?? '' }]);
    setState('ended');
  };
  return (
    <div className="col-span-2" aria-live="polite">
      <button type="button" className="btn btn-sm" disabled={state === 'running'} onClick={() => void begin()}>
        {state === 'running' ? 'Asking the network …' : 'Discover on the network'}
      </button>
      <p className="quiet mt-1 text-[13px]">Asks everybody there who they are, and writes nothing.</p>
      <ul className="mt-1 max-h-40 overflow-auto">
        {found.map((f) =>
          f.kind === 'party' ? (
            <li key={f.where} data-party={f.where} className="border-base-300 flex min-h-9 items-center gap-3 border-b py-1">
              <span className="num">{f.where}</span>
              <span className="min-w-0 flex-1 truncate" title={f.seen}>
                {f.seen}
              </span>
              <button type="button" className="btn btn-xs btn-outline" aria-label={`Use ${f.where}`} onClick={() => onTake(f)}>
                Use
              </button>
            </li>
          ) : f.kind === 'problem' ? (
            <li key={f.message} className="is-bad">{`${f.message} ${f.remedy}`}</li>
          ) : null,
        )}
      </ul>
      {state === 'ended' && found.length === 0 ? (
        <p className="quiet">Nobody answered. Broadcasts do not pass routers: from here only the same network is asked.</p>
      ) : null}
    </div>
  );
}
