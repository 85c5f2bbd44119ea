/** A device on a serial line behind a TCP connection, in RTU frames, whose every answer is in the test's hand. */
import { createServer, type AddressInfo, type Server, type Socket } from 'node:net';

export interface LineAsked {
  readonly unit: number;
  readonly pdu: Buffer;
  readonly frame: Buffer;
  /** Answers with a PDU in a whole frame. */
  readonly answer: (pdu: readonly number[] | Buffer, over?: { unit?: number; delayMs?: number }) => void;
  readonly raw: (bytes: Buffer) => void;
}

/** Bit by bit, from the specification's own description (Modbus over Serial Line V1.02, 6.2.2); not the product's. */
export function crcOf(bytes: Buffer): Buffer {
  let crc = 0xffff;
  for (const byte of bytes) {
    crc ^= byte;
    for (let i = 0; i < 8; i++) crc = crc & 1 ? (crc >>> 1) ^ 0xa001 : crc >>> 1;
  }
  return Buffer.from([crc & 0xff, crc >> 8]);
}

export function rtu(unit: number, pdu: readonly number[] | Buffer): Buffer {
  const body = Buffer.from([unit, ...pdu]);
  return Buffer.concat([body, crcOf(body)]);
}

export class FaultyLine {
  readonly asked: LineAsked[] = [];
  onAsked: (asked: LineAsked) => void = () => undefined;
  /** Sends back what came, as a two-wire adapter does. */
  echoes = false;
  readonly #server: Server;
  readonly #sockets = new Set<Socket>();

  private constructor() {
    this.#server = createServer((socket) => {
      this.#sockets.add(socket);
      socket.setNoDelay(true);
      socket.on('error', () => socket.destroy());
      socket.on('close', () => this.#sockets.delete(socket));
      socket.on('data', (frame: Buffer) => {
        if (this.echoes) socket.write(frame);
        const raw = (bytes: Buffer): void => void (socket.writable && socket.write(bytes));
        const asked: LineAsked = {
          unit: frame[0] ?? 0,
          pdu: frame.subarray(1, -2),
          frame,
          raw,
          answer: (pdu, { unit = frame[0] ?? 0, delayMs } = {}) => {
            if (delayMs === undefined) raw(rtu(unit, pdu));
            else setTimeout(() => raw(rtu(unit, pdu)), delayMs);
          },
        };
        this.asked.push(asked);
        this.onAsked(asked);
      });
    });
  }

  static async start(): Promise<FaultyLine> {
    const line = new FaultyLine();
    await new Promise<void>((resolve) => line.#server.listen(0, '127.0.0.1', resolve));
    return line;
  }

  get port(): number {
    return (this.#server.address() as AddressInfo).port;
  }

  /** Says something that nobody asked for, after a while. */
  say(bytes: Buffer, afterMs: number): void {
    setTimeout(() => {
      for (const socket of this.#sockets) socket.write(bytes);
    }, afterMs);
  }

  cutAll(): void {
    for (const socket of this.#sockets) socket.destroy();
  }

  async stop(): Promise<void> {
    this.cutAll();
    await new Promise<void>((resolve) => this.#server.close(() => resolve()));
  }
}
