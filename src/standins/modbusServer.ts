/**
 * The Modbus TCP side of a stand-in, written apart from the product's codec so that the two can check each
 * other. Functions 1 to 6, 8, 15 to 17, 20, 22, 23 and 43 (Modbus Application Protocol V1.1b3).
 */
import { createServer, type Server, type Socket } from 'node:net';
import { faultyReplies, type Faults } from './faults.ts';

/** Memory of a simulated controller. Registers lie big-endian, two bytes each. */
export interface Memory {
  readonly holding: Buffer;
  readonly input: Buffer;
  readonly coils: Uint8Array;
  readonly discrete: Uint8Array;
  /** Holding registers that exist but are not there for reading or writing. */
  readonly missing: (register: number) => boolean;
  /** Called after a write changed memory. */
  readonly written: (area: 'holding' | 'coils', start: number, count: number) => void;
  /** Basic identification: maker, product, revision. */
  readonly identity: readonly [string, string, string];
  /** Files of records, two bytes each, by their numbers. */
  readonly files?: ReadonlyMap<number, Buffer>;
}

const ILLEGAL_FUNCTION = 1;
const ILLEGAL_ADDRESS = 2;
const ILLEGAL_VALUE = 3;

export interface ModbusServer {
  readonly server: Server;
  readonly closeAll: () => void;
}

/** One memory under several numbers. @param faults what goes wrong, as it is ordered at this moment */
export function serveModbus(memory: Memory, units: readonly number[], faults: () => Faults = () => ({})): ModbusServer {
  return answerUnits(new Map(units.map((unit) => [unit, memory])), faults);
}

export function answerUnits(units: ReadonlyMap<number, Memory>, faults: () => Faults): ModbusServer {
  const sockets = new Set<Socket>();
  const server = createServer((socket) => {
    sockets.add(socket);
    socket.setNoDelay(true);
    let rest: Buffer = Buffer.alloc(0);
    socket.on('error', () => socket.destroy());
    socket.on('close', () => sockets.delete(socket));
    socket.on('data', (chunk: Buffer) => {
      rest = rest.length > 0 ? Buffer.concat([rest, chunk]) : chunk;
      while (rest.length >= 8) {
        const length = rest.readUInt16BE(4);
        if (rest.readUInt16BE(2) !== 0 || length < 2 || length > 254) {
          socket.destroy();
          return;
        }
        if (rest.length < 6 + length) break;
        const frame = rest.subarray(0, 6 + length);
        rest = rest.subarray(6 + length);
        const unit = frame[6] ?? 0;
        const memory = units.get(unit);
        if (!memory) continue;
        const wrong = faults();
        const body = wrong.exception === undefined ? answer(memory, frame.subarray(7)) : Buffer.from([(frame[7] ?? 0) | 0x80, wrong.exception]);
        const header = Buffer.from(frame.subarray(0, 7));
        header.writeUInt16BE((frame.readUInt16BE(0) + (wrong.transaction ?? 0)) & 0xffff, 0);
        header.writeUInt16BE(body.length + 1, 4);
        header[6] = wrong.stranger ?? unit;
        faultyReplies(wrong, unit, Buffer.concat([header, body]), (bytes) => void (socket.writable && socket.write(bytes)));
      }
    });
  });
  return {
    server,
    closeAll: () => {
      for (const socket of sockets) socket.destroy();
      server.close();
    },
  };
}

