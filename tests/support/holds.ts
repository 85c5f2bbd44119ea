/** How long the machine held this process up: what is promised within a time is promised to a process that runs. */
const STEP_MS = 10;

export interface Holds {
  /** The longest hold since it was last asked for, in milliseconds. */
  longestMs(): number;
  stop(): void;
}

export function watchHolds(): Holds {
  let last = performance.now();
  let longest = 0;
  const look = (): void => {
    const now = performance.now();
    longest = Math.max(longest, now - last - STEP_MS);
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
    stop: () => clearInterval(timer),
  };
}
