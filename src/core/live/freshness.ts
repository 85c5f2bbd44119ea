/** How long a value stays fresh. The server judges it and tells it with each sample; no page has a rule of its own. */

/** Beyond two periods: a time-out and its retry. */
const ALLOWANCE_MS = 1000;

/** A value that is older than this is no longer good, in milliseconds. */
export function freshForMs(periodMs: number): number {
  return 2 * periodMs + ALLOWANCE_MS;
}

/** What a reading that comes too seldom is told as. */
export function slowInWords(slow: Slow): string {
  return `asked for every ${seconds(slow.askedMs)}, read every ${seconds(slow.everyMs)}`;
}

/** Tags that are read less often than they are asked for. */
export interface Slow {
  readonly askedMs: number;
  readonly everyMs: number;
}

function seconds(ms: number): string {
  return ms < 10_000 ? `${Number((ms / 1000).toPrecision(2))} s` : `${Math.round(ms / 1000)} s`;
}
