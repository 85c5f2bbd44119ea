/**
 * The text of durations, dates and times of day, and back. Written as the literals of IEC 61131-3, 6.3.4 and 6.3.5,
 * without the type in front; with it, `T#1h2m` or `DT#2026-03-01-06:30:00`, they are read as well.
 */
import { fail, ok, type Result } from '../result.ts';

/** What the count of a time type counts. */
export interface TimeMeaning {
  readonly shows: 'duration' | 'date' | 'timeOfDay' | 'dateTime';
  /** Nanoseconds that one count stands for. */
  readonly countNs: bigint;
  /** What a count of 0 stands for, in milliseconds since 1970-01-01; 0 for durations and times of day. */
  readonly epochMs: number;
}

export const MS_NS = 1_000_000n;
export const SECOND_NS = 1_000_000_000n;
export const DAY_NS = 86_400n * SECOND_NS;

const UNITS: readonly (readonly [unit: string, ns: bigint])[] = [
  ['d', DAY_NS],
  ['h', 3600n * SECOND_NS],
  ['m', 60n * SECOND_NS],
  ['s', SECOND_NS],
  ['ms', MS_NS],
  ['us', 1000n],
  ['ns', 1n],
];
/** The farthest day that a calendar of ECMAScript knows, from 1970 (ECMA-262, time values). */
const FARTHEST_MS = 8_640_000_000_000_000n;

/** @param count as the controller holds it */
export function timeText(meaning: TimeMeaning, count: number | bigint): string {
  const ns = BigInt(count) * meaning.countNs;
  switch (meaning.shows) {
    case 'duration':
      return durationText(ns);
    case 'date':
    case 'dateTime': {
      const whole = BigInt(meaning.epochMs) * MS_NS + ns;
      const fraction = modulo(whole, SECOND_NS);
      const ms = (whole - fraction) / MS_NS;
      if (ms > FARTHEST_MS || ms < -FARTHEST_MS) return `${count}, beyond any calendar`;
      const iso = new Date(Number(ms)).toISOString();
      const at = iso.indexOf('T');
      const [day, time] = [iso.slice(0, at), iso.slice(at + 1, at + 9) + fractionText(fraction)];
      // A DATE that names no midnight is shown whole: what does not belong there must be seen.
      return meaning.shows === 'date' && time === '00:00:00' ? day : `${day}-${time}`;
    }
    case 'timeOfDay': {
      if (ns >= DAY_NS || ns < 0n) return meaning.countNs === MS_NS ? `${count} ms, past midnight` : `${durationText(ns)}, past midnight`;
      const fraction = ns % SECOND_NS;
      const plain = fraction % MS_NS === 0n && fraction !== 0n ? `.${String(fraction / MS_NS).padStart(3, '0')}` : fractionText(fraction);
      return new Date(Number((ns - fraction) / MS_NS)).toISOString().slice(11, 19) + plain;
    }
  }
}

function modulo(value: bigint, by: bigint): bigint {
  return ((value % by) + by) % by;
}

/** Nothing for a whole second, else only the digits that say something. */
function fractionText(ns: bigint): string {
  return ns === 0n ? '' : `.${String(ns).padStart(9, '0').replace(/0+$/, '')}`;
}

function durationText(ns: bigint): string {
  if (ns === 0n) return '0s';
  let rest = ns < 0n ? -ns : ns;
  let words = ns < 0n ? '-' : '';
  for (const [unit, size] of UNITS) {
    if (rest < size) continue;
    words += `${rest / size}${unit}`;
    rest %= size;
  }
  return words;
}

