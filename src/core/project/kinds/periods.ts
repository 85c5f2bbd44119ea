/** The scan periods that are offered, the shortest and longest included, in milliseconds. */
export const PERIODS_MS = [100, 200, 500, 1000, 2000, 5000, 10000, 60000] as const;
