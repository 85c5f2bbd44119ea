/** Protocol data units of Modbus Application Protocol V1.1b3, section 6: requests built, replies checked. */
import { fail, ok, type Result } from '../result.ts';
import type { Area } from './address.ts';

export const MAX_PDU_BYTES = 253;

/** Limits of one request, from the clauses of the functions. */
export const LIMITS = { readBits: 2000, readRegisters: 125, writeBits: 1968, writeRegisters: 123, readWriteWritten: 121 } as const;

export const READ_FUNCTION: Readonly<Record<Area, 1 | 2 | 3 | 4>> = { CO: 1, DI: 2, HR: 3, IR: 4 };

/** A read (functions 1 to 4). @param count bits or registers, within {@link LIMITS}; 5 bytes */
export function readRequest(area: Area, start: number, count: number): Uint8Array {
  return Uint8Array.of(READ_FUNCTION[area], start >> 8, start & 0xff, count >> 8, count & 0xff);
}

/** Function 5. */
export function writeCoilRequest(address: number, on: boolean): Uint8Array {
  return Uint8Array.of(5, address >> 8, address & 0xff, on ? 0xff : 0, 0);
}

/** Function 6. @param bytes the register's two bytes as they go on the wire */
export function writeRegisterRequest(address: number, bytes: Uint8Array): Uint8Array {
  return Uint8Array.of(6, address >> 8, address & 0xff, bytes[0] ?? 0, bytes[1] ?? 0);
}

/** Function 15. @param states 1…1968 coils */
export function writeCoilsRequest(start: number, states: readonly boolean[]): Uint8Array {
  const pdu = new Uint8Array(6 + Math.ceil(states.length / 8));
  pdu.set([15, start >> 8, start & 0xff, states.length >> 8, states.length & 0xff, pdu.length - 6]);
  states.forEach((on, i) => {
    if (on) pdu[6 + (i >> 3)] = (pdu[6 + (i >> 3)] ?? 0) | (1 << (i & 7));
  });
  return pdu;
}

/** Function 16. @param bytes whole registers as they go on the wire, 1…123 of them */
export function writeRegistersRequest(start: number, bytes: Uint8Array, registerBytes: 2 | 4 = 2): Uint8Array {
  const count = bytes.length / registerBytes;
  const pdu = new Uint8Array(6 + bytes.length);
  pdu.set([16, start >> 8, start & 0xff, count >> 8, count & 0xff, bytes.length]);
  pdu.set(bytes, 6);
  return pdu;
}

/** Function 22: the register becomes (register AND `and`) OR (`or` AND NOT `and`). */
export function maskWriteRequest(address: number, and: number, or: number): Uint8Array {
  return Uint8Array.of(22, address >> 8, address & 0xff, and >> 8, and & 0xff, or >> 8, or & 0xff);
}

/** Function 23: writes, then reads, in one step. @param bytes whole registers, 1…121 of them */
export function readWriteRequest(readStart: number, readCount: number, writeStart: number, bytes: Uint8Array): Uint8Array {
  const count = bytes.length >> 1;
  const pdu = new Uint8Array(10 + bytes.length);
  pdu.set([
    23,
    readStart >> 8,
    readStart & 0xff,
    readCount >> 8,
    readCount & 0xff,
    writeStart >> 8,
    writeStart & 0xff,
    count >> 8,
    count & 0xff,
    bytes.length,
  ]);
  pdu.set(bytes, 10);
  return pdu;
}

/** Function 43 with MEI type 14 (6.21). @param code 1 basic, 2 regular, 3 extended, 4 one object; @param object where to begin */
export function identificationRequest(code: 1 | 2 | 3 | 4, object: number): Uint8Array {
  return Uint8Array.of(43, 14, code, object);
}

/** Function 17: what the device says of itself, in its maker's own form. */
/** Read File Record (6.14), one record range. @param count registers, at most 124 in one reply */
export function fileRecordRequest(file: number, record: number, count: number): Uint8Array {
  return Uint8Array.of(20, 7, 6, file >> 8, file & 0xff, record >> 8, record & 0xff, count >> 8, count & 0xff);
}

export function reportRequest(): Uint8Array {
  return Uint8Array.of(17);
}

/** Function 8: the echo (0) and the counters (11 to 18). The others restart or silence a device and are never sent. */
export function diagnosticRequest(subFunction: 0 | 11 | 12 | 13 | 14 | 15 | 16 | 17 | 18, data: number): Uint8Array {
  return Uint8Array.of(8, 0, subFunction, data >> 8, data & 0xff);
}

/** Functions that change something in the device, so that they are never sent twice. */
export function isWrite(pdu: Uint8Array): boolean {
  return [5, 6, 15, 16, 22, 23].includes(pdu[0] ?? 0);
}

/**
 * Bytes of the PDU that answers a request, as far as its first bytes tell.
 * @param reply the reply's PDU from its function code on, and whatever follows it
 * @returns null when more bytes are needed to know; 0 when it cannot be a reply to this request
 */
