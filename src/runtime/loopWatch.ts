/** How long the loop that reads controllers was blocked at the most: everything that must be quick depends on it. */
import { monitorEventLoopDelay } from 'node:perf_hooks';

const RESOLUTION_MS = 5;
/** Watching costs a timer every few milliseconds: it goes on for so long after it was last asked for. */
const WATCHED_MS = 120_000;

export interface Health {
  /** Longest block of the loop since it was last asked for, in milliseconds; null when nobody has asked for two minutes. */
  readonly longestBlockMs: number | null;
  readonly memoryMb: number;
}

export function watchLoop(): () => Health {
  const delay = monitorEventLoopDelay({ resolution: RESOLUTION_MS });
  let isWatching = false;
  const rest = setTimeout(() => {
    delay.disable();
    isWatching = false;
  }, WATCHED_MS);
  rest.unref();
  return () => {
    const longestBlockMs = isWatching ? Math.max(0, delay.max / 1e6 - RESOLUTION_MS) : null;
    delay.enable();
    delay.reset();
    isWatching = true;
    rest.refresh();
    return { longestBlockMs, memoryMb: process.memoryUsage.rss() / 1024 / 1024 };
  };
}
