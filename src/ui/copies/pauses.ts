/** Pauses between copies: those that are offered, and how they are called. */
export const PAUSES_MS = [200, 500, 1000, 2000, 5000, 10_000, 30_000, 60_000, 600_000, 3_600_000] as const;

export function everyText(ms: number): string {
  if (ms < 1000) return `${ms} ms`;
  if (ms < 60_000) return `${ms / 1000} s`;
  return ms < 3_600_000 ? `${ms / 60_000} min` : `${ms / 3_600_000} h`;
}
