/** Gain and offset from readings: what a raw value was while somebody saw the true one. Least squares. */
import { fail, ok, type Result } from '../result.ts';

export interface Reading {
  readonly raw: number;
  readonly seen: number;
}

export interface Fit {
  readonly gain: number;
  readonly offset: number;
  /** What each reading is above the line, in the order in which they were given. */
  readonly residuals: readonly number[];
  /** The reading without which the others lie much closer to a line; null where none stands out. */
  readonly outlier: number | null;
}

/** Numbers of a fit are worth no more digits. */
const DIGITS = 12;
/** So many times further off than the others are from theirs. */
const STANDS_OUT = 5;

/** Refuses fewer than two readings, and readings of one raw value alone. */
export function fitLine(readings: readonly Reading[]): Result<Fit> {
  if (readings.length < 2) return fail('fit', 'Two readings are needed at least.', 'Read again at another value.');
  const line = lineThroughMeans(readings);
  if (!line) return fail('fit', 'All readings have the same raw value, so no line goes through them.', 'Read again at another value.');
  if (line.gain === 0) return fail('fit', 'The seen value did not change with the raw one.', 'Read again at another value.');
  return ok({ ...line, residuals: residualsOf(readings, line), outlier: outlierOf(readings) });
}

interface FittedLine {
  readonly gain: number;
  readonly offset: number;
}

function lineThroughMeans(readings: readonly Reading[]): FittedLine | null {
  const mean = (of: (reading: Reading) => number): number => readings.reduce((sum, reading) => sum + of(reading), 0) / readings.length;
  const [x, y] = [mean(({ raw }) => raw), mean(({ seen }) => seen)];
  let [across, square] = [0, 0];
  for (const { raw, seen } of readings) {
    across += (raw - x) * (seen - y);
    square += (raw - x) ** 2;
  }
  if (square === 0) return null;
  const gain = across / square;
  return { gain: Number(gain.toPrecision(DIGITS)), offset: Number((y - gain * x).toPrecision(DIGITS)) };
}

function residualsOf(readings: readonly Reading[], { gain, offset }: FittedLine): readonly number[] {
  return readings.map(({ raw, seen }) => seen - (gain * raw + offset));
}

function outlierOf(readings: readonly Reading[]): number | null {
  if (readings.length < 4) return null;
  const span = Math.max(...readings.map(({ seen }) => seen)) - Math.min(...readings.map(({ seen }) => seen));
  let found: { readonly at: number; readonly off: number } | null = null;
  for (const [at, reading] of readings.entries()) {
    const others = readings.filter((_, i) => i !== at);
    const line = lineThroughMeans(others);
    if (!line) continue;
    const worst = Math.max(...residualsOf(others, line).map(Math.abs), span * 1e-6);
    const off = Math.abs(reading.seen - (line.gain * reading.raw + line.offset)) / worst;
    if (off > STANDS_OUT && off > (found?.off ?? 0)) found = { at, off };
  }
  return found?.at ?? null;
}