/** The PDU that answers a PDU. */
export function answer(memory: Memory, pdu: Buffer): Buffer {
  const fn = pdu[0] ?? 0;
  const exception = (code: number): Buffer => Buffer.from([fn | 0x80, code]);
  if (fn === 17) {
    const text = Buffer.from(memory.identity[1], 'latin1');
    return Buffer.concat([Buffer.from([17, text.length + 1]), text, Buffer.from([0xff])]);
  }
  if (fn === 43) return identification(memory, pdu);
  if (fn === 20) return fileRecords(memory, pdu);
  if (![1, 2, 3, 4, 5, 6, 8, 15, 16, 22, 23].includes(fn)) return exception(ILLEGAL_FUNCTION);
  if (pdu.length < 5) return exception(ILLEGAL_VALUE);
  const start = pdu.readUInt16BE(1);
  const second = pdu.readUInt16BE(3);
  switch (fn) {
    case 1:
    case 2: {
      const bits = fn === 1 ? memory.coils : memory.discrete;
      if (second < 1 || second > 2000) return exception(ILLEGAL_VALUE);
      if (start + second > bits.length) return exception(ILLEGAL_ADDRESS);
      const out = Buffer.alloc(2 + Math.ceil(second / 8));
      out[0] = fn;
      out[1] = out.length - 2;
      for (let i = 0; i < second; i++) if (bits[start + i]) out[2 + (i >> 3)] = (out[2 + (i >> 3)] ?? 0) | (1 << (i & 7));
      return out;
    }
    case 3:
    case 4: {
      const words = fn === 3 ? memory.holding : memory.input;
      if (second < 1 || second > 125) return exception(ILLEGAL_VALUE);
      if ((start + second) * 2 > words.length || (fn === 3 && isMissing(memory, start, second))) return exception(ILLEGAL_ADDRESS);
      return Buffer.concat([Buffer.from([fn, second * 2]), words.subarray(start * 2, (start + second) * 2)]);
    }
    case 5:
      if (second !== 0xff00 && second !== 0) return exception(ILLEGAL_VALUE);
      if (start >= memory.coils.length) return exception(ILLEGAL_ADDRESS);
      memory.coils[start] = second === 0 ? 0 : 1;
      memory.written('coils', start, 1);
      return Buffer.from(pdu.subarray(0, 5));
    case 6:
      if (start * 2 >= memory.holding.length || isMissing(memory, start, 1)) return exception(ILLEGAL_ADDRESS);
      memory.holding.writeUInt16BE(second, start * 2);
      memory.written('holding', start, 1);
      return Buffer.from(pdu.subarray(0, 5));
    case 8:
      return start === 0 ? Buffer.from(pdu) : exception(ILLEGAL_FUNCTION);
    case 22: {
      if (pdu.length !== 7) return exception(ILLEGAL_VALUE);
      if (start * 2 >= memory.holding.length || isMissing(memory, start, 1)) return exception(ILLEGAL_ADDRESS);
      const held = memory.holding.readUInt16BE(start * 2);
      memory.holding.writeUInt16BE(((held & second) | (pdu.readUInt16BE(5) & ~second)) & 0xffff, start * 2);
      memory.written('holding', start, 1);
      return Buffer.from(pdu);
    }
    case 23: {
      if (pdu.length < 10 || pdu.length !== 10 + (pdu[9] ?? 0)) return exception(ILLEGAL_VALUE);
      const wrote = answer(memory, Buffer.concat([Buffer.from([16]), pdu.subarray(5)]));
      if (wrote[0] !== 16) return exception(wrote[1] ?? ILLEGAL_VALUE);
      const read = answer(memory, Buffer.concat([Buffer.from([3]), pdu.subarray(1, 5)]));
      return read[0] === 3 ? Buffer.concat([Buffer.from([23]), read.subarray(1)]) : exception(read[1] ?? ILLEGAL_VALUE);
    }
    case 15:
      if (second < 1 || second > 1968 || pdu[5] !== Math.ceil(second / 8) || pdu.length !== 6 + (pdu[5] ?? 0)) return exception(ILLEGAL_VALUE);
      if (start + second > memory.coils.length) return exception(ILLEGAL_ADDRESS);
      for (let i = 0; i < second; i++) memory.coils[start + i] = ((pdu[6 + (i >> 3)] ?? 0) >> (i & 7)) & 1;
      memory.written('coils', start, second);
      return Buffer.from(pdu.subarray(0, 5));
    default:
      if (second < 1 || second > 123 || pdu[5] !== second * 2 || pdu.length !== 6 + second * 2) return exception(ILLEGAL_VALUE);
      if ((start + second) * 2 > memory.holding.length || isMissing(memory, start, second)) return exception(ILLEGAL_ADDRESS);
      pdu.copy(memory.holding, start * 2, 6);
      memory.written('holding', start, second);
      return Buffer.from(pdu.subarray(0, 5));
  }
}

/** One range of records of one file (6.14). */
function fileRecords({ files }: Memory, pdu: Buffer): Buffer {
  const exception = (code: number): Buffer => Buffer.from([0x94, code]);
  if (!files) return exception(ILLEGAL_FUNCTION);
  if (pdu.length !== 9 || pdu[1] !== 7 || pdu[2] !== 6) return exception(ILLEGAL_VALUE);
  const file = files.get(pdu.readUInt16BE(3));
  const from = pdu.readUInt16BE(5) * 2;
  const bytes = pdu.readUInt16BE(7) * 2;
  if (!file || bytes === 0 || bytes > 248 || from + bytes > file.length) return exception(ILLEGAL_ADDRESS);
  return Buffer.concat([Buffer.from([20, bytes + 2, bytes + 1, 6]), file.subarray(from, from + bytes)]);
}

/** Basic objects only, all in one reply. */
function identification({ identity }: Memory, pdu: Buffer): Buffer {
  if (pdu[1] !== 14 || ![1, 4].includes(pdu[2] ?? 0)) return Buffer.from([0xab, ILLEGAL_FUNCTION]);
  const only = pdu[2] === 4 ? (pdu[3] ?? 0) : null;
  if (only !== null && only >= identity.length) return Buffer.from([0xab, ILLEGAL_ADDRESS]);
  const objects = identity.flatMap((text, id) => (only === null || only === id ? [Buffer.from([id, text.length]), Buffer.from(text, 'latin1')] : []));
  return Buffer.concat([Buffer.from([43, 14, pdu[2] ?? 1, 0x81, 0, 0, objects.length / 2]), ...objects]);
}

function isMissing(memory: Memory, start: number, count: number): boolean {
  for (let i = 0; i < count; i++) if (memory.missing(start + i)) return true;
  return false;
}
