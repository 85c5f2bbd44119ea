'use client';
/** The selected tag: it follows from step to step and survives a reload. */
import { useSyncExternalStore } from 'react';

const KEY = 'mill-latch.tag';
const listeners = new Set<() => void>();

export function selectTag(tagId: string | null): void {
  if (tagId === null) sessionStorage.removeItem(KEY);
  else sessionStorage.setItem(KEY, tagId);
  for (const listener of listeners) listener();
}

export function useSelectedTag(): string | null {
  return useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => sessionStorage.getItem(KEY),
    () => null,
  );
}

const NAME = 'mill-latch.who';

/** Who sits here, asked once and remembered by the browser. */
export function rememberedName(): string {
  return typeof localStorage === 'undefined' ? '' : (localStorage.getItem(NAME) ?? '');
}
export function rememberName(name: string): void {
  localStorage.setItem(NAME, name);
}
