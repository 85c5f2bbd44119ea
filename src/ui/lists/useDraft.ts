'use client';
/** One list on its way in: sent, read with progress, looked at, taken or discarded. */
import { useCallback, useEffect, useRef, useState } from 'react';
import { v7 as uuid } from 'uuid';
import type { Applied } from '@/core/project/snapshot.ts';
import type { Problem, Result } from '@/core/result.ts';
import type { DraftChoices, DraftDecisions, DraftStatus } from '@/core/taglist/draft.ts';
import { MAX_LIST_BYTES } from '@/core/taglist/limits.ts';
import { call, sendFile } from '../live/api.ts';

const POLL_MS = 250;

export interface DraftHandle {
  readonly status: DraftStatus | null;
  /** What stands against the file as a whole, or against taking it. */
  readonly problem: Problem | null;
  readonly choices: DraftChoices;
  readonly isBusy: boolean;
  open(file: File, deviceId: string, sourceId: string | null): Promise<void>;
  /** Asks a device for the tags that it lists itself. */
  ask(deviceId: string): Promise<void>;
  compare(sourceId: string, from: string, to: string): Promise<void>;
  read(choices: DraftChoices): Promise<void>;
  take(decisions: DraftDecisions): Promise<Result<Applied>>;
  discard(): void;
}

export function useDraft(choicesOf: (sourceId: string) => DraftChoices): DraftHandle {
  const [status, setStatus] = useState<DraftStatus | null>(null);
  const [problem, setProblem] = useState<Problem | null>(null);
  const [choices, setChoices] = useState<DraftChoices>({});
  const [isSending, setSending] = useState(false);
  const sending = useRef<AbortController | null>(null);
  const id = status?.id ?? null;
  const isReading = status?.phase === 'reading' || status?.phase === 'storing';

  useEffect(() => {
    if (!id || !isReading) return;
    const timer = setInterval(() => {
      void call<DraftStatus>('GET', `/lists/drafts/${id}`).then((told) => {
        if (told.ok) setStatus((now) => (now?.id === told.value.id ? told.value : now));
        else if (told.problem.code !== 'gone') setProblem(told.problem);
      });
    }, POLL_MS);
    return () => clearInterval(timer);
  }, [id, isReading]);

  const discard = useCallback((): void => {
    sending.current?.abort();
    if (id) void call('POST', `/lists/drafts/${id}/discard`);
    setStatus(null);
    setProblem(null);
    setSending(false);
  }, [id]);

  return {
    status,
    problem: problem ?? status?.problem ?? null,
    choices,
    isBusy: isSending || isReading,
    discard,
    async open(file, deviceId, sourceId) {
      discard();
      if (file.size > MAX_LIST_BYTES)
        return setProblem({
          code: 'too-large',
          message: `${file.name} is larger than ${MAX_LIST_BYTES / 1_000_000} MB.`,
          remedy: 'Split it, or leave out what is not needed.',
        });
      const abort = new AbortController();
      sending.current = abort;
      setSending(true);
      const query = new URLSearchParams({ deviceId, fileName: file.name.slice(-200), ...(sourceId ? { sourceId } : {}) });
      const opened = await sendFile<DraftStatus>(`/lists/drafts?${query.toString()}`, file, abort.signal);
      if (abort.signal.aborted) return;
      setSending(false);
      if (!opened.ok) return setProblem(opened.problem);
      setChoices(choicesOf(opened.value.sourceId));
      setStatus(opened.value);
    },
    async ask(deviceId) {
      discard();
      setSending(true);
      const opened = await call<DraftStatus>('POST', `/devices/${deviceId}/list/draft`);
      setSending(false);
      if (!opened.ok) return setProblem(opened.problem);
      setChoices(choicesOf(opened.value.sourceId));
      setStatus(opened.value);
    },
    async compare(sourceId, from, to) {
      discard();
      const opened = await call<DraftStatus>('POST', `/lists/sources/${sourceId}/compare`, { from, to });
      if (opened.ok) setStatus(opened.value);
      else setProblem(opened.problem);
    },
    async read(wanted) {
      if (!id) return;
      setChoices(wanted);
      const told = await call<DraftStatus>('POST', `/lists/drafts/${id}/read`, { choices: wanted });
      if (told.ok) setStatus(told.value);
      else setProblem(told.problem);
    },
    async take(decisions) {
      if (!status) return { ok: false, problem: { code: 'gone', message: 'No list is open.' } };
      setProblem(null);
      setStatus({ ...status, phase: 'storing', doing: 'Storing', part: 0 });
      const done = await call<Applied>('POST', `/lists/drafts/${status.id}/commit`, { commandId: uuid(), ...decisions });
      if (done.ok) setStatus(null);
      else {
        setStatus({ ...status, phase: 'ready' });
        setProblem(done.problem);
      }
      return done;
    },
  };
}
