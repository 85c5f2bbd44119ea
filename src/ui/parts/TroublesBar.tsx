'use client';
/** What everybody should know of the server itself, on every page. What is over can be put aside here. */
import { TriangleAlert } from 'lucide-react';
import { useState } from 'react';
import type { Trouble } from '@/core/live/status.ts';
import { useStatus } from '../live/liveHooks.ts';
import { dayAndTime } from './moment.ts';

/** These tell of something that was; the others stay as long as they last. */
const OVER: ReadonlySet<Trouble['code']> = new Set(['started-again', 'disk-low']);

export function TroublesBar() {
  const all = useStatus()?.troubles ?? [];
  const [aside, setAside] = useState<ReadonlySet<string>>(new Set());
  const shown = all.filter(({ code, at }) => !aside.has(keyOf({ code, at })));
  if (shown.length === 0) return null;
  return (
    <section role="status" aria-label="State of the server" className="bg-warning text-warning-content flex flex-col gap-1 px-4 py-1.5 text-[13px]">
      {shown.map(({ code, message, remedy, at }) => (
        <div key={code} className="flex items-center gap-3" data-trouble={code}>
          <TriangleAlert size={16} aria-hidden />
          <p className="flex-1">
            <strong>{message}</strong> {at === null ? '' : `${dayAndTime(at)}. `}
            {remedy}
          </p>
          {OVER.has(code) ? (
            <button type="button" className="btn btn-xs" onClick={() => setAside((known) => new Set([...known, keyOf({ code, at })]))}>
              Understood
            </button>
          ) : null}
        </div>
      ))}
    </section>
  );
}

/** What was, was at its time; what lasts is one thing, however much room there is by now. */
function keyOf({ code, at }: Pick<Trouble, 'code' | 'at'>): string {
  return `${code} ${at ?? ''}`;
}
