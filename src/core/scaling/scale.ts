/** The two-way rule between a raw number and its engineering value. */
import { isDecimal, toDecimal, type Decimal } from '../value/decimal.ts';
import { asNumber, type EngValue } from '../value/engineering.ts';
import { fail, ok, type Result } from '../result.ts';

export type Scale =
  | { readonly kind: 'none' }
  /** Straight line through two points. Raw points may be fractional (4 mA on 0…20 mA in 27648 counts is 5529.6). */
  | { readonly kind: 'linear'; readonly rawA: number; readonly engA: number; readonly rawB: number; readonly engB: number }
  /** engineering = raw · 10^exponent, exact for integers of any width. */
  | { readonly kind: 'power'; readonly exponent: number };

export const AS_IS: Scale = { kind: 'none' };

/** Says what is wrong with a scale that cannot be used both ways. */
export function checkScale(scale: Scale): Result<Scale> {
  if (scale.kind === 'linear') {
    const points = [scale.rawA, scale.engA, scale.rawB, scale.engB];
    if (!points.every(Number.isFinite)) return fail('scale-points', 'Every point of a scale must be a number.');
    if (scale.rawA === scale.rawB)
      return fail('scale-raw', 'Both raw points are the same, so no line goes through them.', 'Give two different raw values.', 'rawB');
    if (scale.engA === scale.engB)
      return fail(
        'scale-eng',
        'Both engineering points are the same, so no value could be written back.',
        'Give two different engineering values.',
        'engB',
      );
  }
  if (scale.kind === 'power' && (!Number.isInteger(scale.exponent) || Math.abs(scale.exponent) > 18))
    return fail('scale-exponent', 'The power of ten must be a whole number from -18 to 18.', undefined, 'exponent');
  return ok(scale);
}

/** A scaled number, and whether digits were lost on the way (a 64-bit count beyond 53 bits on a sloped line). */
export interface Scaled {
  readonly value: EngValue;
  readonly rounded: boolean;
}

/** Raw number to engineering value. Booleans and texts are never scaled: the caller does not bring them here. */
export function toEngineering(scale: Scale, raw: number | bigint): Scaled {
  switch (scale.kind) {
    case 'none':
      return { value: raw, rounded: false };
    case 'linear': {
      const x = Number(raw);
      const rounded = typeof raw === 'bigint' && BigInt(x) !== raw;
      if (x === scale.rawB) return { value: scale.engB, rounded };
      return { value: scale.engA + ((x - scale.rawA) * (scale.engB - scale.engA)) / (scale.rawB - scale.rawA), rounded };
    }
    case 'power':
      if (typeof raw === 'bigint' || Number.isSafeInteger(raw)) return { value: { digits: BigInt(raw), exponent: scale.exponent }, rounded: false };
      return { value: shiftedReal(raw, scale.exponent), rounded: false };
  }
}

/**
 * Engineering value to the raw number nearest to it.
 * @param whole true when the controller holds integers: the result is then a bigint, halves away from zero
 */
export function toRaw(scale: Scale, value: EngValue, whole: boolean): Result<number | bigint> {
  if (typeof value === 'boolean' || typeof value === 'string')
    return fail('unfit-value', 'A number is needed here.', 'Enter a number with a decimal point.');
  if (!Number.isFinite(asNumber(value))) return tooLarge();
  switch (scale.kind) {
    case 'none':
      return whole ? ok(toWhole(value)) : ok(asNumber(value) ?? 0);
    case 'linear': {
      const y = asNumber(value) ?? 0;
      const raw = y === scale.engB ? scale.rawB : scale.rawA + ((y - scale.engA) * (scale.rawB - scale.rawA)) / (scale.engB - scale.engA);
      if (!Number.isFinite(raw)) return tooLarge();
      return whole ? ok(toWhole(raw)) : ok(raw);
    }
    case 'power':
      if (!whole) {
        return ok(shiftedReal(asNumber(value) ?? 0, -scale.exponent));
      }
      return ok(shifted(exact(value), -scale.exponent));
  }
}

/** By its decimal text, so that tenths are counted in tenths: 0.7 in tenths is 0.07. */
function shiftedReal(value: number, by: number): number {
  const [digits = '', exponent = '0'] = value.toExponential().split('e');
  return Object.is(value, -0) ? value : Number(`${digits}e${Number(exponent) + by}`);
}

function tooLarge(): Result<never> {
  return fail('unfit-value', 'The number is beyond what can be counted with here.', 'Enter a smaller number.');
}

function exact(value: number | bigint | Decimal): Decimal {
  return isDecimal(value) ? value : toDecimal(value);
}

function toWhole(value: number | bigint | Decimal): bigint {
  return shifted(exact(value), 0);
}

/** digits · 10^(exponent + by), rounded to a whole number, halves away from zero. */
function shifted(value: Decimal, by: number): bigint {
  const exponent = value.exponent + by;
  if (exponent >= 0) return value.digits * 10n ** BigInt(exponent);
  const unit = 10n ** BigInt(-exponent);
  const half = unit / 2n;
  return value.digits < 0n ? -((-value.digits + half) / unit) : (value.digits + half) / unit;
}
