'use client';
/** Tags that were changed here since their list was imported, asked for with each change of the project while they are wanted. */
import { useEffect, useState } from 'react';
import { call } from '../live/api.ts';
import { useProject } from '../live/LiveContext.tsx';

export function useSetHere(wanted: boolean): ReadonlySet<string> | null {
  const project = useProject();
  const [ids, setIds] = useState<ReadonlySet<string> | null>(null);
  useEffect(() => {
    if (!wanted) return;
    const stop = new AbortController();
    void call<{ readonly tagIds: readonly string[] }>('GET', '/lists/changed', undefined, stop.signal).then((found) => {
      if (found.ok) setIds(new Set(found.value.tagIds));
    });
    return () => stop.abort();
  }, [project, wanted]);
  return ids;
}
