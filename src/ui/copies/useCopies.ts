'use client';
/** How copy rules are doing, asked for again and again while the page is open. */
import { useCallback, useEffect, useState } from 'react';
import type { CopyStatus } from '@/core/live/copyStatus.ts';
import { call } from '../live/api.ts';

const REFRESH_MS = 1000;

export function useCopies(wanted: boolean): { readonly statuses: ReadonlyMap<string, CopyStatus>; readonly refresh: () => void } {
  const [statuses, setStatuses] = useState<ReadonlyMap<string, CopyStatus>>(new Map());
  const load = useCallback(async (): Promise<void> => {
    const found = await call<{ readonly copies: readonly CopyStatus[] }>('GET', '/copies');
    // Without an answer nobody knows how they are doing.
    setStatuses(new Map(found.ok ? found.value.copies.map((status) => [status.ruleId, status]) : []));
  }, []);
  useEffect(() => {
    if (!wanted) return;
    const first = setTimeout(() => void load(), 0);
    const timer = setInterval(() => void load(), REFRESH_MS);
    return () => {
      clearTimeout(first);
      clearInterval(timer);
    };
  }, [wanted, load]);
  return { statuses, refresh: () => void load() };
}