/** The inverse of {@link timeText}. Refuses dates that no calendar has, and what the count cannot hold whole. */
export function parseTimeText(meaning: TimeMeaning, text: string): Result<bigint> {
  const plain = text
    .trim()
    .toLowerCase()
    .replace(/^(l?t|l?time|d|date|tod|time_of_day|dt|date_and_time)#/, '')
    .replaceAll('_', '');
  const ns =
    meaning.shows === 'duration'
      ? parseDuration(plain)
      : meaning.shows === 'timeOfDay'
        ? parseTimeOfDay(plain)
        : parseDate(plain, meaning.shows === 'dateTime', meaning.epochMs);
  return ns === null || ns % meaning.countNs !== 0n
    ? fail('unfit-value', `“${text.trim().slice(0, 40)}” is no such time.`, `Write it like ${exampleOf(meaning)}.`)
    : ok(ns / meaning.countNs);
}

function exampleOf({ shows, countNs }: TimeMeaning): string {
  switch (shows) {
    case 'duration':
      return countNs < MS_NS ? '1s5us' : countNs < SECOND_NS ? '1h2m3s4ms' : '1h2m';
    case 'date':
      return '2026-03-01';
    case 'timeOfDay':
      return countNs < SECOND_NS ? '06:30:00.5' : '06:30:00';
    case 'dateTime':
      return '2026-03-01-06:30:00';
  }
}

/** Units from large to small, each once; the last one may have a fraction (`2.5s`). In nanoseconds. */
function parseDuration(text: string): bigint | null {
  const match = /^(-?)((?:\d+(?:\.\d+)?(?:ms|us|ns|d|h|m|s))+)$/.exec(text.replaceAll(' ', ''));
  if (!match) return null;
  let total = 0n;
  let smallest = -1;
  const parts = [...(match[2] ?? '').matchAll(/(\d+)(?:\.(\d+))?(ms|us|ns|d|h|m|s)/g)];
  for (const [at, [, whole = '', fraction = '', unit]] of parts.entries()) {
    const index = UNITS.findIndex(([name]) => name === unit);
    const size = UNITS[index]?.[1];
    if (size === undefined || index <= smallest || (fraction !== '' && at < parts.length - 1)) return null;
    smallest = index;
    const divisor = 10n ** BigInt(fraction.length);
    const ns = BigInt(whole + fraction) * size;
    if (ns % divisor !== 0n) return null;
    total += ns / divisor;
  }
  return match[1] === '-' ? -total : total;
}

function parseTimeOfDay(text: string): bigint | null {
  const match = /^(\d{1,2}):(\d{2})(?::(\d{2})(?:\.(\d{1,9}))?)?$/.exec(text);
  if (!match) return null;
  const [hours, minutes, seconds] = [Number(match[1]), Number(match[2]), Number(match[3] ?? 0)];
  if (hours > 23 || minutes > 59 || seconds > 59) return null;
  return BigInt((hours * 60 + minutes) * 60 + seconds) * SECOND_NS + BigInt((match[4] ?? '').padEnd(9, '0'));
}

/** Nanoseconds since the epoch. */
function parseDate(text: string, withTime: boolean, epochMs: number): bigint | null {
  const match = /^(\d{4})-(\d{1,2})-(\d{1,2})(?:[-t ](.+))?$/.exec(text);
  if (!match || (match[4] !== undefined) !== withTime) return null;
  const at = dayMs(Number(match[1]), Number(match[2]), Number(match[3]));
  const time = withTime ? parseTimeOfDay(match[4] ?? '') : 0n;
  return at === null || time === null ? null : BigInt(at - epochMs) * MS_NS + time;
}

/** Milliseconds from 1970-01-01 to the beginning of a day; null for a day that no calendar has. */
export function dayMs(year: number, month: number, day: number): number | null {
  const at = new Date(0);
  at.setUTCFullYear(year, month - 1, day);
  return at.getUTCFullYear() === year && at.getUTCMonth() === month - 1 && at.getUTCDate() === day ? at.getTime() : null;
}

/** The count for a moment, in milliseconds since 1970-01-01; what a count does not reach is left away. */
export function countAt({ countNs, epochMs }: TimeMeaning, ms: number): bigint {
  const ns = BigInt(Math.floor(ms) - epochMs) * MS_NS;
  return (ns - modulo(ns, countNs)) / countNs;
}

/** The inverse of {@link countAt}. */
export function momentOf({ countNs, epochMs }: TimeMeaning, count: number | bigint): number {
  return epochMs + Number((BigInt(count) * countNs) / MS_NS);
}
