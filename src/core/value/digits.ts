/**
 * Whole numbers that are not two's complement: digits in BCD, sign and magnitude, registers that count to 9999, bits of a
 * word. Both directions side by side, on the bytes with the most significant first.
 */
import { fail, ok, type Result } from '../result.ts';
import { formatDataType, hexMask, type IntegerType } from './dataType.ts';

/** The number that some bytes hold, without a sign. */
export function unsignedOf(bytes: Uint8Array, from = 0, to = bytes.length): bigint {
  let value = 0n;
  for (let i = from; i < to; i++) value = (value << 8n) | BigInt(bytes[i] ?? 0);
  return value;
}

/** The inverse of {@link unsignedOf}, for a value that fits. */
export function bytesOf(value: bigint, count: number): Uint8Array {
  const out = new Uint8Array(count);
  for (let i = count - 1, rest = value; i >= 0; i--, rest >>= 8n) out[i] = Number(rest & 0xffn);
  return out;
}

/** @param bytes as many as the type has, most significant first */
export function decodeDigits(type: IntegerType, bytes: Uint8Array): Result<bigint> {
  const { field } = type;
  if (field) {
    const bits = (unsignedOf(bytes) >> BigInt(field.low)) & ((1n << BigInt(field.bits)) - 1n);
    return ok(type.signed ? BigInt.asIntN(field.bits, bits) : bits);
  }
  switch (type.coding) {
    case 'bcd':
      return decodeBcd(type, bytes);
    case 'sign-magnitude': {
      const width = BigInt(type.bytes * 8 - 1);
      const all = unsignedOf(bytes);
      const magnitude = all & ((1n << width) - 1n);
      return ok(all >> width === 1n ? -magnitude : magnitude);
    }
    default:
      return decodeMod10000(type, bytes);
  }
}

/** The inverse of {@link decodeDigits}, for a value inside the type's range. Bits beside a field are 0, and not ours to write. */
export function encodeDigits(type: IntegerType, value: bigint): Uint8Array {
  const { field } = type;
  if (field) return bytesOf(BigInt.asUintN(field.bits, value) << BigInt(field.low), type.bytes);
  switch (type.coding) {
    case 'bcd':
      return bytesOf(BigInt(`0x${value}`), type.bytes);
    case 'sign-magnitude': {
      const sign = 1n << BigInt(type.bytes * 8 - 1);
      return bytesOf(value < 0n ? sign | -value : value, type.bytes);
    }
    default: {
      const out = new Uint8Array(type.bytes);
      for (let at = type.bytes - 2, rest = value; at >= 0; at -= 2, rest /= 10_000n) out.set(bytesOf(BigInt.asUintN(16, rest % 10_000n), 2), at);
      return out;
    }
  }
}

function decodeBcd(type: IntegerType, bytes: Uint8Array): Result<bigint> {
  const digits = digitsOf(bytes);
  return /^\d+$/.test(digits)
    ? ok(BigInt(digits))
    : fail(
        'not-digits',
        `16#${digits.toUpperCase()} holds a digit above 9, so it is no BCD.`,
        `Check order and address, or choose ${type.name} without bcd, in which it is ${unsignedOf(bytes)}.`,
      );
}

/** The four-bit digits of some bytes, in hexadecimal. */
export function digitsOf(bytes: Uint8Array): string {
  let text = '';
  for (const byte of bytes) text += byte.toString(16).padStart(2, '0');
  return text;
}

/** Each register counts 0 to 9999; with a sign, each has the sign of the whole (common practice among meters). */
function decodeMod10000(type: IntegerType, bytes: Uint8Array): Result<bigint> {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  let value = 0n;
  for (let at = 0; at < type.bytes; at += 2) {
    const register = type.signed ? view.getInt16(at) : view.getUint16(at);
    if (register > 9999 || register < -9999)
      return fail(
        'not-digits',
        `A register holds ${register}, and each counts to 9999 at most.`,
        'Check order and address, or choose a type without mod10000.',
      );
    value = value * 10_000n + BigInt(register);
  }
  return ok(value);
}

/** Ones where a field lies, for writing it alone. */
export function fieldMask(type: IntegerType): Uint8Array {
  return bytesOf(BigInt(`0x${hexMask(type).slice(3)}`), type.bytes);
}

/** Says what cannot be: a value that the digits have no room for. */
export function beyondDigits(type: IntegerType, value: bigint): Result<never> {
  return fail(
    'out-of-type',
    `${value} does not fit in ${formatDataType(type)} (${type.min} to ${type.max}).`,
    'Choose a value inside the range, or check type and scale.',
  );
}
