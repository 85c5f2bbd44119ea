/**
 * The text of durations, dates and times of day, and back. Written as the literals of IEC 61131-3, 6.3.4 and 6.3.5,
 * without the type in front; with it, `T#1h2m` or `DT#2026-03-01-06:30:00`, they are read as well.
 */
import { fail, ok, type Result } from '../result.ts';

/** What the count of a time type counts. */
export type TimeMeaning = 'duration-ms' | 'duration-ns' | 'date-s' | 'timeOfDay-ms' | 'dateTime-s';

const UNITS: readonly (readonly [unit: string, ns: bigint])[] = [
  ['d', 86_400_000_000_000n],
  ['h', 3_600_000_000_000n],
  ['m', 60_000_000_000n],
  ['s', 1_000_000_000n],
  ['ms', 1_000_000n],
  ['us', 1000n],
  ['ns', 1n],
];
const DAY_MS = 86_400_000;
const EXAMPLES: Readonly<Record<TimeMeaning, string>> = {
  'duration-ms': '1h2m3s4ms',
  'duration-ns': '1s5us',
  'date-s': '2026-03-01',
  'timeOfDay-ms': '06:30:00.5',
  'dateTime-s': '2026-03-01-06:30:00',
};

/** @param count as the controller holds it: milliseconds, nanoseconds, or seconds since 1970-01-01 */
export function timeText(meaning: TimeMeaning, count: number | bigint): string {
  switch (meaning) {
    case 'duration-ms':
      return durationText(BigInt(count) * 1_000_000n);
    case 'duration-ns':
      return durationText(BigInt(count));
    case 'date-s':
    case 'dateTime-s': {
      const iso = new Date(Number(count) * 1000).toISOString();
      const [day = '', time = ''] = [iso.slice(0, 10), iso.slice(11, 19)];
      // A DATE that names no midnight is shown whole: what does not belong there must be seen.
      return meaning === 'date-s' && time === '00:00:00' ? day : `${day}-${time}`;
    }
    case 'timeOfDay-ms': {
      const ms = Number(count);
      if (ms >= DAY_MS) return `${ms} ms, past midnight`;
      return new Date(ms).toISOString().slice(11, ms % 1000 === 0 ? 19 : 23);
    }
  }
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
  const count =
    meaning === 'duration-ms' || meaning === 'duration-ns'
      ? parseDuration(plain, meaning === 'duration-ms' ? 1_000_000n : 1n)
      : meaning === 'timeOfDay-ms'
        ? parseTimeOfDay(plain)
        : parseDate(plain, meaning === 'dateTime-s');
  return count === null ? fail('unfit-value', `“${text.trim().slice(0, 40)}” is no such time.`, `Write it like ${EXAMPLES[meaning]}.`) : ok(count);
}

/** Units from large to small, each once; the last one may have a fraction (`2.5s`). */
function parseDuration(text: string, countNs: bigint): bigint | null {
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
  if (total % countNs !== 0n) return null;
  return (match[1] === '-' ? -total : total) / countNs;
}

function parseTimeOfDay(text: string): bigint | null {
  const match = /^(\d{1,2}):(\d{2})(?::(\d{2})(?:\.(\d{1,3}))?)?$/.exec(text);
  if (!match) return null;
  const [hours, minutes, seconds] = [Number(match[1]), Number(match[2]), Number(match[3] ?? 0)];
  if (hours > 23 || minutes > 59 || seconds > 59) return null;
  return BigInt(((hours * 60 + minutes) * 60 + seconds) * 1000 + Number((match[4] ?? '').padEnd(3, '0')));
}

function parseDate(text: string, withTime: boolean): bigint | null {
  const match = /^(\d{4})-(\d{1,2})-(\d{1,2})(?:[-t ](.+))?$/.exec(text);
  if (!match || (match[4] !== undefined) !== withTime) return null;
  const [year, month, day] = [Number(match[1]), Number(match[2]), Number(match[3])];
  const at = new Date(Date.UTC(year, month - 1, day));
  if (at.getUTCMonth() !== month - 1 || at.getUTCDate() !== day) return null;
  const time = withTime ? parseTimeOfDay(match[4] ?? '') : 0n;
  if (time === null || time % 1000n !== 0n) return null;
  return BigInt(at.getTime()) / 1000n + time / 1000n;
}
