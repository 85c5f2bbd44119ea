'use client';
/** Day and night: the theme that was chosen, else the system's. */
import { useSyncExternalStore } from 'react';

export type Theme = 'oat' | 'kiln';

const listeners = new Set<() => void>();
const read = (): Theme =>
  (document.documentElement.dataset.theme as Theme | undefined) ?? (matchMedia('(prefers-color-scheme: dark)').matches ? 'kiln' : 'oat');

export function useTheme(): Theme {
  return useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    read,
    () => 'oat',
  );
}

export function changeTheme(): void {
  const next = read() === 'kiln' ? 'oat' : 'kiln';
  document.documentElement.dataset.theme = next;
  localStorage.setItem('mill-latch.theme', next);
  for (const listener of listeners) listener();
}
