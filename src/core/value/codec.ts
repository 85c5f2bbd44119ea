/** Between the bytes of one value on the wire and its raw value. Pure; both directions side by side. */
import { fail, ok, type Result } from '../result.ts';
import { fromWireOrder, isPlain, placesIn, toWireOrder, type ByteOrder } from './byteOrder.ts';
import { decodeClock, decodeParts, encodeClock, encodeParts } from './calendar.ts';
import { formatDataType, type DataType, type IntegerType } from './dataType.ts';
import { beyondDigits, decodeDigits, encodeDigits, fieldMask } from './digits.ts';
import { decodeText, encodeText } from './textCodec.ts';

/** What a controller holds: integers up to 32 bits and reals as number, 64-bit integers as bigint. */
export type RawValue = number | bigint | boolean | string;

/** Bytes that a value of the type takes on a wire of 16-bit registers. */
export function wireBytes(type: DataType): number {
  return type.bytes + (type.bytes % 2);
}

/**
 * Decodes one value.
 *
 * @param bytes  whole registers as they came, `wireBytes(type)` of them; a single byte 0 or 1 for a BOOL in a bit area
 * @param bit    for a BOOL inside a register: 0 (least significant) to 15
 * @returns the raw value, or a problem: wrong length, a real that is not a number (NaN, infinity), digits that are none,
 *          a date of no calendar, bytes that are no text
 * IEEE 754 for REAL and LREAL; an 8-bit type sits in the low byte of its register
 */
export function decode(type: DataType, order: ByteOrder, bytes: Uint8Array, bit: number | null = null): Result<RawValue> {
  if (type.kind === 'boolean' && bit === null) {
    if (bytes.length !== 1) return wrongLength(type, bytes.length, 1);
    return ok(bytes[0] !== 0);
  }
  const need = wireBytes(type);
  if (bytes.length !== need) return wrongLength(type, bytes.length, need);
  switch (type.kind) {
    case 'boolean':
      return ok(((laidOut(bytes, order).getUint16(0) >> (bit ?? 0)) & 1) === 1);
    case 'integer':
      return isTwosComplement(type) ? ok(readInteger(type, laidOut(bytes, order))) : decodeLaidOut(type, inPlainOrder(bytes, order));
    case 'real': {
      const view = laidOut(bytes, order);
      const value = type.bytes === 4 ? view.getFloat32(0) : view.getFloat64(0);
      return Number.isFinite(value)
        ? ok(value)
        : fail(
            'not-a-number',
            `The bytes decode to ${Number.isNaN(value) ? 'no number (NaN)' : 'infinity'}.`,
            'Check order and type; a controller also sends this after a division by zero.',
          );
    }
    case 'text':
      return decodeText(type, inPlainOrder(bytes, order), !isPlain(order));
  }
}

/** Where the bytes of a number are put in order: making a view of the bytes of each costs more than moving them. */
const moved = new Uint8Array(8);
const movedView = new DataView(moved.buffer);

/** Up to eight bytes of one number, most significant first. Holds until the next number is laid out. */
function laidOut(bytes: Uint8Array, order: ByteOrder): DataView {
  const places = placesIn(order);
  for (let i = 0; i < bytes.length; i++) moved[i] = bytes[places[i] ?? i] ?? 0;
  return movedView;
}

function inPlainOrder(bytes: Uint8Array, order: ByteOrder): Uint8Array {
  return isPlain(order) ? bytes : fromWireOrder(bytes, order);
}

/** The way nearly all integers go. */
function isTwosComplement({ coding, field }: IntegerType): boolean {
  return coding === 'binary' && field === null;
}

function decodeLaidOut(type: IntegerType, bytes: Uint8Array): Result<RawValue> {
  // An 8-bit value sits in the low byte of its register.
  const own = bytes.subarray(bytes.length - type.bytes);
  const value = type.coding === 'parts' ? decodeParts(type, own) : type.coding === 'bcd-clock' ? decodeClock(own) : decodeDigits(type, own);
  return value.ok && !type.isWide ? ok(Number(value.value)) : value;
}

