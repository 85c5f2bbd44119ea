/** A Modbus TCP server whose every answer is in the test's hand. */
import { createServer, type AddressInfo, type Server, type Socket } from 'node:net';

export interface Asked {
  readonly transaction: number;
  readonly unit: number;
  readonly pdu: Buffer;
  /** Answers with a PDU in a proper frame; other fields can be falsified. */
  readonly answer: (pdu: number[] | Buffer, over?: { transaction?: number; unit?: number; delayMs?: number }) => void;
  readonly raw: (bytes: Buffer) => void;
  readonly socket: Socket;
}

export class FaultyServer {
  readonly requests: Asked[] = [];
  onRequest: (asked: Asked) => void = () => undefined;
  readonly #server: Server;
  readonly #sockets = new Set<Socket>();

  private constructor() {
    this.#server = createServer((socket) => {
      this.#sockets.add(socket);
      socket.on('error', () => socket.destroy());
      socket.on('close', () => this.#sockets.delete(socket));
      let rest = Buffer.alloc(0);
      socket.on('data', (chunk: Buffer) => {
        rest = Buffer.concat([rest, chunk]);
        while (rest.length >= 6 && rest.length >= 6 + rest.readUInt16BE(4)) {
          const frame = rest.subarray(0, 6 + rest.readUInt16BE(4));
          rest = rest.subarray(frame.length);
          this.#take(frame, socket);
        }
      });
    });
  }

  static async start(port = 0): Promise<FaultyServer> {
    const faulty = new FaultyServer();
    await new Promise<void>((resolve) => faulty.#server.listen(port, '127.0.0.1', resolve));
    return faulty;
  }

  get port(): number {
    return (this.#server.address() as AddressInfo).port;
  }

  get connections(): number {
    return this.#sockets.size;
  }

  cutAll(): void {
    for (const socket of this.#sockets) socket.destroy();
  }

  async stop(): Promise<void> {
    this.cutAll();
    await new Promise<void>((resolve) => this.#server.close(() => resolve()));
  }

  #take(frame: Buffer, socket: Socket): void {
    const transaction = frame.readUInt16BE(0);
    const unit = frame[6] ?? 0;
    const asked: Asked = {
      transaction,
      unit,
      pdu: Buffer.from(frame.subarray(7)),
      socket,
      raw: (bytes) => socket.write(bytes),
      answer: (pdu, over = {}) => {
        const body = Buffer.from(pdu);
        const header = Buffer.alloc(7);
        header.writeUInt16BE(over.transaction ?? transaction, 0);
        header.writeUInt16BE(body.length + 1, 4);
        header[6] = over.unit ?? unit;
        const bytes = Buffer.concat([header, body]);
        if (over.delayMs === undefined) socket.write(bytes);
        else setTimeout(() => socket.writable && socket.write(bytes), over.delayMs);
      },
    };
    this.requests.push(asked);
    this.onRequest(asked);
  }
}

/** Registers whose value is their own address: what a read at `start` must bring; other functions are not known. */
export function ownAddresses(pdu: Buffer): number[] {
  const fn = pdu[0] ?? 0;
  if (fn > 4) return [fn | 0x80, 1];
  const start = pdu.readUInt16BE(1);
  const count = pdu.readUInt16BE(3);
  return [pdu[0] ?? 0, count * 2, ...Array.from({ length: count }, (_, i) => [(start + i) >> 8, (start + i) & 0xff]).flat()];
}
