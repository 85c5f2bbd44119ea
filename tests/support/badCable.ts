/** A cable between the server and a controller that can be cut, swallow everything, or turn every reply into an exception. */
import { connect, createServer, type AddressInfo, type Server, type Socket } from 'node:net';

export type Manner = 'passes' | 'swallows' | 'exceptions' | 'cut';

export class BadCable {
  manner: Manner = 'passes';
  readonly #server: Server;
  readonly #sockets = new Set<Socket>();

  private constructor(target: () => number) {
    this.#server = createServer((near) => {
      if (this.manner === 'cut') return near.destroy();
      const far = connect({ host: '127.0.0.1', port: target(), noDelay: true });
      near.setNoDelay(true);
      for (const socket of [near, far]) {
        this.#sockets.add(socket);
        socket.on('error', () => socket.destroy());
        socket.on('close', () => this.#sockets.delete(socket));
      }
      near.on('data', (chunk: Buffer) => this.manner !== 'swallows' && far.write(chunk));
      far.on('data', (chunk: Buffer) => this.manner !== 'swallows' && near.write(this.manner === 'exceptions' ? asExceptions(chunk) : chunk));
      // A cable that swallows does not tell that the other end has gone.
      near.on('close', () => far.destroy());
      far.on('close', () => this.manner !== 'swallows' && near.destroy());
    });
  }

  static async to(target: () => number): Promise<BadCable> {
    const cable = new BadCable(target);
    await new Promise<void>((resolve) => cable.#server.listen(0, '127.0.0.1', resolve));
    return cable;
  }

  get port(): number {
    return (this.#server.address() as AddressInfo).port;
  }

  set(manner: Manner): void {
    this.manner = manner;
    if (manner === 'cut') for (const socket of this.#sockets) socket.destroy();
  }

  async stop(): Promise<void> {
    for (const socket of this.#sockets) socket.destroy();
    await new Promise<void>((resolve) => this.#server.close(() => resolve()));
  }
}

/** Every whole frame becomes exception 04 (device failure) to its request. */
function asExceptions(chunk: Buffer): Buffer {
  const out: Buffer[] = [];
  for (let at = 0; at + 8 <= chunk.length; at += 6 + chunk.readUInt16BE(at + 4)) {
    const frame = Buffer.from(chunk.subarray(at, at + 9));
    frame.writeUInt16BE(3, 4);
    frame[7] = (frame[7] ?? 0) | 0x80;
    frame[8] = 4;
    out.push(frame);
  }
  return Buffer.concat(out);
}
