'use client';
/** Proves tags one by one: wire and panel compared, then what a witness says who does not use the mapping. */
import { Search, ShieldCheck } from 'lucide-react';
import { useMemo, useRef, useState } from 'react';
import type { Tag } from '@/core/project/entities.ts';
import { call } from '../live/api.ts';
import { useProject } from '../live/LiveContext.tsx';
import { rememberedName, rememberName, selectTag, useSelectedTag } from '../live/selection.ts';
import { Empty } from '../parts/Field.tsx';
import { matching } from '../live/tagSearch.ts';
import { CheckTable } from './CheckTable.tsx';
import { NextToCheck } from './NextToCheck.tsx';
import { PagePreview } from './PagePreview.tsx';
import { ProofCard } from './ProofCard.tsx';
import type { CheckResult } from '@/core/check/proof.ts';
import type { Result } from '@/core/result.ts';
import { witnessOf } from './witnessOf.ts';

export function CheckBench() {
  const project = useProject();
  const selected = useSelectedTag();
  const [text, setText] = useState('');
  const [who, setWho] = useState(rememberedName);
  const [outcomes, setOutcomes] = useState<ReadonlyMap<string, Result<CheckResult>>>(new Map());
  const [progress, setProgress] = useState<{ readonly done: number; readonly all: number } | null>(null);
  const stop = useRef<AbortController | null>(null);
  const tags = useMemo(() => matching(project, text), [project, text]);
  const tag = selected === null ? null : project.tag(selected);

  const check = async (tagId: string, witness: Record<string, string>, signal?: AbortSignal): Promise<void> => {
    if (who.trim() !== '') rememberName(who.trim());
    const done = await call<CheckResult>('POST', '/checks', { tagId, witness }, signal);
    if (!signal?.aborted) setOutcomes((before) => new Map(before).set(tagId, done));
  };
  /** A few at a time, as many as a browser asks one server at once: a slow device must not hold up the others. */
  const checkAll = async (list: readonly Tag[]): Promise<void> => {
    const cancel = new AbortController();
    stop.current = cancel;
    setProgress({ done: 0, all: list.length });
    let next = 0;
    let done = 0;
    const work = async (): Promise<void> => {
      for (let mine = list[next++]; mine && !cancel.signal.aborted; mine = list[next++]) {
        await check(mine.id, witnessOf(project, mine) ? { kind: 'control', who: who.trim() } : { kind: 'none' }, cancel.signal);
        setProgress({ done: ++done, all: list.length });
      }
    };
    await Promise.all(Array.from({ length: 5 }, work));
    setProgress(null);
    stop.current = null;
  };

  if (project.tagCount === 0)
    return (
      <Empty title="Nothing to prove yet">
        <p>A check follows a tag from the controller to the panel. Import a list first.</p>
        <a className="btn btn-primary" href="/lists">
          Import a list
        </a>
      </Empty>
    );
  return (
    <div className="grid h-full min-h-0 grid-cols-[minmax(30rem,1.5fr)_minmax(22rem,1fr)] gap-3">
      <section className="flex min-h-0 flex-col gap-2">
        <h1 className="sr-only">Check</h1>
        <div className="flex items-center gap-2">
          <label className="input input-sm w-56">
            <Search size={14} aria-hidden className="quiet" />
            <input aria-label="Find tags to check" placeholder="Find a tag" value={text} onChange={(e) => setText(e.target.value)} />
          </label>
          <label className="flex items-center gap-2">
            <span className="quiet">Checked by</span>
            <input className="input input-sm w-32" value={who} maxLength={60} placeholder="Your name" onChange={(e) => setWho(e.target.value)} />
          </label>
          <span className="flex-1" />
          {progress ? (
            <>
              <progress className="progress progress-primary w-28" value={progress.done} max={progress.all} aria-label="Checks done" />
              <span className="num">
                {progress.done}/{progress.all}
              </span>
              <button type="button" className="btn btn-sm" onClick={() => stop.current?.abort()}>
                Cancel
              </button>
            </>
          ) : (
            <button
              type="button"
              className="btn btn-sm btn-primary"
              disabled={who.trim() === '' || tags.length === 0}
              title={who.trim() === '' ? 'Say first who checks' : 'Compares each tag with the control channel of its device, where it has one'}
              onClick={() => void checkAll(tags)}
            >
              <ShieldCheck size={14} aria-hidden /> Check all {tags.length}
            </button>
          )}
        </div>
        <CheckTable tags={tags} outcomes={outcomes} selected={tag?.id ?? null} onSelect={selectTag} />
      </section>
      <section className="flex min-h-0 flex-col gap-3 overflow-auto">
        {tag ? (
          <ProofCard key={tag.id} tag={tag} who={who} outcome={outcomes.get(tag.id) ?? null} onCheck={(witness) => check(tag.id, witness)} />
        ) : (
          <NextToCheck />
        )}
        <PagePreview tagId={tag?.id ?? null} />
      </section>
    </div>
  );
}
