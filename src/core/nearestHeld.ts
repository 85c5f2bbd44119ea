/**
 * Whether a controller can hold a wanted value, and which values it can hold instead. A number is held when it comes
 * back the same in every place that was entered or is shown: 90 stands for 90.00 on a sloped line whose counts are
 * worth hundredths, 2.5 is not held by an INT.
 */
import { pointMoved } from './scaling/scale.ts';
import { engineeringText, followWire, type SignalDefinition, type WritePlan, unjudged } from './signal.ts';
import { compareDecimals, decimalFixed, decimalNumber, isDecimal, toDecimal, type Decimal } from './value/decimal.ts';
import type { EngValue } from './value/engineering.ts';

/**
 * The values on both sides of a wanted one, as they would be entered, when the wanted one cannot be held; null when it
 * can. One side is missing at the end of a type.
 * @param plan what would be written for it: the nearest
 */
export function heldInstead(def: SignalDefinition, wanted: EngValue, { raw, achieved }: WritePlan): readonly string[] | null {
  const [asked, got] = [decimalOf(wanted), decimalOf(achieved)];
  if (asked === null || got === null || (typeof raw !== 'number' && typeof raw !== 'bigint')) return null;
  const beside = neighbours(def, raw);
  const places = Math.max(placesOf(asked), shownPlaces(def, got, beside));
  if (isSame(def, asked, got, places)) return null;
  const order = compareDecimals(got, asked);
  const other = beside.find((n) => compareDecimals(n, asked) === -order);
  const sides = other ? (order < 0 ? [got, other] : [other, got]) : [got];
  return sides.map((side) => entered(def, side, places));
}

function isSame(def: SignalDefinition, asked: Decimal, got: Decimal, places: number): boolean {
  if (def.type.kind === 'real') {
    // IEEE 754: a single keeps every number of 6 digits and most of 7, a double every one of 15.
    const digits = Math.min(100, Math.max(def.type.bytes === 4 ? 7 : 15, digitsOf(asked)));
    return decimalNumber(asked).toPrecision(digits) === decimalNumber(got).toPrecision(digits);
  }
  if (pointMoved(def.scale) !== null) return compareDecimals(asked, got) === 0;
  return decimalFixed(asked, places) === decimalFixed(got, places);
}

/** Engineering values of the raw values just below and above. */
function neighbours(def: SignalDefinition, raw: number | bigint): readonly Decimal[] {
  const raws = def.type.kind === 'real' ? besideReal(Number(raw), def.type.bytes) : [BigInt(raw) - 1n, BigInt(raw) + 1n];
  return raws.flatMap((next) => {
    const { eng } = followWire(unjudged(def), { kind: 'typed', value: next });
    const decimal = eng === null ? null : decimalOf(eng);
    return decimal === null ? [] : [decimal];
  });
}

/** The reals next to one, of its width. */
function besideReal(value: number, bytes: number): readonly number[] {
  const view = new DataView(new ArrayBuffer(8));
  const beside = (by: bigint): number => {
    if (bytes === 4) {
      view.setFloat32(0, value);
      view.setInt32(0, view.getInt32(0) + Number(by));
      return view.getFloat32(0);
    }
    view.setFloat64(0, value);
    view.setBigInt64(0, view.getBigInt64(0) + by);
    return view.getFloat64(0);
  };
  if (value === 0) return bytes === 4 ? [-(2 ** -149), 2 ** -149] : [-Number.MIN_VALUE, Number.MIN_VALUE];
  return [beside(-1n), beside(1n)].filter(Number.isFinite);
}

/** Places that a value is read to: those of the tag, or those that one count on a sloped line is worth. */
function shownPlaces(def: SignalDefinition, got: Decimal, beside: readonly Decimal[]): number {
  if (def.decimals !== null) return def.decimals;
  const step = Math.max(0, ...beside.map((n) => Math.abs(decimalNumber(n) - decimalNumber(got))));
  // Beside the ends of all numbers there may be none.
  return Number.isNaN(step) ? 0 : Math.min(12, Math.max(0, Math.floor(-Math.log10(step) + 1e-9)));
}

function entered(def: SignalDefinition, value: Decimal, places: number): string {
  if (pointMoved(def.scale) !== null || def.type.kind === 'real') {
    const bare = def.type.kind === 'real' ? decimalNumber(value) : value;
    return engineeringText({ ...def, decimals: null, names: undefined }, bare);
  }
  return decimalFixed(value, places);
}

function decimalOf(value: EngValue): Decimal | null {
  if (isDecimal(value)) return value;
  if (typeof value === 'bigint' || (typeof value === 'number' && Number.isFinite(value))) return toDecimal(value);
  return null;
}

function placesOf({ digits, exponent }: Decimal): number {
  let places = Math.max(0, -exponent);
  for (let rest = digits; places > 0 && rest % 10n === 0n; rest /= 10n) places--;
  return places;
}

function digitsOf({ digits }: Decimal): number {
  return (digits < 0n ? -digits : digits).toString().replace(/0+$/, '').length;
}
