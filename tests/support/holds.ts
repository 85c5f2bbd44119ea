/** How long the machine held this process up: what is promised within a time is promised to a process that runs. */
const STEP_MS = 10;

export interface Holds {
  /** The longest hold since it was last asked for, in milliseconds. */
  longestMs(): number;
  /** All holds together since it was last asked for: time that passed while this process did not run. */
  totalMs(): number;
  stop(): void;
}

export function watchHolds(): Holds {
  let last = performance.now();
  let longest = 0;
  let total = 0;
  const look = (): void => {
    const now = performance.now();
    const held = Math.max(0, now - last - STEP_MS);
    longest = Math.max(longest, held);
    total += held;
    last = now;
  };
  const timer = setInterval(look, STEP_MS);
  return {
    longestMs() {
      look();
      const ms = longest;
      longest = 0;
      return ms;
    },
    totalMs() {
      look();
      const ms = total;
      total = 0;
      return ms;
    },
    stop: () => clearInterval(timer),
  };
}
