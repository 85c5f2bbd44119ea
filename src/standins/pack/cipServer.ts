/**
 * A server of EtherNet/IP written by hand: sessions, connections, and the tag services of a controller in slot 0 behind an adapter.
 * It shares no code with the product that reads it.
 */
import { createSocket } from 'node:dgram';
import { createServer, type Server, type Socket } from 'node:net';
import { double, refusedReply, word } from './replies.ts';
import type { TagMemory } from './tagMemory.ts';
import { TagServices, type ServerTraits } from './tagServices.ts';

const UNCONNECTED_BYTES = 504;
const SLOT = 0;

interface Opened {
  readonly theirs: number;
  readonly serial: number;
  readonly originator: number;
  readonly size: number;
  readonly socket: Socket;
}

export class CipServer {
  readonly memory: TagMemory;
  readonly traits: ServerTraits;
  readonly server: Server;
  readonly #sockets = new Set<Socket>();
  readonly #opened = new Map<number, Opened>();
  readonly #services: TagServices;
  #nextSession = 0x2001;
  #nextConnection = 0x7001;

  constructor(memory: TagMemory, traits: Partial<ServerTraits> = {}) {
    this.memory = memory;
    this.traits = {
      product: 'Packing controller',
      revision: [3, 11],
      largest: 4002,
      hasLargeOpen: true,
      takesPackets: true,
      isMute: false,
      delayMs: 0,
      ...traits,
    };
    this.#services = new TagServices(memory, this.traits);
    this.server = createServer((socket) => this.#serve(socket));
  }

  /** Messages that asked for something, counted for who measures. */
  get messages(): number {
    return this.#services.messages;
  }
  get writes(): number {
    return this.#services.writes;
  }

  /**
   * Answers who it is to whoever asks everybody on loopback, at the port that it serves.
   * @returns what ends it
   */
  async answerBroadcasts(port: number): Promise<() => void> {
    const [hearing, telling] = [createSocket({ type: 'udp4', reuseAddr: true }), createSocket('udp4')];
    hearing.on('message', (frame, from) => {
      if (frame.length !== 24 || frame.readUInt16LE(0) !== 0x63) return;
      const body = this.#identityItem(port);
      const head = Buffer.from(frame);
      head.writeUInt16LE(body.length, 2);
      telling.send(Buffer.concat([head, body]), from.port, from.address);
    });
    await new Promise<void>((resolve, reject) => {
      hearing.once('error', reject);
      hearing.bind(port, '127.255.255.255', resolve);
    });
    await new Promise<void>((resolve) => telling.bind(0, '127.0.0.1', resolve));
    return () => {
      hearing.close();
      telling.close();
    };
  }

  /** Connections of CIP that are open. */
  get connections(): number {
    return this.#opened.size;
  }
  /** As after a time-out: they are gone, and nobody is told. */
  forgetConnections(): void {
    this.#opened.clear();
  }
  dropSockets(): void {
    for (const socket of this.#sockets) socket.destroy();
  }

  #serve(socket: Socket): void {
    this.#sockets.add(socket);
    socket.setNoDelay(true);
    let session = 0;
    let rest: Buffer = Buffer.alloc(0);
    socket.on('data', (chunk) => {
      rest = Buffer.concat([rest, chunk]);
      while (rest.length >= 24) {
        const length = 24 + rest.readUInt16LE(2);
        if (rest.length < length) return;
        const frame = rest.subarray(0, length);
        rest = rest.subarray(length);
        try {
          session = this.#frame(socket, session, frame);
        } catch {
          // What cannot be read ends the connection, as with any controller.
          socket.destroy();
          return;
        }
      }
    });
    socket.on('error', () => socket.destroy());
    socket.on('close', () => {
      this.#sockets.delete(socket);
      for (const [id, opened] of this.#opened) if (opened.socket === socket) this.#opened.delete(id);
    });
  }

  #frame(socket: Socket, session: number, frame: Buffer): number {
    const command = frame.readUInt16LE(0);
    const data = frame.subarray(24);
    const answer = (body: Buffer, status = 0, as = session): void => {
      const head = Buffer.from(frame.subarray(0, 24));
      head.writeUInt16LE(body.length, 2);
      head.writeUInt32LE(as, 4);
      head.writeUInt32LE(status, 8);
      const answered = Buffer.concat([head, body]);
      if (this.traits.delayMs === 0 || command < 0x6f) socket.write(answered);
      else setTimeout(() => socket.write(answered), this.traits.delayMs);
    };
    switch (command) {
      case 0x63:
        answer(this.#identityItem(socket.localPort ?? 0));
        return session;
      case 0x65: {
        if (data.length !== 4 || data.readUInt16LE(0) !== 1) answer(data, 0x69);
        else answer(data, 0, this.#nextSession);
        return this.#nextSession++;
      }
      case 0x66:
        socket.end();
        return 0;
      case 0x6f:
      case 0x70:
        if (frame.readUInt32LE(4) !== session || session === 0) answer(Buffer.alloc(0), 0x64);
        else this.#message(socket, command, data, answer);
        return session;
      default:
        answer(Buffer.alloc(0), 0x01);
        return session;
    }
  }

  #message(socket: Socket, command: number, data: Buffer, answer: (body: Buffer, status?: number) => void): void {
    if (this.traits.isMute) return;
    const first = data.readUInt16LE(10);
    const second = 12 + first;
    const body = data.subarray(second + 4, second + 4 + data.readUInt16LE(second + 2));
    if (command === 0x6f) {
      const reply = body.length > UNCONNECTED_BYTES ? refusedReply(body[0] ?? 0, 0x15) : this.#manage(socket, body);
      return answer(Buffer.concat([Buffer.from([0, 0, 0, 0, 0, 0, 2, 0, 0, 0, 0, 0, 0xb2, 0]), word(reply.length), reply]));
    }
    const opened = this.#opened.get(data.readUInt32LE(12));
    if (!opened || opened.socket !== socket || body.length > opened.size) return;
    const sequence = body.subarray(0, 2);
    const reply = this.#services.answer(body.subarray(2), opened.size - 2);
    answer(
      Buffer.concat([
        Buffer.from([0, 0, 0, 0, 0, 0, 2, 0, 0xa1, 0, 4, 0]),
        double(opened.theirs),
        Buffer.from([0xb1, 0]),
        word(reply.length + 2),
        sequence,
        reply,
      ]),
    );
  }

  /** A message that came without a connection: for the adapter's connection manager, or for the adapter itself. */
  #manage(socket: Socket, message: Buffer): Buffer {
    const service = message[0] ?? 0;
    const path = message.subarray(2, 2 + 2 * (message[1] ?? 0));
    const rest = message.subarray(2 + path.length);
    if (path[0] !== 0x20 || path[1] !== 0x06) return this.#services.answer(message, UNCONNECTED_BYTES);
    if (service === 0x52) {
      const length = rest.readUInt16LE(2);
      const inner = rest.subarray(4, 4 + length);
      const at = 4 + length + (length % 2);
      const route = rest.subarray(at + 2, at + 2 + 2 * (rest[at] ?? 0));
      const why = badRoute(route);
      return why === null ? this.#services.answer(inner, UNCONNECTED_BYTES) : refusedReply(0x52, 0x01, why);
    }
    if (service === 0x4e) {
      for (const [id, { serial, originator }] of this.#opened)
        if (serial === rest.readUInt16LE(2) && originator === rest.readUInt32LE(6)) {
          this.#opened.delete(id);
          return Buffer.concat([Buffer.from([0xce, 0, 0, 0]), rest.subarray(2, 10), Buffer.from([0, 0])]);
        }
      return refusedReply(0x4e, 0x01, 0x0107);
    }
    if (service !== 0x54 && service !== 0x5b) return refusedReply(service, 0x08);
    const isLarge = service === 0x5b;
    if (isLarge && !this.traits.hasLargeOpen) return refusedReply(service, 0x08);
    const size = isLarge ? rest.readUInt16LE(26) : rest.readUInt16LE(26) & 0x1ff;
    const after = isLarge ? 38 : 34;
    const way = rest.subarray(after + 2, after + 2 + 2 * (rest[after + 1] ?? 0));
    const why = badRoute(way.subarray(0, way.length - 4));
    if (why !== null) return refusedReply(service, 0x01, why);
    if (this.traits.largest === 0) return refusedReply(service, 0x01, 0x0113);
    if (size > this.traits.largest) return refusedReply(service, 0x01, 0x0109, this.traits.largest);
    const id = this.#nextConnection++;
    this.#opened.set(id, { theirs: rest.readUInt32LE(6), serial: rest.readUInt16LE(10), originator: rest.readUInt32LE(14), size, socket });
    return Buffer.concat([
      Buffer.from([service | 0x80, 0, 0, 0]),
      double(id),
      rest.subarray(6, 10),
      rest.subarray(10, 18),
      rest.subarray(22, 26),
      rest.subarray(22, 26),
      Buffer.from([0, 0]),
    ]);
  }

  #identityItem(port: number): Buffer {
    const identity = Buffer.concat([this.#services.identity(), Buffer.from([3])]);
    const address = Buffer.alloc(16);
    address.writeUInt16BE(2, 0);
    address.writeUInt16BE(port, 2);
    address.set([127, 0, 0, 1], 4);
    const body = Buffer.concat([word(1), address, identity]);
    return Buffer.concat([word(1), word(0x0c), word(body.length), body]);
  }
}

/** Only the processor in its slot, or nothing at all. Returns the additional status of what is wrong. */
function badRoute(route: Buffer): number | null {
  if (route.length === 0) return null;
  if (route.length !== 2) return 0x0315;
  if (route[0] !== 1) return 0x0311;
  return route[1] === SLOT ? null : 0x0312;
}
