/** How long the loop that reads controllers was blocked at the most: everything that must be quick depends on it. */
import { monitorEventLoopDelay } from 'node:perf_hooks';

const RESOLUTION_MS = 5;

export interface Health {
  /** Longest block of the loop since it was last asked for, in milliseconds. */
  readonly longestBlockMs: number;
  readonly memoryMb: number;
}

export function watchLoop(): () => Health {
  const delay = monitorEventLoopDelay({ resolution: RESOLUTION_MS });
  delay.enable();
  return () => {
    const longestBlockMs = Math.max(0, delay.max / 1e6 - RESOLUTION_MS);
    delay.reset();
    return { longestBlockMs, memoryMb: process.memoryUsage.rss() / 1024 / 1024 };
  };
}