export function replyLength(request: Uint8Array, reply: Uint8Array): number | null {
  const fn = request[0] ?? 0;
  const got = reply[0];
  if (got === undefined) return null;
  if (got === (fn | 0x80)) return 2;
  if (got !== fn) return 0;
  switch (fn) {
    case 8:
      return request.length;
    case 22:
      return 7;
    case 43:
      return identificationLength(reply);
    case 1:
    case 2:
    case 3:
    case 4:
    case 17:
    case 20:
    case 23:
      return reply[1] === undefined ? null : 2 + reply[1];
    default:
      return 5;
  }
}

function identificationLength(reply: Uint8Array): number | null {
  const objects = reply[6];
  if (objects === undefined) return null;
  let at = 7;
  for (let i = 0; i < objects; i++) {
    const length = reply[at + 1];
    if (length === undefined) return null;
    at += 2 + length;
    if (at > MAX_PDU_BYTES) return 0;
  }
  return at;
}

/** A reply that answers the request: its data bytes, or the exception that the device sent. */
export type Reply = { readonly kind: 'data'; readonly data: Uint8Array } | { readonly kind: 'exception'; readonly code: number };

/**
 * Checks a reply against its request, byte count and echo included.
 *
 * @param registerBytes what one address holds: two by the standard, four in devices with 32-bit values behind one
 * @returns for reads the register or bit bytes (a view, not a copy), for writes an empty array, for 8, 17, 20 and 43
 *          what follows their fixed head; an exception reply as such; a problem when the bytes cannot be the answer to this request
 */
export function checkReply(request: Uint8Array, reply: Uint8Array, registerBytes: 2 | 4 = 2): Result<Reply> {
  const fn = request[0] ?? 0;
  const got = reply[0];
  if (got === undefined) return malformed('the reply is empty');
  if (got === (fn | 0x80)) {
    const code = reply[1];
    return reply.length === 2 && code !== undefined && code !== 0
      ? ok({ kind: 'exception', code })
      : malformed('the exception reply has the wrong length');
  }
  if (got !== fn) return malformed(`function ${got} answers function ${fn}`);
  if (fn >= 1 && fn <= 4) {
    const count = word(request, 3);
    const bytes = fn <= 2 ? (count + 7) >> 3 : count * registerBytes;
    if (reply.length !== 2 + bytes || reply[1] !== bytes)
      return malformed(`${reply.length - 2} data bytes came (the count says ${reply[1]}), ${bytes} were asked for`);
    return ok({ kind: 'data', data: reply.subarray(2) });
  }
  switch (fn) {
    case 8:
      // The echo repeats its data (6.8); a counter answers with its own.
      if (reply.length !== 5 || reply[2] !== request[2] || (request[2] === 0 && !repeats(request, reply))) return malformed('it is no echo');
      return ok({ kind: 'data', data: reply.subarray(3) });
    case 17:
      return reply[1] === reply.length - 2 ? ok({ kind: 'data', data: reply.subarray(2) }) : malformed('its byte count is wrong');
    case 20:
      return reply[1] === reply.length - 2 && reply[2] === reply.length - 3 && reply[3] === 6
        ? ok({ kind: 'data', data: reply.subarray(4) })
        : malformed('its records do not fill it');
    case 22:
      return reply.length === 7 && repeats(request, reply)
        ? ok({ kind: 'data', data: reply.subarray(7) })
        : malformed('it does not repeat the masks');
    case 23: {
      const bytes = word(request, 3) * 2;
      return reply[1] === bytes && reply.length === 2 + bytes
        ? ok({ kind: 'data', data: reply.subarray(2) })
        : malformed(`${reply.length - 2} data bytes came, ${bytes} were asked for`);
    }
    case 43:
      return reply[1] === 14 && reply[2] === request[2] && identificationLength(reply) === reply.length
        ? ok({ kind: 'data', data: reply.subarray(3) })
        : malformed('its objects do not fill it');
  }
  if (reply.length !== 5) return malformed(`the reply to a write has ${reply.length} bytes instead of 5`);
  for (let i = 1; i < 5; i++) if (reply[i] !== request[i]) return malformed('the reply to a write does not repeat what was written');
  return ok({ kind: 'data', data: reply.subarray(5) });
}

/** State of bit `index` in the data of functions 1 and 2: least significant bit first (6.1). */
export function bitAt(data: Uint8Array, index: number): boolean {
  return (((data[index >> 3] ?? 0) >> (index & 7)) & 1) === 1;
}

function repeats(request: Uint8Array, reply: Uint8Array): boolean {
  return request.every((byte, i) => reply[i] === byte);
}

function word(bytes: Uint8Array, at: number): number {
  return ((bytes[at] ?? 0) << 8) | (bytes[at + 1] ?? 0);
}

function malformed(what: string): Result<never> {
  return fail('malformed', `The reply does not fit the request: ${what}.`);
}
