/**
 * Several simulated units on one serial line, in RTU frames, on a pseudo-terminal or behind a TCP connection. Keeps
 * the time that a real line would take. Written apart from the product's codec.
 */
import { createServer, type Server } from 'node:net';
import { faultyReplies, type Faults } from './faults.ts';
import { answer, type Memory } from './modbusServer.ts';

export interface Line {
  /** Bits per second, and bits of one character. */
  readonly speed: number;
  readonly bits: number;
  /** What a unit needs before it answers, in milliseconds. */
  readonly turnaroundMs: number;
}

export type Send = (bytes: Buffer) => void;

/** Takes bytes as they come and answers whole requests; one talker for each way to the line. */
export function rtuTalker(units: ReadonlyMap<number, Memory>, line: Line, faults: () => Faults): (chunk: Buffer, send: Send) => void {
  const characterMs = (line.bits * 1000) / line.speed;
  const silenceMs = line.speed > 19200 ? 1.75 : 3.5 * characterMs;
  let rest: Buffer = Buffer.alloc(0);
  let last = 0;
  return (chunk, send) => {
    const now = performance.now();
    // What was not finished within a pause is no longer a request.
    if (now - last > 50 + 20 * characterMs) rest = Buffer.alloc(0);
    last = now;
    rest = Buffer.concat([rest, chunk]).subarray(-512);
    const wrong = faults();
    for (;;) {
      const found = nextRequest(rest);
      if (!found) return;
      rest = rest.subarray(found.end);
      const { unit, pdu, frame } = found;
      if (wrong.echo) send(frame);
      const memory = units.get(unit);
      if (!memory && unit !== 0) continue;
      if (unit === 0) {
        for (const each of units.values()) answer(each, pdu);
        continue;
      }
      if (!memory) continue;
      const body = wrong.exception === undefined ? answer(memory, pdu) : Buffer.from([(pdu[0] ?? 0) | 0x80, wrong.exception]);
      const reply = withCheckSum(Buffer.concat([Buffer.from([wrong.stranger ?? unit]), body]));
      const takesMs = (frame.length + reply.length) * characterMs + 2 * silenceMs + line.turnaroundMs;
      after(takesMs, () => faultyReplies(wrong, unit, reply, send));
    }
  };
}

export function serveRtuOverTcp(talk: () => ReturnType<typeof rtuTalker>): Server {
  return createServer((socket) => {
    socket.setNoDelay(true);
    const take = talk();
    socket.on('error', () => socket.destroy());
    socket.on('data', (chunk: Buffer) => take(chunk, (bytes) => void (socket.writable && socket.write(bytes))));
  });
}

/** The first whole request in the bytes; what stands before it is stepped over. */
function nextRequest(bytes: Buffer): { readonly unit: number; readonly pdu: Buffer; readonly frame: Buffer; readonly end: number } | null {
  for (let from = 0; from + 4 <= bytes.length; from++) {
    const length = requestLength(bytes.subarray(from + 1));
    const end = from + 1 + length + 2;
    if (length === 0 || end > bytes.length) continue;
    const frame = bytes.subarray(from, end);
    if (withCheckSum(frame.subarray(0, -2)).equals(frame)) return { unit: frame[0] ?? 0, pdu: frame.subarray(1, -2), frame, end };
  }
  return null;
}

function requestLength(pdu: Buffer): number {
  switch (pdu[0]) {
    case 15:
    case 16:
      return 6 + (pdu[5] ?? 255);
    case 17:
      return 1;
    case 22:
      return 7;
    case 23:
      return 10 + (pdu[9] ?? 255);
    case 43:
      return 4;
    default:
      return (pdu[0] ?? 99) <= 8 ? 5 : 0;
  }
}

function withCheckSum(bytes: Buffer): Buffer {
  let crc = 0xffff;
  for (const byte of bytes) {
    crc ^= byte;
    for (let i = 0; i < 8; i++) crc = crc & 1 ? (crc >>> 1) ^ 0xa001 : crc >>> 1;
  }
  return Buffer.concat([bytes, Buffer.from([crc & 0xff, crc >>> 8])]);
}

/** Timers keep whole milliseconds; the rest is waited out by turns. */
function after(ms: number, call: () => void): void {
  const end = performance.now() + ms;
  const check = (): void => {
    if (performance.now() >= end) call();
    else setImmediate(check);
  };
  setTimeout(check, Math.max(0, Math.floor(ms) - 1));
}
