/** Between the data of Read Tag and Write Tag and raw values: a type code, the handle of a structure, then the elements. */
import { fail, ok, type Result } from '../result.ts';
import type { ByteOrder } from '../value/byteOrder.ts';
import { decode, encode, type RawValue } from '../value/codec.ts';
import { formatDataType, parseDataType, type DataType } from '../value/dataType.ts';
import { asciiOf, joined, textAt, u16, u32, viewOf } from './bytes.ts';
import { canHold, elementary, STRUCTURE, typeInWords } from './dataTypes.ts';

export interface TypedData {
  readonly code: number;
  /** Of a structure's layout, else null. */
  readonly handle: number | null;
  readonly data: Uint8Array;
}

export function readTyped(reply: Uint8Array): Result<TypedData> {
  if (reply.length < 2) return fail('short', 'The reply ends before the type of its value.');
  const view = viewOf(reply);
  const code = view.getUint16(0, true);
  if (code !== STRUCTURE) return ok({ code, handle: null, data: reply.subarray(2) });
  if (reply.length < 4) return fail('short', 'The reply ends before the handle of its structure.');
  return ok({ code, handle: view.getUint16(2, true), data: reply.subarray(4) });
}

/** Bits of a BOOL array that stand in one of its elements. */
export const PACKED_BITS = 32;
const PACKED = 0xd3;

/** Which part of what was read a value is. */
export interface Part {
  /** Which element, from the first that was read. */
  readonly at: number;
  /** A bit of it, else null. */
  readonly bit: number | null;
  /** The bit was asked for as an element of an array of BOOL, which holds {@link PACKED_BITS} in each double word. */
  readonly isPacked: boolean;
}

/** The value of a tag in what was read. Refuses what the tag could only show as another number. */
export function valueIn({ code, data }: TypedData, { at, bit, isPacked }: Part, type: DataType): Result<RawValue> {
  if (type.kind === 'text') return textIn(code, data);
  const declared = elementary(code);
  if (!declared) return unfit(code, type, 'Say which member is meant: Bagger.Weight.');
  if (isPacked && code !== PACKED)
    return unfit(code, type, `Elements of an array of ${declared.name} are no BOOL: name a bit of one, as in Status[2].5.`);
  const from = at * declared.bytes;
  if (from + declared.bytes > data.length) return fail('short', 'The reply ends before the value.');
  if (bit === null) {
    if (!canHold(type, code)) return unfit(code, type, instead(declared.name, type));
    return numberIn(data.subarray(from, from + declared.bytes), type);
  }
  if (declared.name === 'BOOL' || declared.name.endsWith('REAL')) return fail('unfit-value', `A ${declared.name} has no bits.`, 'Leave the bit off.');
  if (bit >= 8 * declared.bytes) return fail('unfit-value', `A ${declared.name} has no bit ${bit}.`, `Its bits are 0 to ${8 * declared.bytes - 1}.`);
  return ok((((data[from + (bit >> 3)] ?? 0) >> (bit & 7)) & 1) === 1);
}

function instead(name: string, type: DataType): string {
  const bits = { SINT: 'BYTE', INT: 'WORD', DINT: 'DWORD', LINT: 'LWORD' }[name];
  return type.kind === 'integer' && bits ? `Choose ${name}, or ${bits} for its bits without a sign.` : `Choose ${name}.`;
}

function unfit(code: number, type: DataType, remedy: string): Result<never> {
  const message = `The controller holds a ${typeInWords(code)} there, which is no ${formatDataType(type)}.`;
  const declared = elementary(code)?.name;
  return { ok: false, problem: { code: 'unfit-value', message, remedy, ...(declared ? { instead: [declared] } : {}) } };
}

/** A text is a structure: its length, then its characters (common practice of named-tag controllers). */
function textIn(code: number, data: Uint8Array): Result<RawValue> {
  if (code !== STRUCTURE)
    return fail('unfit-value', `The controller holds a ${typeInWords(code)} there, which is no text.`, `Choose ${typeInWords(code)}.`);
  if (data.length < 4) return fail('short', 'The reply ends before the length of the text.');
  const length = viewOf(data).getUint32(0, true);
  return length > data.length - 4
    ? fail(
        'unfit-value',
        `The controller holds a structure there that is no text: it would be ${length} characters long.`,
        'Name one of its members.',
      )
    : ok(textAt(data, 4, length));
}

const ORDERS: Readonly<Record<number, ByteOrder>> = { 2: 'BA', 4: 'DCBA', 8: 'HGFEDCBA' };

function numberIn(bytes: Uint8Array, type: DataType): Result<RawValue> {
  const order = ORDERS[bytes.length];
  if (type.kind === 'boolean') return decode(type, 'AB', bytes);
  return order === undefined ? decode(type, 'AB', joined([0], bytes)) : decode(type, order, bytes);
}

/** What Write Tag carries for one value: type, count 1, value. @param text layout of the text there: its handle and its size in bytes */
export function writeData(code: number, raw: RawValue, text: { readonly handle: number; readonly bytes: number } | null): Result<Uint8Array> {
  if (code === STRUCTURE) {
    if (!text || typeof raw !== 'string') return fail('type', 'A structure cannot be written as one.', 'Write its members.');
    const room = text.bytes - 4;
    if (raw.length > room) return fail('out-of-type', `The text has ${raw.length} characters, the controller holds ${room}.`, 'Shorten it.');
    if ([...raw].some((c) => c.charCodeAt(0) > 255))
      return fail('character', 'The controller holds characters of single bytes.', 'Use ISO 8859-1 characters.');
    const body = new Uint8Array(text.bytes);
    body.set(u32(raw.length));
    body.set(asciiOf(raw), 4);
    return ok(joined(u16(STRUCTURE), u16(text.handle), u16(1), body));
  }
  const body = bytesOf(code, raw);
  return body.ok ? ok(joined(u16(code), u16(1), body.value)) : body;
}

function bytesOf(code: number, raw: RawValue): Result<Uint8Array> {
  const declared = elementary(code);
  const type = declared ? parseDataType(declared.name) : null;
  if (!declared || !type?.ok) return fail('type', `A ${typeInWords(code)} cannot be written from here.`);
  if (type.value.kind === 'boolean') return typeof raw === 'boolean' ? ok(Uint8Array.of(raw ? 1 : 0)) : notHeld(raw, declared.name);
  if (type.value.kind === 'integer' && declared.bytes === 1) {
    const whole = Number(raw);
    const fits = typeof raw !== 'boolean' && typeof raw !== 'string' && whole >= Number(type.value.min) && whole <= Number(type.value.max);
    return fits && Number.isInteger(whole) ? ok(Uint8Array.of(whole & 0xff)) : notHeld(raw, declared.name);
  }
  return encode(type.value, ORDERS[declared.bytes] ?? 'AB', raw);
}

function notHeld(raw: RawValue, name: string): Result<never> {
  return fail('out-of-type', `${String(raw).slice(0, 40)} does not fit in ${name}.`, 'Choose a value inside the range, or check type and scale.');
}

/** What Read-Modify-Write Tag carries: width, bits to set, bits to leave (an AND mask). @param bytes width of the word, 1, 2, 4 or 8 */
export function modifyData(bytes: number, bit: number, on: boolean): Uint8Array {
  const or = new Uint8Array(bytes);
  const and = new Uint8Array(bytes).fill(0xff);
  if (on) or[bit >> 3] = 1 << (bit & 7);
  else and[bit >> 3] = 0xff & ~(1 << (bit & 7));
  return joined(u16(bytes), or, and);
}
