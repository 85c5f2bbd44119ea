/** Engineering values: what people read and enter. Their exact JSON form and the text shown for them. */
import { EXACT_POWERS, decimalFixed, decimalNumber, decimalText, isDecimal, parseDecimal, type Decimal } from './decimal.ts';
import { fail, ok, type Result } from '../result.ts';

export type EngValue = number | bigint | boolean | string | Decimal;

/** The JSON form: numbers that a double cannot hold exactly travel as decimal text. */
export interface ValueJson {
  readonly kind: 'number' | 'integer' | 'decimal' | 'boolean' | 'text';
  readonly value: number | boolean | string;
}

export function toJson(value: EngValue): ValueJson {
  if (typeof value === 'number') return { kind: 'number', value };
  if (typeof value === 'bigint') return { kind: 'integer', value: value.toString() };
  if (typeof value === 'boolean') return { kind: 'boolean', value };
  if (typeof value === 'string') return { kind: 'text', value };
  return { kind: 'decimal', value: decimalText(value) };
}

/** The inverse of {@link toJson}; a malformed value is refused. */
export function fromJson(json: ValueJson): Result<EngValue> {
  const { kind, value } = json;
  if (kind === 'number' && typeof value === 'number' && Number.isFinite(value)) return ok(value);
  if (kind === 'boolean' && typeof value === 'boolean') return ok(value);
  if (kind === 'text' && typeof value === 'string') return ok(value);
  if (kind === 'integer' && typeof value === 'string' && /^-?\d{1,40}$/.test(value)) return ok(BigInt(value));
  if (kind === 'decimal' && typeof value === 'string') {
    const decimal = parseDecimal(value);
    if (decimal) return ok(decimal);
  }
  return fail('value', 'The value is not in the form that its kind says.');
}

/** A double near the value, for drawing, ranges and tolerances; null for texts. */
export function asNumber(value: EngValue): number | null {
  if (typeof value === 'number') return value;
  if (typeof value === 'bigint') return Number(value);
  if (typeof value === 'boolean') return value ? 1 : 0;
  return isDecimal(value) ? decimalNumber(value) : null;
}

/**
 * The text for a value, decimal point always, no grouping; numbers whose last digits mean nothing any more are
 * written with a power of ten (`2.72e23`).
 * @param decimals places after the point, 0…12; null shows every digit that the value is worth
 * @param worth    of a number without fixed places: `single` came out of a REAL, so it is written with the fewest
 *                 digits that name that REAL; `double` with at most 15 significant digits, which every double keeps
 */
export function formatValue(value: EngValue, decimals: number | null, worth: 'single' | 'double' = 'double'): string {
  if (typeof value === 'string') return value;
  if (typeof value === 'boolean') return value ? 'on' : 'off';
  if (typeof value === 'bigint') return decimals ? decimalFixed({ digits: value, exponent: 0 }, decimals) : value.toString();
  if (isDecimal(value)) return decimals === null ? decimalText(value) : decimalFixed(value, decimals);
  if (decimals === null && Number.isInteger(value) && Math.abs(value) < 1e9) return String(value === 0 ? 0 : value);
  if (Math.abs(value) >= (worth === 'single' ? 1e9 : 1e15)) return shortest(value, worth).toExponential().replace('e+', 'e');
  const text = decimals === null ? String(shortest(value, worth)) : fixed(shortest(value, worth), decimals);
  return /^-0(\.0*)?$/.test(text) ? text.slice(1) : text;
}

/** Halves away from zero, of the decimal that the number is shown as: 1.45 is 1.5 at one place, though its double lies below. */
function fixed(value: number, decimals: number): string {
  const decimal = parseDecimal(String(value));
  return decimal ? decimalFixed(decimal, decimals) : value.toFixed(decimals);
}

function shortest(value: number, worth: 'single' | 'double'): number {
  if (worth === 'single') return shortestSingle(value);
  const rounded = Number(value.toPrecision(15));
  return Number.isFinite(rounded) ? rounded : value;
}

/**
 * The number with the fewest digits that names a REAL: 0.3 of the single next to it, 0.300000012.
 * IEEE 754: nine significant digits name every single-precision number, most need fewer.
 */
export function shortestSingle(value: number): number {
  if (Number.isInteger(value) && Math.abs(value) < 2 ** 24) return value;
  const single = Math.fround(value);
  const magnitude = Math.floor(Math.log10(Math.abs(value)));
  for (let digits = 6; digits < 10; digits++) {
    const rounded = roundedTo(value, digits, magnitude);
    if (Math.fround(rounded) === single) return rounded;
  }
  return Number(value.toPrecision(9));
}

/**
 * To a number of significant digits. Where the power of ten is exact, dividing by it gives the double nearest to the
 * decimal text, as reading the text would (IEEE 754, correctly rounded division); elsewhere it is read from the text.
 */
function roundedTo(value: number, digits: number, magnitude: number): number {
  const places = digits - 1 - magnitude;
  const unit = places >= 0 ? EXACT_POWERS[places] : undefined;
  if (unit === undefined) return Number(value.toPrecision(digits));
  const rounded = Math.round(Math.abs(value) * unit) / unit;
  return value < 0 ? -rounded : rounded;
}
