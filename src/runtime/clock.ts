/** The system's clock as everything here takes it: a wall clock that is set back does not make it go back. */
import { laterClock } from '@/core/live/laterClock.ts';
import type { Clock } from '@/drivers/contract.ts';

export const systemClock: Clock = {
  now: laterClock(() => performance.now(), Date.now),
  after(ms, call) {
    const timer = setTimeout(call, Math.max(0, ms));
    return () => clearTimeout(timer);
  },
};

/** A moment of the clock as it stands in records and files. */
export function isoTime(clock: Clock): string {
  return new Date(clock.now()).toISOString();
}
