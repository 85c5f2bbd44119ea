'use client';
/** A drawing that few pages have: its code comes when it is first drawn. */
import { lazy, Suspense } from 'react';
import type { Drawing, DrawingProps } from './drawing.ts';

export function lazily(load: () => Promise<Drawing>): Drawing {
  const Loaded = lazy(async () => ({ default: await load() }));
  return function Lazily(props: DrawingProps) {
    return (
      <Suspense fallback={<p className="quiet p-3">…</p>}>
        <Loaded {...props} />
      </Suspense>
    );
  };
}
