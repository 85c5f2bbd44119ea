/**
 * Switching off what was switched on here: the one write that is repeated. It goes to where it was switched on, until it is
 * read back off; after a time somebody has to be told, and once the link is there and it still does not go off, to look.
 */
import type { WriteOutcome } from '@/core/live/writeOutcome.ts';
import type { Result } from '@/core/result.ts';
import type { Clock } from '@/drivers/contract.ts';

/** After this time it is told as not released. */
export const TOLD_MS = 10_000;
const AGAIN_MS = 250;

export interface SwitchingOff {
  readonly clock: Clock;
  readonly send: (note: string) => Promise<Result<WriteOutcome>>;
  /** Whether the link is there. */
  readonly isConnected: () => boolean;
  /** Nobody needs it any more: it was switched on anew, it was said to be off, or the server ends. */
  readonly isOver: () => boolean;
}

/** @returns the last outcome, once it is off or nothing more is tried */
export async function switchOff(why: string, { clock, send, isConnected, isOver }: SwitchingOff): Promise<Result<WriteOutcome>> {
  const begun = clock.now();
  for (let note = why; ; note = `${why} Sent again: it was not read back off.`) {
    const wasConnected = isConnected();
    const done = await send(note);
    if (isOff(done) || isOver()) return done;
    if (wasConnected && isConnected() && clock.now() - begun >= TOLD_MS) return done;
    do await new Promise<void>((resolve) => clock.after(AGAIN_MS, resolve));
    while (!isConnected() && !isOver());
    if (isOver()) return done;
  }
}

export function isOff(done: Result<WriteOutcome>): boolean {
  return done.ok && done.value.state === 'done';
}
