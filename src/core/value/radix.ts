/** Raw values in hexadecimal, octal and binary, as the literals of IEC 61131-3 write them: `16#00A2`, `2#1010_0010`. */
import type { DataType, IntegerType } from './dataType.ts';
import type { RawValue } from './codec.ts';

export const RADIXES = [10, 16, 2, 8] as const;
export type Radix = (typeof RADIXES)[number];

export const RADIX_WORDS: Readonly<Record<Radix, string>> = { 10: 'decimal', 16: 'hexadecimal', 2: 'binary', 8: 'octal' };

/** A whole number in another base, its negative ones as two's complement of the type's width. */
export function rawIn(type: IntegerType, raw: number | bigint | boolean, radix: Exclude<Radix, 10>): string {
  const bits = type.field?.bits ?? type.bytes * 8;
  const digits = BigInt.asUintN(bits, BigInt(raw))
    .toString(radix)
    .toUpperCase()
    .padStart(Math.ceil(bits / Math.log2(radix)), '0');
  return `${radix}#${radix === 2 ? digits.replace(/(?<=\d)(?=(?:\d{4})+$)/g, '_') : digits}`;
}

/** Whether a value of the type has another base than ten to be shown in: texts, reals, on and off, and dates have none. */
export function hasRadix(type: DataType, raw: RawValue): raw is number | bigint {
  return type.kind === 'integer' && type.coding !== 'parts' && type.coding !== 'bcd-clock' && (typeof raw === 'number' || typeof raw === 'bigint');
}
