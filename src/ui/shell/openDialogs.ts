'use client';
/** Which dialog of the shell is open: header, keys and palette all open the same ones. */
import { useSyncExternalStore } from 'react';

export type ShellDialog = 'palette' | 'keys' | 'history' | 'unlock' | 'files' | 'network';

let open: ShellDialog | null = null;
const listeners = new Set<() => void>();

export function openDialog(dialog: ShellDialog | null): void {
  open = dialog;
  for (const listener of listeners) listener();
}

export function useOpenDialog(): ShellDialog | null {
  return useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => open,
    () => null,
  );
}
