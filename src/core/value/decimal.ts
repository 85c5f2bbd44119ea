/** A whole number with a decimal exponent: how a 64-bit count stays exact when it is shown in other units. */
export interface Decimal {
  readonly digits: bigint;
  /** The value is digits · 10^exponent. */
  readonly exponent: number;
}

export function isDecimal(value: unknown): value is Decimal {
  return typeof value === 'object' && value !== null && 'digits' in value && 'exponent' in value;
}

/** The exact value in plain notation: 2500000000e-9 is `2.500000000`. */
export function decimalText(value: Decimal): string {
  if (value.exponent >= 0) return (value.digits * 10n ** BigInt(value.exponent)).toString();
  const places = -value.exponent;
  const sign = value.digits < 0n ? '-' : '';
  const body = (value.digits < 0n ? -value.digits : value.digits).toString().padStart(places + 1, '0');
  return `${sign}${body.slice(0, -places)}.${body.slice(-places)}`;
}

/** Rounds to a number of decimals, halves away from zero, and writes it in plain notation. */
export function decimalFixed(value: Decimal, decimals: number): string {
  const shift = value.exponent + decimals;
  let digits = value.digits;
  if (shift >= 0) digits *= 10n ** BigInt(shift);
  else {
    const unit = 10n ** BigInt(-shift);
    const half = unit / 2n;
    digits = digits < 0n ? -((-digits + half) / unit) : (digits + half) / unit;
  }
  return decimalText({ digits, exponent: -decimals });
}

/**
 * Reads plain or scientific notation exactly: `2.5`, `.5`, `-12e3`. A decimal comma is refused by the caller's rules.
 * @returns null when the text is no number, or its exponent is beyond ±400
 */
export function parseDecimal(text: string): Decimal | null {
  const match = /^([+-]?)(?=\.?\d)(\d{0,400})(?:\.(\d{0,400}))?(?:[eE]([+-]?\d{1,4}))?$/.exec(text.trim());
  if (!match) return null;
  const fraction = match[3] ?? '';
  const exponent = Number(match[4] ?? 0) - fraction.length;
  if (Math.abs(exponent) > 400) return null;
  const digits = BigInt((match[2] ?? '') + fraction);
  return { digits: match[1] === '-' ? -digits : digits, exponent };
}

/** The exact decimal of a whole number or of the shortest text that names a double. */
export function toDecimal(value: number | bigint): Decimal {
  if (typeof value === 'bigint') return { digits: value, exponent: 0 };
  return parseDecimal(String(value)) ?? { digits: BigInt(Math.trunc(value)), exponent: 0 };
}

/** Negative, zero or positive as `a` is below, equal to or above `b`; exact. */
export function compareDecimals(a: Decimal, b: Decimal): number {
  const exponent = Math.min(a.exponent, b.exponent);
  const difference = a.digits * 10n ** BigInt(a.exponent - exponent) - b.digits * 10n ** BigInt(b.exponent - exponent);
  return difference < 0n ? -1 : difference > 0n ? 1 : 0;
}

/** Whether two values are no further apart than a distance; exact. */
export function isWithin(a: Decimal, b: Decimal, distance: Decimal): boolean {
  const exponent = Math.min(a.exponent, b.exponent);
  const apart = a.digits * 10n ** BigInt(a.exponent - exponent) - b.digits * 10n ** BigInt(b.exponent - exponent);
  return compareDecimals({ digits: apart < 0n ? -apart : apart, exponent }, distance) <= 0;
}

/** As a double, for drawing and comparing only. */
export function decimalNumber({ digits, exponent }: Decimal): number {
  const whole = Number(digits);
  const unit = EXACT_POWERS[Math.abs(exponent)];
  // Both exact, so that the one rounding of the division or multiplication gives the double nearest to the decimal.
  if (unit !== undefined && Number.isSafeInteger(whole)) return exponent < 0 ? whole / unit : whole * unit;
  return Number(`${digits}e${exponent}`);
}

/** Powers of ten that a double holds exactly, by exponent. */
export const EXACT_POWERS: readonly number[] = Array.from({ length: 23 }, (_, exponent) => Number(`1e${exponent}`));

/** Exact. */
export function addDecimals(a: Decimal, b: Decimal): Decimal {
  const exponent = Math.min(a.exponent, b.exponent);
  const at = ({ digits, exponent: own }: Decimal): bigint => digits * 10n ** BigInt(own - exponent);
  return { digits: at(a) + at(b), exponent };
}
