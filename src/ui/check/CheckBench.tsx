'use client';
/** Proves tags: wire and panel compared, then what a witness says who does not use the mapping. One by one, or in a run that is kept. */
import { Eye, History, Play, Rewind, Search } from 'lucide-react';
import { useEffect, useMemo, useRef, useState } from 'react';
import { v7 as uuid } from 'uuid';
import { WITNESSES, WITNESS_KINDS, type CheckResult, type WitnessKind } from '@/core/check/proof.ts';
import { nextOpen, type RunState } from '@/core/check/run.ts';
import type { Result } from '@/core/result.ts';
import { useProject } from '../live/LiveContext.tsx';
import { rememberedName, rememberName, selectTag, useSelectedTag } from '../live/selection.ts';
import { Empty } from '../parts/Field.tsx';
import { matching } from '../live/tagSearch.ts';
import { CheckTable } from './CheckTable.tsx';
import { NextToCheck } from './NextToCheck.tsx';
import { DrawnForRun, PagePreview } from './PagePreview.tsx';
import { PastDialog } from './PastDialog.tsx';
import { ProofCard } from './ProofCard.tsx';
import { RunBar } from './RunBar.tsx';
import { RunsDialog } from './RunsDialog.tsx';
import { pagesShowing, scopeName, scopesOf, tagsOf, type ScopeKey } from './scope.ts';
import { useRun } from './useRun.ts';
import { MOST_WATCHED, rememberWatched } from './watch/watchedTags.ts';

/** As many as a browser asks one server at once: a slow device must not hold up the others. */
const AT_ONCE = 5;
/** How long a page gets to draw what it shows, and how often it is asked meanwhile. */
const DRAWN_MS = 4000;
const ASK_MS = 250;

/** What of a run is shown. */
const SHOWN_STATES = {
  all: { title: 'All of the run', states: null },
  open: { title: 'Open', states: ['open', 'skipped'] },
  failed: { title: 'What differs', states: ['failed'] },
  waived: { title: 'Waived', states: ['waived'] },
} as const satisfies Record<string, { readonly title: string; readonly states: readonly RunState[] | null }>;
type ShownState = keyof typeof SHOWN_STATES;

