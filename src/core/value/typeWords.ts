/** The words behind a data type that say how a number or a time lies in memory: `bcd`, `mask 16#00F0`, `16-bit d from 1990`. */
import { fail, ok, type Result } from '../result.ts';
import { DAY_NS, dayMs, MS_NS, SECOND_NS } from './timeText.ts';

/** What the words say; null where they say nothing. */
export interface ReadWords {
  readonly coding: 'bcd' | 'sign-magnitude' | 'mod10000' | 'parts' | null;
  /** Registers that digits are spread over. */
  readonly registers: number | null;
  readonly mask: bigint | null;
  /** Bits of a count. */
  readonly width: 8 | 16 | 32 | 64 | null;
  /** Nanoseconds that one count stands for. */
  readonly unit: bigint | null;
  /** Where a count begins. */
  readonly epochMs: number | null;
}

const NOTHING: ReadWords = { coding: null, registers: null, mask: null, width: null, unit: null, epochMs: null };

const UNIT_NS: Readonly<Record<string, bigint>> = {
  d: DAY_NS,
  h: 3600n * SECOND_NS,
  min: 60n * SECOND_NS,
  s: SECOND_NS,
  ms: MS_NS,
  us: 1000n,
  ns: 1n,
};

/** One after the other, each where it stands first in what is left. Bits of a word are counted from the least significant, 0. */
const WORDS: readonly (readonly [RegExp, (match: RegExpExecArray) => Partial<ReadWords> | null])[] = [
  [/^(bcd|sign-magnitude|parts)\b/, ([, word]) => ({ coding: word as 'bcd' })],
  [/^mod10000(?: in ([234]))?\b/, ([, count]) => ({ coding: 'mod10000', registers: count === undefined ? null : Number(count) })],
  [/^mask (?:16#|0x)([0-9a-f_]{1,19})h?(?= |$)/, ([, digits = '']) => maskOf(digits)],
  [/^mask ([0-9a-f_]{1,19})h(?= |$)/, ([, digits = '']) => maskOf(digits)],
  [/^bits? (\d{1,2})(?:(?:-|\.\.)(\d{1,2}))?(?= |$)/, ([, low, high]) => bitsOf(Number(low), Number(high ?? low))],
  [/^(8|16|32|64)-bit\b/, ([, bits]) => ({ width: Number(bits) as 16 })],
  [/^(\d{0,6})(d|h|min|s|ms|us|ns)(?= |$)/, ([, count, unit = '']) => unitOf(count === '' ? 1 : Number(count), UNIT_NS[unit] ?? 1n)],
  [/^from (\d{4})(?:-(\d{2})-(\d{2}))?(?= |$)/, ([, year, month, day]) => epochOf(Number(year), Number(month ?? 1), Number(day ?? 1))],
];

/** Refuses words that it does not know, and what is said twice. */
export function readTypeWords(text: string): Result<ReadWords> {
  let rest = text.trim().toLowerCase().replace(/\s+/g, ' ');
  let read = NOTHING;
  while (rest !== '') {
    const word = readWord(rest);
    if (!word) return fail('type-words', `“${rest.slice(0, 40)}” says nothing that is known here of how a value lies in memory.`);
    const again = Object.entries(word.said).some(([key, value]) => value !== null && read[key as keyof ReadWords] !== null);
    if (again) return fail('type-words', `“${rest.slice(0, word.length)}” is said twice.`);
    read = { ...read, ...word.said };
    rest = rest.slice(word.length).trimStart();
  }
  return ok(read);
}

function readWord(text: string): { readonly said: Partial<ReadWords>; readonly length: number } | null {
  for (const [pattern, meaning] of WORDS) {
    const match = pattern.exec(text);
    const said = match ? meaning(match) : null;
    if (match && said) return { said, length: match[0].length };
  }
  return null;
}

function maskOf(digits: string): Partial<ReadWords> | null {
  const plain = digits.replaceAll('_', '');
  return plain === '' || plain.length > 16 ? null : { mask: BigInt(`0x${plain}`) };
}

function bitsOf(one: number, other: number): Partial<ReadWords> | null {
  const [low, high] = one < other ? [one, other] : [other, one];
  return high > 63 ? null : { mask: ((1n << BigInt(high - low + 1)) - 1n) << BigInt(low) };
}

function unitOf(count: number, ns: bigint): Partial<ReadWords> | null {
  return count > 0 ? { unit: BigInt(count) * ns } : null;
}

function epochOf(year: number, month: number, day: number): Partial<ReadWords> | null {
  const epochMs = dayMs(year, month, day);
  return epochMs === null ? null : { epochMs };
}
