'use client';
/** Which dialog of the shell is open: header, keys and palette all open the same ones. */
import { useSyncExternalStore } from 'react';
import type { Writer } from '@/core/live/status.ts';

export type ShellDialog = 'palette' | 'keys' | 'history' | 'unlock' | 'files' | 'network';

let open: ShellDialog | null = null;
let unlockFor: UnlockFor | null = null;
const listeners = new Set<() => void>();

/** What somebody wants to write, who is told that it is locked. */
export interface UnlockFor {
  readonly deviceId: string;
  readonly writer: Writer;
}

export function openUnlockFor(deviceId: string, writer: Writer): void {
  show('unlock', { deviceId, writer });
}

export function wantedUnlock(): UnlockFor | null {
  return unlockFor;
}

export function openDialog(dialog: ShellDialog | null): void {
  show(dialog, null);
}

function show(dialog: ShellDialog | null, wanted: UnlockFor | null): void {
  open = dialog;
  // Before anybody hears of the dialog.
  unlockFor = wanted;
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
