'use client';
/** One run of checks as the server has it; it is in the address of the page, so that a reload goes on with it. */
import { useCallback, useEffect, useState } from 'react';
import type { CheckResult, How, WitnessKind } from '@/core/check/proof.ts';
import type { Run, RunCounts, RunEntry, RunLabel } from '@/core/check/run.ts';
import type { SAID_STEPS } from '@/core/check/trailStep.ts';
import type { Problem, Result } from '@/core/result.ts';
import { call, sendFile } from '../live/api.ts';

export interface RunNow {
  readonly run: Run;
  readonly entries: readonly RunEntry[];
  readonly counts: RunCounts;
  readonly labels: Readonly<Record<string, RunLabel>>;
}
export interface RunPlan {
  readonly id: string;
  readonly name: string;
  readonly who: string;
  readonly witness: WitnessKind;
  readonly how: How;
  readonly tagIds: readonly string[];
}
export interface Said {
  readonly step: (typeof SAID_STEPS)[number];
  readonly words: string;
  readonly side?: 'mapping' | 'panel' | 'unknown';
}

export interface RunInHand {
  readonly now: RunNow | null;
  readonly problem: Problem | null;
  readonly begin: (plan: RunPlan) => Promise<Result<RunNow>>;
  readonly check: (tagId: string, witness: object, signal?: AbortSignal) => Promise<Result<CheckResult>>;
  readonly say: (tagId: string, who: string, said: Said) => Promise<Result<RunNow>>;
  /** Says why it was not kept; null when it was. */
  readonly photo: (tagId: string, who: string, words: string, photo: Blob) => Promise<string | null>;
  readonly setEnded: (who: string, ended: boolean) => Promise<void>;
  readonly reload: () => Promise<RunNow | null>;
  readonly open: (id: string | null) => void;
}

/** Somebody else may be at the same run: at the phone in front of the panel. */
const LOOK_MS = 4000;

function idInAddress(): string | null {
  return typeof location === 'undefined' ? null : new URLSearchParams(location.search).get('run');
}

/** @param fixed  the id of the run where the page is about one; else it is read from the address */
export function useRun(fixed: string | null = null): RunInHand {
  const [id, setId] = useState<string | null>(fixed);
  const [now, setNow] = useState<RunNow | null>(null);
  const [problem, setProblem] = useState<Problem | null>(null);
  const take = useCallback((done: Result<RunNow>): Result<RunNow> => {
    if (done.ok) setNow(done.value);
    setProblem(done.ok ? null : done.problem);
    return done;
  }, []);
  useEffect(() => {
    // eslint-disable-next-line react-hooks/set-state-in-effect -- the address is known in the browser only
    if (fixed === null) setId(idInAddress());
  }, [fixed]);
  const reload = useCallback(async (): Promise<RunNow | null> => {
    if (id === null) return null;
    const done = take(await call<RunNow>('GET', `/checks/runs/${id}`));
    return done.ok ? done.value : null;
  }, [id, take]);
  useEffect(() => {
    if (id === null) return;
    // eslint-disable-next-line react-hooks/set-state-in-effect -- it is asked for, and comes later
    void reload();
    const timer = setInterval(() => void reload(), LOOK_MS);
    return () => clearInterval(timer);
  }, [id, reload]);
  const open = (next: string | null): void => {
    setId(next);
    setNow(null);
    setProblem(null);
    history.replaceState(null, '', next === null ? location.pathname : `?run=${next}`);
  };
  return {
    now: id === null ? null : now,
    problem,
    reload,
    open,
    async begin(plan) {
      const begun = await call<RunNow>('POST', '/checks/runs', plan);
      if (begun.ok) open(begun.value.run.id);
      return take(begun);
    },
    async check(tagId, witness, signal) {
      return call<CheckResult>('POST', id === null ? '/checks' : `/checks/runs/${id}/checks`, { tagId, witness }, signal);
    },
    async say(tagId, who, said) {
      return take(await call<RunNow>('POST', `/checks/runs/${id ?? ''}/steps`, { tagId, who, ...said }));
    },
    async photo(tagId, who, words, photo) {
      const query = new URLSearchParams({ who, ...(words === '' ? {} : { words }) });
      const done = await sendFile<RunNow>(`/checks/runs/${id ?? ''}/tags/${tagId}/photos?${query.toString()}`, photo);
      if (done.ok) setNow(done.value);
      return done.ok ? null : `${done.problem.message} ${done.problem.remedy ?? ''}`;
    },
    async setEnded(who, ended) {
      take(await call<RunNow>('POST', `/checks/runs/${id ?? ''}/end`, { who, ended }));
    },
  };
}
