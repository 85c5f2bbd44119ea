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

/** The number whose bits a literal such as `16#FF9C`, `2#1010_0010` or `FF9Ch` names; null for anything else, or too many bits. */
export function readBased(type: IntegerType, text: string): bigint | null {
  const plain = text.trim().replaceAll('_', '');
  const match = /^(?:(16)#|0x)([0-9a-f]+)$|^(2)#([01]+)$|^(8)#([0-7]+)$|^([0-9][0-9a-f]*)h$/i.exec(plain);
  if (!match) return null;
  const digits = match[4] !== undefined ? `0b${match[4]}` : match[6] !== undefined ? `0o${match[6]}` : `0x${match[2] ?? match[7] ?? ''}`;
  const bits = type.field?.bits ?? type.bytes * 8;
  const value = BigInt(digits);
  if (value >= 1n << BigInt(bits)) return null;
  return type.signed ? BigInt.asIntN(bits, value) : value;
}

/** Whether a value of the type has another base than ten to be shown in: texts, reals, on and off, and dates have none. */
export function hasRadix(type: DataType, raw: RawValue): raw is number | bigint {
  return type.kind === 'integer' && type.coding !== 'parts' && type.coding !== 'bcd-clock' && (typeof raw === 'number' || typeof raw === 'bigint');
}