export function CheckBench() {
  const project = useProject();
  const selected = useSelectedTag();
  const [text, setText] = useState('');
  const [scope, setScope] = useState<ScopeKey>('all');
  const [witness, setWitness] = useState<WitnessKind>('display');
  const [who, setWho] = useState('');
  const [outcomes, setOutcomes] = useState<ReadonlyMap<string, Result<CheckResult>>>(new Map());
  const [progress, setProgress] = useState<{ readonly done: number; readonly all: number } | null>(null);
  const [shownState, setShownState] = useState<ShownState>('all');
  const [isListing, setIsListing] = useState(false);
  const [isPast, setIsPast] = useState(false);
  /** The page that is drawn for a run by itself. */
  const [drawnPage, setDrawnPage] = useState<string | null>(null);
  const stop = useRef<AbortController | null>(null);
  const run = useRun();
  useEffect(() => {
    // eslint-disable-next-line react-hooks/set-state-in-effect -- the name is known in the browser only
    setWho(rememberedName());
  }, []);
  const found = useMemo(() => matching(project, text), [project, text]);
  const inRun = useMemo(() => (run.now ? new Map(run.now.entries.map((entry) => [entry.tagId, entry])) : null), [run.now]);
  const tags = useMemo(() => {
    if (!run.now) return tagsOf(project, scope, found);
    const shown = new Map(found.map((tag) => [tag.id, tag]));
    const states: readonly RunState[] | null = SHOWN_STATES[shownState].states;
    return run.now.entries.flatMap(({ tagId, state }) => (states === null || states.includes(state) ? (shown.get(tagId) ?? []) : []));
  }, [project, scope, found, run.now, shownState]);
  const tag = selected === null ? null : project.tag(selected);
  const name = who.trim();
  const against = run.now?.run.witness ?? witness;

  const check = async (tagId: string, asked: object, signal?: AbortSignal): Promise<Result<CheckResult>> => {
    if (name !== '') rememberName(name);
    const done = await run.check(tagId, asked, signal);
    if (!signal?.aborted) setOutcomes((before) => new Map(before).set(tagId, done));
    return done;
  };
  const next = (after: string): void => {
    const to = run.now ? nextOpen(run.now.entries, after) : null;
    if (to !== null) selectTag(to);
  };
  const begin = async (): Promise<void> => {
    rememberName(name);
    const begun = await run.begin({
      id: uuid(),
      name: text.trim() === '' ? scopeName(project, scope) : `${scopeName(project, scope)}, “${text.trim()}”`,
      who: name,
      witness,
      how: 'observed',
      tagIds: tags.map(({ id }) => id),
    });
    if (begun.ok) selectTag(begun.value.run.tagIds[0] ?? null);
  };
  const inTurns = async (
    tagIds: readonly string[],
    ask: (tagId: string, signal: AbortSignal) => Promise<unknown>,
    cancel: AbortController,
  ): Promise<void> => {
    let at = 0;
    const work = async (): Promise<void> => {
      for (let mine = tagIds[at++]; mine !== undefined && !cancel.signal.aborted; mine = tagIds[at++]) {
        await ask(mine, cancel.signal);
        setProgress((before) => before && { ...before, done: before.done + 1 });
      }
    };
    await Promise.all(Array.from({ length: AT_ONCE }, work));
  };
  /** What needs nobody: the control channel is asked, or our own pages are drawn one after the other. */
  const byItself = async (): Promise<void> => {
    const open = (run.now?.entries ?? [])
      .filter(({ state }) => state === 'open' || state === 'skipped' || state === 'failed')
      .map(({ tagId }) => tagId);
    const cancel = new AbortController();
    stop.current = cancel;
    if (against === 'page') {
      const pages = pagesShowing(project, new Set(open));
      setProgress({ done: 0, all: pages.reduce((sum, page) => sum + page.tagIds.length, 0) });
      const seen = new Set<string>();
      for (const { pageId, tagIds } of pages) {
        if (cancel.signal.aborted) break;
        setDrawnPage(pageId);
        const until = Date.now() + DRAWN_MS;
        await inTurns(
          tagIds,
          async (tagId, signal) => {
            if (seen.has(tagId)) return;
            // A page that has just opened has drawn nothing yet, or older samples than are kept.
            for (
              let done = await check(tagId, { kind: 'pages', who: name }, signal);
              done.ok && done.value.consistent === null && Date.now() < until;
            ) {
              await new Promise((resolve) => setTimeout(resolve, ASK_MS));
              done = await check(tagId, { kind: 'pages', who: name }, signal);
            }
            seen.add(tagId);
          },
          cancel,
        );
      }
      setDrawnPage(null);
    } else {
      setProgress({ done: 0, all: open.length });
      await inTurns(open, (tagId, signal) => check(tagId, { kind: 'control', who: name }, signal), cancel);
    }
    setProgress(null);
    stop.current = null;
    const now = await run.reload();
    const wrong = now?.entries.find(({ state }) => state === 'failed');
    if (wrong) selectTag(wrong.tagId);
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
  const isAutomatic = against === 'channel' || against === 'page';
  return (
    <div className="flex h-full min-h-0 flex-col gap-2">
      <h1 className="sr-only">Check</h1>
      {run.now ? (
        <RunBar
          run={run}
          who={name}
          progress={progress}
          onStop={() => stop.current?.abort()}
          onAutomatic={isAutomatic && name !== '' ? () => void byItself() : null}
        />
      ) : null}
      {run.problem ? (
        <p role="alert" className="card-flat px-3 py-2">
          <strong className="is-bad">{run.problem.message}</strong> {run.problem.remedy}
        </p>
      ) : null}
      <div className="grid min-h-0 flex-1 grid-cols-[minmax(30rem,1.5fr)_minmax(22rem,1fr)] gap-3">
        <section className="flex min-h-0 flex-col gap-2">
          <div className="flex flex-wrap items-center gap-2">
            <label className="input input-sm w-36">
              <Search size={14} aria-hidden className="quiet" />
              <input aria-label="Find tags to check" placeholder="Find a tag" value={text} onChange={(e) => setText(e.target.value)} />
            </label>
            {run.now ? (
              <select
                aria-label="Show"
                className="select select-sm w-40"
                value={shownState}
                onChange={(e) => setShownState(e.target.value as ShownState)}
              >
                {Object.entries(SHOWN_STATES).map(([state, { title }]) => (
                  <option key={state} value={state}>
                    {title}
                  </option>
                ))}
              </select>
            ) : (
              <>
                <select aria-label="What to check" className="select select-sm w-40" value={scope} onChange={(e) => setScope(e.target.value)}>
                  {scopesOf(project).map(({ heading, scopes }) => (
                    <optgroup key={heading} label={heading}>
                      {scopes.map(({ key, name: title }) => (
                        <option key={key} value={key}>
                          {title}
                        </option>
                      ))}
                    </optgroup>
                  ))}
                </select>
                <select
                  aria-label="Against whom"
                  className="select select-sm w-44"
                  value={witness}
                  onChange={(e) => setWitness(e.target.value as WitnessKind)}
                >
                  {WITNESS_KINDS.map((kind) => (
                    <option key={kind} value={kind}>
                      {WITNESSES[kind]}
                    </option>
                  ))}
                </select>
              </>
            )}
            <label className="flex items-center gap-2">
              <span className="quiet text-[13px]">By</span>
              <input
                aria-label="Checked by"
                className="input input-sm w-28"
                value={who}
                maxLength={60}
                placeholder="Your name"
                onChange={(e) => setWho(e.target.value)}
              />
            </label>
            <span className="flex-1" />
            <a
              className="btn btn-sm btn-ghost"
              href="/check/watch"
              title="The tags listed here, or those watched before, live with how far and how fast they went"
              onClick={() => tags.length <= MOST_WATCHED && rememberWatched(tags.map(({ id }) => id))}
            >
              <Eye size={14} aria-hidden /> Watch
            </a>
            <button type="button" className="btn btn-sm btn-ghost" onClick={() => setIsPast(true)}>
              <Rewind size={14} aria-hidden /> Past
            </button>
            {run.now ? null : (
              <>
                <button type="button" className="btn btn-sm btn-ghost" onClick={() => setIsListing(true)}>
                  <History size={14} aria-hidden /> Runs
                </button>
                <button
                  type="button"
                  className="btn btn-sm btn-primary"
                  disabled={name === '' || tags.length === 0}
                  title={name === '' ? 'Say first who checks' : 'A run is kept: it can be broken off and gone on with, and reported'}
                  onClick={() => void begin()}
                >
                  <Play size={14} aria-hidden /> Begin a run of {tags.length}
                </button>
              </>
            )}
          </div>
          <CheckTable tags={tags} outcomes={outcomes} inRun={inRun} selected={tag?.id ?? null} onSelect={selectTag} />
        </section>
        <section className="flex min-h-0 flex-col gap-3 overflow-auto">
          {drawnPage !== null ? (
            <DrawnForRun pageId={drawnPage} />
          ) : (
            <>
              {tag && (!inRun || inRun.has(tag.id)) ? (
                <ProofCard
                  key={tag.id}
                  tag={tag}
                  who={name}
                  witness={against}
                  run={run}
                  outcome={outcomes.get(tag.id) ?? null}
                  onCheck={(asked) => check(tag.id, asked)}
                  onNext={run.now ? () => next(tag.id) : null}
                />
              ) : (
                <NextToCheck />
              )}
              <PagePreview tagId={tag?.id ?? null} />
            </>
          )}
        </section>
      </div>
      {isPast ? <PastDialog tags={tags} tag={tag} onClose={() => setIsPast(false)} /> : null}
      {isListing ? (
        <RunsDialog
          onClose={() => setIsListing(false)}
          onOpen={(id) => {
            setIsListing(false);
            run.open(id);
          }}
        />
      ) : null}
    </div>
  );
}
