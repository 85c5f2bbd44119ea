/** What somebody or something saw of a value at one moment, beside what was on the wire. */
import { isDecimal, parseDecimal, toDecimal, compareDecimals } from '../../value/decimal.ts';
import type { EngValue } from '../../value/engineering.ts';
import { resolutionOf } from '../verdict.ts';
import { shownBy, textBy, type Sight, type Way } from './way.ts';

/** A number that was seen lies within half of its last shown place; states and texts are what they are. */
export type Seen =
  | { readonly kind: 'number'; readonly value: EngValue; readonly low: number; readonly high: number; readonly text: string | null }
  | { readonly kind: 'state'; readonly value: boolean | string }
  /** Dashes or question marks, as of a value that is none. */
  | { readonly kind: 'nothing' };

export interface Observation {
  readonly sight: Sight;
  readonly seen: Seen;
}

/** Beyond it two doubles may stand for the same whole number. */
const EXACT = 2 ** 53;

/**
 * A number as it was read from a display: 12.30 was shown for 12.295 to 12.305.
 * @param tolerance  in engineering units, beside the half of the last place
 */
export function seenNumber(text: string, tolerance = 0): Seen | null {
  const match = /^[+-]?\d+(?:\.(\d*))?(?:e([+-]?\d{1,3}))?$/i.exec(text.trim());
  const decimal = match && parseDecimal(text.trim());
  const number = Number(text.trim());
  if (!match || !Number.isFinite(number)) return null;
  const half = 0.5 * 10 ** (Number(match[2] ?? 0) - (match[1]?.length ?? 0)) + tolerance;
  // What the arithmetic of a double leaves is forgiven.
  const slack = half * 1e-9 + Math.abs(number) * 2 * Number.EPSILON;
  return { kind: 'number', value: decimal ?? number, low: number - half - slack, high: number + half + slack, text: text.trim() };
}

/** Any number between two. */
export function seenBetween(low: number, high: number): Seen {
  return { kind: 'number', value: (low + high) / 2, low, high, text: null };
}

/** What lies between the decimals that are written for one and the same REAL: 24 bits of IEEE 754's single format, half of the last. */
const SINGLE_SLACK = 2 ** -23;

export function agreesWith(way: Way, { sight, seen }: Observation): boolean {
  const { number, value } = shownBy(way, sight);
  if (seen.kind === 'nothing') return value === null;
  if (seen.kind === 'state') return value === seen.value;
  if (number === null || value === null || typeof value === 'boolean') return false;
  // A number that was told, not written, has as many digits as it likes: it lies within a count.
  const slack =
    seen.text === null
      ? resolutionOf(way.def, seen.value) * 10 ** way.point
      : way.def.type.kind === 'real' && way.def.type.bytes === 4
        ? Math.abs(number) * SINGLE_SLACK
        : 0;
  if (Math.abs(number) < EXACT || typeof value === 'number' || typeof value === 'string')
    return number >= seen.low - slack && number <= seen.high + slack;
  const [mine, theirs] = [exact(value), exact(seen.value)];
  return mine !== null && theirs !== null && compareDecimals(mine, theirs) === 0;
}

/** Whether it would be written with the very same digits. */
export function isWrittenSo(way: Way, sight: Sight, seen: Seen): boolean {
  return seen.kind !== 'number' || seen.text === null || textBy(way, sight) === seen.text;
}

function exact(value: EngValue) {
  return typeof value === 'boolean' || typeof value === 'string' ? null : isDecimal(value) ? value : toDecimal(value);
}

/** Whether a number was told over a wider span than before. */
export function isWider(seen: Seen, before: Seen): boolean {
  if (seen.kind !== 'number' || before.kind !== 'number') return false;
  return seen.high - seen.low > 2 * (before.high - before.low);
}
