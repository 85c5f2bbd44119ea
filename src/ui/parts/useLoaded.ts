import { useEffect, useState } from 'react';
import { call } from '../live/api.ts';

/** Typing goes on so long before anything is asked for. */
const PAUSE_MS = 150;

/**
 * What the API answers to a path, asked for anew when the path changes, or the round.
 * @returns the last answer, null before the first; why the last one failed, empty where it did not
 */
export function useLoaded<T>(path: string, round = 0): { readonly value: T | null; readonly problem: string } {
  const [value, setValue] = useState<T | null>(null);
  const [problem, setProblem] = useState('');
  useEffect(() => {
    const stop = new AbortController();
    const timer = setTimeout(() => {
      void call<T>('GET', path, undefined, stop.signal).then((loaded) => {
        if (stop.signal.aborted) return;
        setProblem(loaded.ok ? '' : `${loaded.problem.message} ${loaded.problem.remedy ?? ''}`);
        if (loaded.ok) setValue(loaded.value);
      });
    }, PAUSE_MS);
    return () => {
      clearTimeout(timer);
      stop.abort();
    };
  }, [path, round]);
  return { value, problem };
}
