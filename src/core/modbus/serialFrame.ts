/**
 * Frames on a serial line, as RTU and as ASCII characters: Modbus over Serial Line V1.02, 2.5. Neither carries its
 * length, so a reply is cut out with the help of the request that it answers.
 */
import { crc16, lrc8 } from './checkSums.ts';
import { replyLength } from './pdu.ts';

export type SerialForm = 'rtu' | 'ascii';

/** Longest frame in bytes of the line. */
export const MAX_SERIAL_BYTES: Readonly<Record<SerialForm, number>> = { rtu: 256, ascii: 513 };

/**
 * What stands in the bytes received so far.
 * `frame`: a whole one with a good check sum, between `from` and `end`; `unit` and PDU may be those of another request.
 * `partial`: what came may still become one. `garbage`: it cannot; `checksum` when form and length would fit.
 */
export type Found =
  | { readonly kind: 'frame'; readonly unit: number; readonly pdu: Uint8Array; readonly from: number; readonly end: number }
  | { readonly kind: 'partial' }
  | { readonly kind: 'garbage'; readonly why: 'checksum' | 'form' };

export function buildSerialFrame(form: SerialForm, unit: number, pdu: Uint8Array): Uint8Array {
  return form === 'rtu' ? buildRtu(unit, pdu) : buildAscii(unit, pdu);
}

/** Looks for the reply to a request. @param bytes all that came since it was sent, at most a few frames long */
export function findReply(form: SerialForm, bytes: Uint8Array, unit: number, request: Uint8Array): Found {
  return form === 'rtu' ? findRtu(bytes, unit, request) : findAscii(bytes);
}

/** Bytes that a PDU takes on the line. */
export function serialLength(form: SerialForm, pduBytes: number): number {
  return form === 'rtu' ? pduBytes + 3 : 2 * (pduBytes + 2) + 3;
}

function buildRtu(unit: number, pdu: Uint8Array): Uint8Array {
  const frame = new Uint8Array(pdu.length + 3);
  frame[0] = unit;
  frame.set(pdu, 1);
  const crc = crc16(frame, 0, pdu.length + 1);
  frame[pdu.length + 1] = crc & 0xff;
  frame[pdu.length + 2] = crc >> 8;
  return frame;
}

function findRtu(bytes: Uint8Array, unit: number, request: Uint8Array): Found {
  let isPartial = false;
  let isDamaged = false;
  for (let from = 0; from < bytes.length; from++) {
    const found = rtuAt(bytes, from, request);
    if (typeof found === 'object') return found;
    // Only where the reply is to begin is a beginning worth waiting for; anywhere else it may be part of noise.
    const isHere = bytes[from] === unit || from === 0;
    if (found === 'partial' && isHere) isPartial = true;
    if (found === 'checksum' && isHere) isDamaged = true;
  }
  if (isPartial && !isDamaged) return { kind: 'partial' };
  if (bytes.length === 0) return { kind: 'partial' };
  return { kind: 'garbage', why: isDamaged ? 'checksum' : 'form' };
}

function rtuAt(bytes: Uint8Array, from: number, request: Uint8Array): Extract<Found, { kind: 'frame' }> | 'partial' | 'checksum' | 'form' {
  const length = replyLength(request, bytes.subarray(from + 1));
  if (length === null) return 'partial';
  const end = from + length + 3;
  if (length === 0 || length > 253) return 'form';
  if (end > bytes.length) return 'partial';
  const crc = (bytes[end - 2] ?? 0) | ((bytes[end - 1] ?? 0) << 8);
  if (crc16(bytes, from, end - 2) !== crc) return 'checksum';
  return { kind: 'frame', unit: bytes[from] ?? 0, pdu: bytes.slice(from + 1, end - 2), from, end };
}

const COLON = 0x3a;
const CR = 0x0d;
const LF = 0x0a;

function buildAscii(unit: number, pdu: Uint8Array): Uint8Array {
  const bytes = Uint8Array.of(unit, ...pdu);
  const text = Array.from([...bytes, lrc8(bytes)], (b) => b.toString(16).toUpperCase().padStart(2, '0')).join('');
  return Uint8Array.from(`:${text}\r\n`, (c) => c.charCodeAt(0));
}

function findAscii(bytes: Uint8Array): Found {
  let isDamaged = false;
  for (let from = bytes.indexOf(COLON); from >= 0; from = bytes.indexOf(COLON, from + 1)) {
    let end = from + 1;
    const digits: number[] = [];
    for (let digit = hexDigit(bytes[end]); digit !== null; digit = hexDigit(bytes[++end])) digits.push(digit);
    if (end >= bytes.length || (bytes[end] === CR && end + 1 >= bytes.length))
      return digits.length > MAX_SERIAL_BYTES.ascii ? { kind: 'garbage', why: 'form' } : { kind: 'partial' };
    if (bytes[end] !== CR || bytes[end + 1] !== LF || digits.length < 6 || digits.length % 2 === 1) continue;
    const frame = Uint8Array.from({ length: digits.length / 2 }, (_, i) => ((digits[2 * i] ?? 0) << 4) | (digits[2 * i + 1] ?? 0));
    if (lrc8(frame) === 0) return { kind: 'frame', unit: frame[0] ?? 0, pdu: frame.slice(1, -1), from, end: end + 2 };
    isDamaged = true;
  }
  if (bytes.length === 0) return { kind: 'partial' };
  return { kind: 'garbage', why: isDamaged ? 'checksum' : 'form' };
}

function hexDigit(code: number | undefined): number | null {
  if (code === undefined) return null;
  if (code >= 0x30 && code <= 0x39) return code - 0x30;
  if (code >= 0x41 && code <= 0x46) return code - 0x37;
  return code >= 0x61 && code <= 0x66 ? code - 0x57 : null;
}
