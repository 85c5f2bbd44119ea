'use client';
/** The base in which raw whole numbers are shown, everywhere; kept by the browser. */
import { useSyncExternalStore } from 'react';
import { RADIXES, type Radix } from '@/core/value/radix.ts';

const KEY = 'mill-latch.radix';
const listeners = new Set<() => void>();

export function showRawIn(radix: Radix): void {
  localStorage.setItem(KEY, String(radix));
  for (const listener of listeners) listener();
}

export function useRadix(): Radix {
  return useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => RADIXES.find((radix) => String(radix) === localStorage.getItem(KEY)) ?? 10,
    () => 10,
  );
}
