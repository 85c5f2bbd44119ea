/**
 * Raw values by which a device says that it has no value: `16#8000, 16#FFFF, -9999`. A bit pattern is meant for types that
 * are as wide as it is written, so that one list serves many types.
 */
import { fail, ok, type Result } from '../result.ts';
import { decode, type RawValue } from './codec.ts';
import type { DataType } from './dataType.ts';
import { bytesOf } from './digits.ts';
import { plainOrder } from './byteOrder.ts';
import { parseDecimal, decimalNumber } from './decimal.ts';

type Code = { readonly pattern: bigint; readonly bytes: number } | { readonly number: bigint | number };

const MOST_CODES = 16;

/** Reads the codes one after another. Refuses what is neither a pattern of 2, 4, 8 or 16 digits nor a number. */
export function readCodes(text: string): Result<readonly Code[]> {
  const codes: Code[] = [];
  for (const word of text.split(/[,;\s]+/).filter(Boolean)) {
    const code = readCode(word);
    if (!code)
      return fail(
        'unavailable',
        `“${word.slice(0, 40)}” is neither a bit pattern nor a number.`,
        'Write patterns in hexadecimal as wide as the value, as in 16#8000, and other values as numbers, as in -9999.',
      );
    codes.push(code);
  }
  return codes.length > MOST_CODES ? fail('unavailable', `There are more than ${MOST_CODES} codes.`) : ok(codes);
}

function readCode(word: string): Code | null {
  const hex = (/^(?:16#|0x)([0-9a-f]+)$/i.exec(word) ?? /^([0-9a-f]+)h$/i.exec(word))?.[1];
  if (hex !== undefined) return [2, 4, 8, 16].includes(hex.length) ? { pattern: BigInt(`0x${hex}`), bytes: hex.length / 2 } : null;
  const decimal = parseDecimal(word);
  if (!decimal) return null;
  return { number: decimal.exponent === 0 ? decimal.digits : decimalNumber(decimal) };
}

/** The raw values of a type that are meant; those that it cannot hold, or that are no number in it, are left away. */
export function unavailableIn(type: DataType, codes: readonly Code[]): readonly RawValue[] {
  if (type.kind !== 'integer' && type.kind !== 'real') return [];
  return codes.flatMap((code) => {
    if ('number' in code) return numberIn(type, code.number);
    // Of digits a pattern is a value like any other: 16#8000 is 8000 in BCD.
    if (code.bytes !== type.bytes || (type.kind === 'integer' && (type.coding !== 'binary' || type.field !== null))) return [];
    const bytes = bytesOf(code.pattern, type.bytes + (type.bytes % 2));
    const read = decode(type, plainOrder(type), bytes);
    return read.ok ? [read.value] : [];
  });
}

function numberIn(type: DataType, number: bigint | number): readonly RawValue[] {
  if (type.kind === 'real') return [type.bytes === 4 ? Math.fround(Number(number)) : Number(number)];
  if (type.kind !== 'integer' || typeof number !== 'bigint' || number < type.min || number > type.max) return [];
  return [type.isWide ? number : Number(number)];
}
