/**
 * A clock made of two: one that never goes back and stands still while the computer sleeps, and the wall clock, which
 * runs on then but may be set. It goes with the first, and catches up whenever the second is ahead of it, so a
 * deadline ends by whichever clock is later, and a time shown is that of the reader's own clock.
 */

/** Further ahead than this the wall clock is caught up with; less is its own unsteadiness. */
const AHEAD_MS = 50;

/**
 * @param steadyMs milliseconds from any origin, never going back
 * @param wallMs   milliseconds since 1970
 * @returns milliseconds since 1970, never going back, in hundredths
 */
export function laterClock(steadyMs: () => number, wallMs: () => number): () => number {
  let origin = wallMs() - steadyMs();
  return () => {
    const steady = steadyMs();
    const ahead = wallMs() - (origin + steady);
    if (ahead > AHEAD_MS) origin += ahead;
    return Math.round((origin + steady) * 100) / 100;
  };
}
