import { useEffect, useState } from 'react';
import type { HostAtHand } from '@/core/hosting/messages.ts';
import { call } from '../live/api.ts';

const REFRESH_MS = 1500;

/** How the panel host is, looked at again and again. @returns null before the first answer; why it does not answer, empty while it does */
export function useAtHand(): { readonly host: HostAtHand | null; readonly problem: string; readonly take: (host: HostAtHand) => void } {
  const [host, setHost] = useState<HostAtHand | null>(null);
  const [problem, setProblem] = useState('');
  useEffect(() => {
    const stop = new AbortController();
    const look = (): void =>
      void call<HostAtHand>('GET', '/host/at-hand', undefined, stop.signal).then((loaded) => {
        if (stop.signal.aborted) return;
        if (loaded.ok) setHost(loaded.value);
        setProblem(loaded.ok ? '' : loaded.problem.message);
      });
    look();
    const timer = setInterval(look, REFRESH_MS);
    return () => {
      stop.abort();
      clearInterval(timer);
    };
  }, []);
  return { host, problem, take: setHost };
}
