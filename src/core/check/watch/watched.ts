/** What is remembered of a tag that is watched: how far it went, how fast it goes, when it last changed, and its last minutes. */
export interface WatchPoint {
  /** Clock time in milliseconds. */
  readonly at: number;
  /** Null where there was no value. */
  readonly number: number | null;
}

export interface Watched {
  readonly low: number | null;
  readonly high: number | null;
  /** When its text last became another one; null before it did. */
  readonly changedAt: number | null;
  readonly text: string;
  /** The oldest first. */
  readonly points: readonly WatchPoint[];
}

export const NOTHING_WATCHED: Watched = { low: null, high: null, changedAt: null, text: '', points: [] };

/** The rate is that of so long. */
export const RATE_MS = 10_000;
const MOST_POINTS = 1200;

/** @param number null for what has no value, or none that is good */
export function afterSample(before: Watched, at: number, number: number | null, text: string, keepMs: number): Watched {
  const isFirst = before.points.length === 0;
  const last = before.points.at(-1);
  if (last && at <= last.at) return before;
  const points = [...before.points, { at, number }].filter((point) => point.at > at - keepMs).slice(-MOST_POINTS);
  return {
    low: number === null ? before.low : Math.min(before.low ?? number, number),
    high: number === null ? before.high : Math.max(before.high ?? number, number),
    changedAt: isFirst || text === before.text ? before.changedAt : at,
    text,
    points,
  };
}

/** Units a second over the last seconds, by least squares; null where it cannot be told. */
export function ratePerSecond({ points }: Watched): number | null {
  const end = points.at(-1)?.at ?? 0;
  const known = points.flatMap(({ at, number }) => (number === null || at < end - RATE_MS ? [] : [{ x: (at - end) / 1000, y: number }]));
  const [first] = known;
  if (known.length < 3 || !first || first.x > -1) return null;
  const mean = (of: (point: { x: number; y: number }) => number): number => known.reduce((sum, point) => sum + of(point), 0) / known.length;
  const [mx, my] = [mean(({ x }) => x), mean(({ y }) => y)];
  const over = known.reduce((sum, { x, y }) => sum + (x - mx) * (y - my), 0);
  const under = known.reduce((sum, { x }) => sum + (x - mx) ** 2, 0);
  return under === 0 ? null : over / under;
}
