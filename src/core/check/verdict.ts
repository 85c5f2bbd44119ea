/** Whether what a witness saw agrees with what came through the mapping. */
import { countWorth, pointMoved, toRaw } from '../scaling/scale.ts';
import { engineeringText, followWire, otherOrders, type SignalDefinition, type WireValue, unjudged } from '../signal.ts';
import { compareDecimals, isDecimal, toDecimal, type Decimal } from '../value/decimal.ts';
import { asNumber, type EngValue } from '../value/engineering.ts';
import { orderInWords } from '../value/byteOrder.ts';

export interface Agreement {
  readonly agrees: boolean;
  readonly sentence: string;
}

/** How far apart two readings may be, beside the value, for a person to have read a number between them. */
const WIDEST_BRACKET = 0.05;

/**
 * Compares a reading with what a witness told just before it was asked for and just after it came. The bracket is
 * the witness's own, so a wrong mapping whose value jumps about cannot fall into it by jumping.
 */
export function compareTold(def: SignalDefinition, told: readonly [EngValue, EngValue], reading: EngValue): Agreement {
  const [first, last] = told;
  const [low, high] = ordered(first, last);
  const agrees = within(reading, low, high, resolutionOf(def, first));
  const shown = showing(def);
  const said = same(first, last) || shown(first) === shown(last) ? shown(last) : `${shown(first)} to ${shown(last)}`;
  return { agrees, sentence: `The witness says ${said}, the mapping gives ${shown(reading)}.` };
}

/**
 * Compares what a person read with the readings before and after. A value that moves agrees when the person's
 * number lies between them, as long as they lie near each other.
 *
 * @param step half of the last place that the person could read, in engineering units; see {@link typedStep}
 * @param said as it was read, where the tag would show it otherwise
 */
export function compareSeen(def: SignalDefinition, before: EngValue, after: EngValue, seen: EngValue, step: number, said = ''): Agreement {
  const [low, high] = ordered(before, after);
  const [l, h, s] = [asNumber(low), asNumber(high), asNumber(seen)];
  const tolerance = step + resolutionOf(def, seen);
  const isNear = l !== null && h !== null && s !== null && h - l <= Math.max(WIDEST_BRACKET * Math.abs(s), 4 * tolerance);
  const agrees = isNear ? within(seen, low, high, tolerance) : within(seen, before, before, tolerance) || within(seen, after, after, tolerance);
  const shown = showing(def);
  const gave = shown(before) === shown(after) ? `the mapping gives ${shown(after)}` : `the mapping gives ${shown(before)}, then ${shown(after)}`;
  const quoted = said === '' ? shown(seen) : `${said}${def.unit === '' ? '' : ` ${def.unit}`}`;
  return { agrees, sentence: `The witness says ${quoted}, ${gave}.` };
}

/**
 * Why a value proves too little, or null. A register that nobody uses holds zero as well, bytes that look the
 * same in another order say nothing about the order, and zero nothing about a factor.
 */
export function saysTooLittle(def: SignalDefinition, wire: WireValue): string | null {
  if (def.type.kind === 'boolean') return null;
  const { eng } = followWire(unjudged(def), wire);
  if (eng === null) return null;
  if (wire.kind !== 'bytes')
    return asNumber(eng) === 0 && def.scale.kind !== 'none'
      ? 'Zero is zero at any factor: the scale is not proven by it. Check again at another value.'
      : null;
  if (wire.bytes.every((byte) => byte === 0))
    return 'Every byte is zero, as in memory that nobody uses: this proves nothing. Check again at another value.';
  const twin = otherOrders(def).find((order) => {
    const other = followWire({ ...unjudged(def), order }, wire).eng;
    return other !== null && same(other, eng);
  });
  return twin === undefined
    ? null
    : `The value would be the same with ${orderInWords(twin)} (${twin}), so the order is not proven by it. Check again at another value.`;
}

/**
 * The step of engineering value that the mapping can tell apart near a value: one raw count, and for reals one unit
 * in the last place. Zero where the witness itself speaks in whole counts: then it must be met exactly.
 */
export function resolutionOf(def: SignalDefinition, told: EngValue): number {
  const near = Math.abs(asNumber(told) ?? 0);
  if (def.type.kind === 'text' || def.type.kind === 'boolean') return 0;
  if (def.type.kind === 'real') return near * (def.type.bytes === 4 ? 2 ** -23 : 2 ** -52);
  const moved = pointMoved(def.scale);
  if (moved !== null) return isMultiple(told, moved) ? 0 : 10 ** moved;
  const raw = toRaw(def.scale, told, false);
  return countWorth(def.scale, raw.ok ? Math.round(Number(raw.value)) : 0);
}

/** Half of the last place of a typed number: a person who reads 104.6 has seen 104.55 to 104.65. */
export function typedStep(text: string): number {
  const match = /^[+-]?\d+(?:\.(\d*))?$/.exec(text.trim());
  if (!match) return 0;
  const places = match[1]?.length ?? 0;
  return places === 0 && match[1] === undefined ? 0 : 0.5 * 10 ** -places;
}

/** States and texts are the same or not; numbers are compared exactly where no tolerance is given. */
function within(value: EngValue, low: EngValue, high: EngValue, tolerance: number): boolean {
  const [v, l, h] = [exact(value), exact(low), exact(high)];
  if (v === null || l === null || h === null) return value === low || value === high;
  if (compareDecimals(v, l) >= 0 && compareDecimals(v, h) <= 0) return true;
  if (tolerance === 0) return false;
  const [vn, ln, hn] = [asNumber(value) ?? NaN, asNumber(low) ?? NaN, asNumber(high) ?? NaN];
  // A distance equal to the tolerance is agreement, so the rounding of its own arithmetic is forgiven.
  const slack = tolerance * (1 + 1e-9) + Number.EPSILON * Math.abs(vn);
  return vn >= ln - slack && vn <= hn + slack;
}

function ordered(a: EngValue, b: EngValue): readonly [EngValue, EngValue] {
  const [x, y] = [exact(a), exact(b)];
  return x !== null && y !== null && compareDecimals(x, y) > 0 ? [b, a] : [a, b];
}

/** Whether two values are the same: states, texts, and numbers however they are kept. */
export function same(a: EngValue, b: EngValue): boolean {
  const [x, y] = [exact(a), exact(b)];
  return x !== null && y !== null ? compareDecimals(x, y) === 0 : a === b;
}

function exact(value: EngValue): Decimal | null {
  return typeof value === 'boolean' || typeof value === 'string' ? null : isDecimal(value) ? value : toDecimal(value);
}

/** Whether a value is a whole multiple of 10^exponent. */
function isMultiple(value: EngValue, exponent: number): boolean {
  const decimal = exact(value);
  if (decimal === null) return false;
  const finer = exponent - decimal.exponent;
  return finer <= 0 || decimal.digits % 10n ** BigInt(finer) === 0n;
}

function showing(def: SignalDefinition): (value: EngValue) => string {
  const unit = def.unit ? ` ${def.unit}` : '';
  return (value) => `${engineeringText(def, value)}${unit}`;
}
