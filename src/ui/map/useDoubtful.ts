'use client';
/** The tags whose value is not good, asked for again and again while they are wanted; null while they are not. */
import { useEffect, useState } from 'react';
import { call } from '../live/api.ts';

const REFRESH_MS = 2000;

export function useDoubtful(wanted: boolean): ReadonlySet<string> | null {
  const [ids, setIds] = useState<ReadonlySet<string> | null>(null);
  useEffect(() => {
    if (!wanted) return;
    const stop = new AbortController();
    const load = async (): Promise<void> => {
      const found = await call<{ readonly values: readonly { readonly tagId: string }[] }>('GET', '/values?doubtful=1', undefined, stop.signal);
      if (found.ok) setIds(new Set(found.value.values.map((v) => v.tagId)));
    };
    void load();
    const timer = setInterval(() => void load(), REFRESH_MS);
    return () => {
      stop.abort();
      clearInterval(timer);
      setIds(null);
    };
  }, [wanted]);
  return ids;
}