function encodeLaidOut(type: IntegerType, value: bigint): Uint8Array {
  if (type.coding === 'parts') return encodeParts(type, value);
  return type.coding === 'bcd-clock' ? encodeClock(value) : encodeDigits(type, value);
}

/** Ones where a value lies that shares its registers with others, in the order of the wire; null where it has them to itself. */
export function sharedMask(type: DataType, order: ByteOrder, bit: number | null): Uint8Array | null {
  if (type.kind === 'integer' && type.field) return type.bytes === 1 ? null : toWireOrder(fieldMask(type), order);
  if (bit === null) return null;
  const mask = encode(type, order, true, bit);
  return mask.ok ? mask.value : null;
}

/**
 * Encodes one value for the wire: the inverse of {@link decode}. A BOOL gives one byte; one inside a register
 * gives the register with all other bits 0, which are not ours to write. An 8-bit value cannot be encoded alone.
 * Refuses what the type cannot hold; never clips.
 */
export function encode(type: DataType, order: ByteOrder, value: RawValue, bit: number | null = null): Result<Uint8Array> {
  const out = new Uint8Array(wireBytes(type));
  const view = new DataView(out.buffer);
  switch (type.kind) {
    case 'boolean':
      if (typeof value !== 'boolean') return unfit(type, value);
      if (bit === null) return ok(Uint8Array.of(value ? 1 : 0));
      view.setUint16(0, value ? 1 << bit : 0);
      return ok(toWireOrder(out, order));
    case 'integer': {
      if (typeof value !== 'bigint' && !(typeof value === 'number' && Number.isInteger(value))) return unfit(type, value);
      const wide = BigInt(value);
      if (wide < type.min || wide > type.max) return beyondDigits(type, wide);
      if (type.bytes === 1)
        return fail('byte-alone', 'Half a register cannot be written alone.', 'Let the controller offer the value as a whole register.');
      if (!isTwosComplement(type)) return ok(toWireOrder(encodeLaidOut(type, wide), order));
      writeInteger(type, view, wide);
      return ok(toWireOrder(out, order));
    }
    case 'real': {
      const number = typeof value === 'bigint' ? Number(value) : value;
      if (typeof number !== 'number' || !Number.isFinite(number)) return unfit(type, value);
      if (type.bytes === 4) {
        if (!Number.isFinite(Math.fround(number))) return fail('out-of-type', `${number} is beyond what a REAL can hold (about ±3.4e38).`);
        view.setFloat32(0, number);
      } else view.setFloat64(0, number);
      return ok(toWireOrder(out, order));
    }
    case 'text': {
      if (typeof value !== 'string') return unfit(type, value);
      const bytes = encodeText(type, value, !isPlain(order));
      return bytes.ok ? ok(toWireOrder(bytes.value, order)) : bytes;
    }
  }
}

function readInteger(type: IntegerType, view: DataView): number | bigint {
  switch (type.bytes) {
    case 1:
      return type.signed ? view.getInt8(1) : view.getUint8(1);
    case 2:
      return type.signed ? view.getInt16(0) : view.getUint16(0);
    case 4:
      return type.signed ? view.getInt32(0) : view.getUint32(0);
    default:
      return type.signed ? view.getBigInt64(0) : view.getBigUint64(0);
  }
}

function writeInteger(type: IntegerType, view: DataView, value: bigint): void {
  switch (type.bytes) {
    case 1:
    case 2:
      view.setUint16(0, Number(BigInt.asUintN(16, value)));
      break;
    case 4:
      view.setUint32(0, Number(BigInt.asUintN(32, value)));
      break;
    default:
      view.setBigUint64(0, BigInt.asUintN(64, value));
      break;
  }
}

function wrongLength(type: DataType, got: number, need: number): Result<never> {
  return fail('wire-length', `${formatDataType(type)} needs ${need} bytes, ${got} came.`);
}

function unfit(type: DataType, value: RawValue): Result<never> {
  return fail(
    'unfit-value',
    `“${String(value).slice(0, 40)}” is not a value of ${formatDataType(type)}.`,
    type.kind === 'boolean' ? 'Use on or off.' : undefined,
  );
}
