/** Texts that count on: `stand_1`, `stand_2`; 40018, 40020; `40031.15`, `40032.0`; masks that double. */

/** The last number of a text, with its place; null where there is none. */
function lastNumber(text: string): { readonly from: number; readonly to: number; readonly value: bigint; readonly width: number } | null {
  const match = /(\d{1,18})(?!.*\d)/s.exec(text);
  const digits = match?.[1];
  if (!match || digits === undefined) return null;
  return { from: match.index, to: match.index + digits.length, value: BigInt(digits), width: digits.length };
}

/** A text whose last number is larger by so much; leading zeros stay. Null where it has none, or would fall below 0. */
export function countedOn(text: string, by: number): string | null {
  const last = lastNumber(text);
  if (!last) return null;
  const value = last.value + BigInt(by);
  if (value < 0n) return null;
  const isPadded = last.width > 1 && text[last.from] === '0';
  const digits = value.toString();
  return text.slice(0, last.from) + (isPadded ? digits.padStart(last.width, '0') : digits) + text.slice(last.to);
}

/** How much the last number of a text grows from one to the next; null where something else differs. */
export function stepBetween(one: string, next: string): number | null {
  const [a, b] = [lastNumber(one), lastNumber(next)];
  if (!a || !b || one.slice(0, a.from) !== next.slice(0, b.from) || one.slice(a.to) !== next.slice(b.to)) return null;
  return Number(b.value - a.value);
}

const MASK = /(16#|0x)([0-9a-f]+)/i;

/** A text whose mask in hexadecimal stands as many bits higher, as wide as it was written; null where no bit is left. */
export function maskMoved(text: string, bits: number): string | null {
  const match = MASK.exec(text);
  const digits = match?.[2];
  if (!match || digits === undefined) return null;
  const moved = BigInt(`0x${digits}`) << BigInt(bits);
  if (moved.toString(16).length > digits.length) return null;
  const written = moved.toString(16).padStart(digits.length, '0');
  return text.replace(MASK, `${match[1] ?? ''}${digits === digits.toLowerCase() && /[a-f]/.test(digits) ? written : written.toUpperCase()}`);
}

export function hasMask(text: string): boolean {
  return MASK.test(text);
}

/**
 * Continues what was given.
 * @param given one text or more: two say the step
 * @param step  where one text alone does not say it
 * @returns as many texts as are wanted; null where a text cannot count on
 */
export function seriesAfter(given: readonly string[], count: number, step = 1): readonly (string | null)[] {
  const last = given.at(-1) ?? '';
  const before = given.at(-2);
  if (before === last && given.length > 1) return Array.from({ length: count }, () => last);
  if (hasMask(last)) {
    const width = widthOf(last);
    return Array.from({ length: count }, (_, i) => maskMoved(last, (i + 1) * width));
  }
  const by = before === undefined ? step : (stepBetween(before, last) ?? step);
  return Array.from({ length: count }, (_, i) => countedOn(last, (i + 1) * by));
}

/** Bits of a mask, from its lowest to its highest one. */
function widthOf(text: string): number {
  const bits = BigInt(`0x${MASK.exec(text)?.[2] ?? '1'}`).toString(2);
  return Math.max(1, bits.replace(/0+$/, '').length);
}
