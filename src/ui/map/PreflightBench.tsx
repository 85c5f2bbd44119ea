'use client';
/** One list of everything doubtful in the project, each with its reason and the way there; it follows every change. */
import { useVirtualizer } from '@tanstack/react-virtual';
import { CircleAlert, Info, TriangleAlert } from 'lucide-react';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useRef, useState } from 'react';
import type { Doubt, Severity } from '@/mapping/preflight/doubt.ts';
import { useChange } from '../live/LiveContext.tsx';
import { selectTag } from '../live/selection.ts';
import { Empty } from '../parts/Field.tsx';
import { useDoubts } from './useDoubts.ts';

const ROW = 34;
const SEVERITIES: readonly { readonly severity: Severity; readonly words: string; readonly look: string; readonly Icon: typeof Info }[] = [
  { severity: 'error', words: 'wrong', look: 'is-bad', Icon: CircleAlert },
  { severity: 'warning', words: 'doubtful', look: 'is-look', Icon: TriangleAlert },
  { severity: 'note', words: 'worth a look', look: 'quiet', Icon: Info },
];

export function PreflightBench() {
  const doubts = useDoubts();
  const [hidden, setHidden] = useState<ReadonlySet<Severity>>(new Set());
  const scroller = useRef<HTMLDivElement>(null);
  const shown = (doubts ?? []).filter(({ severity }) => !hidden.has(severity));
  // eslint-disable-next-line react-hooks/incompatible-library -- the virtualizer's functions are used only while drawing
  const virtual = useVirtualizer({ count: shown.length, getScrollElement: () => scroller.current, estimateSize: () => ROW, overscan: 8 });
  const toggle = (severity: Severity): void => {
    const next = new Set(hidden);
    if (!next.delete(severity)) next.add(severity);
    setHidden(next);
  };
  return (
    <div className="flex h-full flex-col gap-2">
      <div className="flex items-center gap-2">
        <h1 className="text-lg font-semibold">Preflight</h1>
        <span className="quiet" role="status">
          {doubts === null ? 'looking …' : doubts.length === 0 ? 'nothing doubtful' : `${doubts.length} found`}
        </span>
        {SEVERITIES.map(({ severity, words, look, Icon }) => {
          const count = doubts?.filter((doubt) => doubt.severity === severity).length ?? 0;
          return count === 0 ? null : (
            <button
              key={severity}
              type="button"
              aria-pressed={!hidden.has(severity)}
              className={`btn btn-sm ${hidden.has(severity) ? 'btn-ghost quiet line-through' : `btn-ghost ${look}`}`}
              title={hidden.has(severity) ? 'Show them' : 'Hide them'}
              onClick={() => toggle(severity)}
            >
              <Icon size={14} aria-hidden /> {count} {words}
            </button>
          );
        })}
        <span className="flex-1" />
        <Link className="btn btn-sm btn-outline" href="/map">
          Back to the map
        </Link>
      </div>
      {doubts?.length === 0 ? (
        <Empty title="Nothing doubtful">
          <p>No overlaps, no place with two meanings, nothing written where it cannot be. Whether the values are right is for Check to prove.</p>
        </Empty>
      ) : (
        <div ref={scroller} className="card-flat min-h-0 flex-1 overflow-auto text-[13px]" role="list" aria-label="Doubts">
          <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
            {virtual.getVirtualItems().map((item) => {
              const doubt = shown[item.index];
              return doubt ? <DoubtRow key={`${item.index} ${doubt.message}`} doubt={doubt} top={item.start} /> : null;
            })}
          </div>
        </div>
      )}
    </div>
  );
}

function DoubtRow({ doubt, top }: { readonly doubt: Doubt; readonly top: number }) {
  const router = useRouter();
  const change = useChange();
  const { severity, message, about, remedy } = doubt;
  const { words, look, Icon } = SEVERITIES.find((each) => each.severity === severity) ?? { words: '', look: '', Icon: Info };
  const go = (): void => {
    if (about.kind === 'tag') selectTag(about.id);
    router.push(wayTo(doubt));
  };
  return (
    <div
      role="listitem"
      data-doubt={doubt.code}
      className="border-base-300 absolute inset-x-0 flex items-center gap-3 border-b px-3"
      style={{ height: ROW, transform: `translateY(${top}px)` }}
    >
      <span className={`flex w-28 shrink-0 items-center gap-1 ${look}`}>
        <Icon size={14} aria-hidden /> {words}
      </span>
      <span className="min-w-0 flex-1 truncate" title={message}>
        {message}
      </span>
      {remedy ? (
        <button type="button" className="btn btn-xs btn-warning" onClick={() => void change(remedy.label, remedy.changes)}>
          {remedy.button}
        </button>
      ) : null}
      <button type="button" className="btn btn-xs btn-outline" onClick={go}>
        Go there
      </button>
    </div>
  );
}

function wayTo({ code, about }: Doubt): string {
  switch (about.kind) {
    case 'tag':
      return code === 'no-scale' || code === 'scale-unit' ? '/scale' : '/map';
    case 'device':
      return code === 'unused' ? '/map' : '/links';
    case 'link':
      return '/links';
    case 'page':
      return `/panels?page=${about.id}`;
    case 'copyRule':
      return '/map/copies';
    case 'alarm':
      return '/map/alarms';
  }
}
