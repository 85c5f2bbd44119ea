/** Straight lines in exact fractions: (p · x + q) / r. Lines upon lines are one line, and nothing is lost on the way. */
import { decimalNumber, isDecimal, toDecimal, type Decimal } from '../value/decimal.ts';

/** r is above zero, and the three have no factor in common. */
export interface Line {
  readonly p: bigint;
  readonly q: bigint;
  readonly r: bigint;
}

interface Fraction {
  readonly over: bigint;
  readonly under: bigint;
}

/** A number as the decimal that it is written as: 0.1 is one tenth. */
function fraction(value: number | bigint | Decimal): Fraction {
  const { digits, exponent } = isDecimal(value) ? value : toDecimal(value);
  return exponent >= 0 ? { over: digits * 10n ** BigInt(exponent), under: 1n } : { over: digits, under: 10n ** BigInt(-exponent) };
}

/** y = gain · x + offset */
export function lineOf(gain: number | Decimal, offset: number): Line {
  const [g, o] = [fraction(gain), fraction(offset)];
  return reduced(g.over * o.under, o.over * g.under, g.under * o.under);
}

/** Through two points with different x. */
export function lineThrough(xa: number, ya: number, xb: number, yb: number): Line {
  const [a, b, c, d] = [xa, ya, xb, yb].map(fraction) as [Fraction, Fraction, Fraction, Fraction];
  // (yb − ya) / (xb − xa) as one fraction.
  const rise = { over: d.over * b.under - b.over * d.under, under: d.under * b.under };
  const run = { over: c.over * a.under - a.over * c.under, under: c.under * a.under };
  const [over, under] = [rise.over * run.under, rise.under * run.over];
  // y = ya + slope · (x − xa)
  const q = b.over * under * a.under - over * a.over * b.under;
  return reduced(over * b.under * a.under, q, under * b.under * a.under);
}

/** First one line, then another. */
export function after(first: Line, then: Line): Line {
  return reduced(then.p * first.p, then.p * first.q + then.q * first.r, then.r * first.r);
}

function reduced(p: bigint, q: bigint, r: bigint): Line {
  const common = gcd(gcd(magnitude(p), magnitude(q)), magnitude(r));
  const by = r < 0n ? -common : common;
  return { p: p / by, q: q / by, r: r / by };
}

function magnitude(value: bigint): bigint {
  return value < 0n ? -value : value;
}

/** Greatest common divisor; 1 where both are 0. */
export function gcd(a: bigint, b: bigint): bigint {
  while (b !== 0n) [a, b] = [b, a % b];
  return a === 0n ? 1n : a;
}

/** How many decimals its results have at most for whole numbers; null where they do not end. */
export function decimalsOf({ r }: Line): number | null {
  let [rest, twos, fives] = [r, 0, 0];
  while (rest % 2n === 0n) [rest, twos] = [rest / 2n, twos + 1];
  while (rest % 5n === 0n) [rest, fives] = [rest / 5n, fives + 1];
  return rest === 1n ? Math.max(twos, fives) : null;
}

/** Of a decimal exactly, where it ends; null where it does not. */
export function along({ p, q, r }: Line, x: number | bigint | Decimal): Decimal | null {
  const { over, under } = fraction(x);
  return ended(p * over + q * under, r * under);
}

/** What the line was at a value, to the nearest whole number, halves away from zero. */
export function wholeBefore({ p, q, r }: Line, y: number | bigint | Decimal): bigint {
  const { over, under } = fraction(y);
  const [top, bottom] = [(r * over - q * under) * (p < 0n ? -1n : 1n), magnitude(p) * under];
  return top < 0n ? -((-2n * top + bottom) / (2n * bottom)) : (2n * top + bottom) / (2n * bottom);
}

/** The inverse; the slope is not zero. */
export function inverted({ p, q, r }: Line): Line {
  return reduced(r, -q, p);
}

/** Nearest double; both ends of the division are as exact as they can be. */
export function numberAlong(line: Line, x: number | bigint | Decimal): number {
  const exact = along(line, x);
  if (exact) return decimalNumber(exact);
  const { over, under } = fraction(x);
  return divided(line.p * over + line.q * under, line.r * under);
}

/** The double nearest to a fraction: 64 bits of it are counted, and the rest is below what a double keeps. */
function divided(over: bigint, under: bigint): number {
  const sign = over < 0n ? -1 : 1;
  const top = magnitude(over);
  const shift = 70 - (top.toString(2).length - under.toString(2).length);
  const quotient = shift >= 0 ? (top << BigInt(shift)) / under : top / (under << BigInt(-shift));
  return sign * Number(quotient) * 2 ** -shift;
}

function ended(over: bigint, under: bigint): Decimal | null {
  const common = gcd(magnitude(over), under);
  const [top, bottom] = [over / common, under / common];
  const decimals = decimalsOf({ p: 1n, q: 0n, r: bottom });
  return decimals === null ? null : { digits: (top * 10n ** BigInt(decimals)) / bottom, exponent: decimals === 0 ? 0 : -decimals };
}
