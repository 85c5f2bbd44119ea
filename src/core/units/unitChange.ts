/** A scale that goes on into another unit, and what is said in the old one then. */
import type { Limits } from '../ranges/limits.ts';
import type { Range } from '../ranges/range.ts';
import { numberAlong, type Line } from '../scaling/line.ts';
import { stepsOf, type Scale } from '../scaling/scale.ts';
import { unitLine } from './unitLine.ts';

export interface UnitChange {
  readonly from: string;
  readonly to: string;
  readonly line: Line;
}

/** The unit that one scale has become another by, where a step of a unit at its end is all that came or went; null else. */
export function unitChange(before: Scale, after: Scale): UnitChange | null {
  const [old, now] = [stepsOf(before), stepsOf(after)];
  const [short, long] = old.length < now.length ? [old, now] : [now, old];
  const last = long.at(-1);
  if (long.length !== short.length + 1 || last?.kind !== 'unit' || JSON.stringify(short) !== JSON.stringify(long.slice(0, -1))) return null;
  const [from, to] = long === now ? [last.from, last.to] : [last.to, last.from];
  const line = unitLine(from, to);
  return line.ok ? { from, to, line: line.value } : null;
}

export function rangeAlong(line: Line, { low, high }: Range): Range {
  return { low: numberAlong(line, low), high: numberAlong(line, high) };
}

/** A hysteresis is a difference: it has no zero to be moved. */
export function limitsAlong(line: Line, { lowLow, low, high, highHigh, hysteresis, delayMs }: Limits): Limits {
  const along = (value: number | null): number | null => (value === null ? null : numberAlong(line, value));
  return {
    lowLow: along(lowLow),
    low: along(low),
    high: along(high),
    highHigh: along(highHigh),
    hysteresis: numberAlong({ ...line, q: 0n }, hysteresis),
    delayMs,
  };
}
