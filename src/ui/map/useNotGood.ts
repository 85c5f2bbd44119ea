'use client';
/** The tags whose value is not good, asked for again and again while they are wanted; null while they are not. */
import { useEffect, useState } from 'react';
import type { QualityReason } from '@/core/value/quality.ts';
import { call } from '../live/api.ts';

const REFRESH_MS = 2000;

export interface NotGood {
  readonly tagId: string;
  readonly reason: QualityReason | null;
  /** It was good at some time since the server's start. */
  readonly wasGood: boolean;
}

export function useNotGood(wanted: boolean): ReadonlyMap<string, NotGood> | null {
  const [found, setFound] = useState<ReadonlyMap<string, NotGood> | null>(null);
  useEffect(() => {
    if (!wanted) return;
    const stop = new AbortController();
    const load = async (): Promise<void> => {
      const answer = await call<{ readonly values: readonly NotGood[] }>('GET', '/values?doubtful=1', undefined, stop.signal);
      if (answer.ok) setFound(new Map(answer.value.values.map((value) => [value.tagId, value])));
    };
    void load();
    const timer = setInterval(() => void load(), REFRESH_MS);
    return () => {
      stop.abort();
      clearInterval(timer);
      setFound(null);
    };
  }, [wanted]);
  return found;
}
