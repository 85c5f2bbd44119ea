'use client';
/** What preflight finds in the project, worked out in slices while it is wanted; null until it is. */
import { useEffect, useState } from 'react';
import { inSlices, nextTurn, untilStopped } from '@/core/inSlices.ts';
import type { Doubt } from '@/mapping/preflight/doubt.ts';
import { Preflight } from '@/mapping/preflight/preflight.ts';
import { useProject } from '../live/LiveContext.tsx';

/** What is found is kept from page to page: only what changed is looked at again. */
const preflight = new Preflight();

export function useDoubts(wanted = true): readonly Doubt[] | null {
  const project = useProject();
  const [doubts, setDoubts] = useState<readonly Doubt[] | null>(null);
  useEffect(() => {
    if (!wanted) return;
    let isStopped = false;
    void (async () => {
      await nextTurn();
      // A newer project ends the looking at this one.
      const found = await inSlices(untilStopped(preflight.looking(project), () => isStopped));
      if (found) setDoubts(found);
    })();
    return () => {
      isStopped = true;
    };
  }, [project, wanted]);
  return doubts;
}
