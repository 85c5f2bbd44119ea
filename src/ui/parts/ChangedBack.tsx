'use client';
/** Tells when a controller changes a written value back: that is news on every step and every panel. */
import { useEffect } from 'react';
import { toast } from 'sonner';
import { useLive } from '../live/liveHooks.ts';

export function ChangedBack() {
  const live = useLive();
  useEffect(
    () =>
      live.onWrite((write) => {
        if (write.state === 'changedBack') toast.warning(`${write.tagName}: ${write.note}`, { duration: 15_000 });
      }),
    [live],
  );
  return null;
}
