/**
 * A server of EtherNet/IP written by hand: sessions, connections, and the tag services of a controller in slot 0 behind an adapter.
 * It shares no code with the product that reads it.
 */
import { createSocket } from 'node:dgram';
import { createServer, type Server, type Socket } from 'node:net';
import type { Place, Refused, StructureType, Tag, TagMemory } from './tagMemory.ts';

/** How the controller behaves; may be changed while it serves. */
export interface ServerTraits {
  product: string;
  revision: readonly [major: number, minor: number];
  /** The largest connection that it grants; 0 grants none. */
  largest: number;
  /** Whether it knows the large form of opening. */
  hasLargeOpen: boolean;
  takesPackets: boolean;
  /** Nothing is answered any more to messages. */
  isMute: boolean;
  /** How long an answer takes. */
  delayMs: number;
}

const UNCONNECTED_BYTES = 504;
const SLOT = 0;
const MOST_PLACED = 20_000;

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
  readonly #placed = new Map<string, Place | Refused>();
  #placedAt = -1;
  #nextSession = 0x2001;
  #nextConnection = 0x7001;
  /** Messages that asked for something, counted for who measures. */
  messages = 0;
  writes = 0;

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
    this.server = createServer((socket) => this.#serve(socket));
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
    const reply = this.#service(body.subarray(2), opened.size - 2);
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
    if (path[0] !== 0x20 || path[1] !== 0x06) return this.#service(message, UNCONNECTED_BYTES);
    if (service === 0x52) {
      const length = rest.readUInt16LE(2);
      const inner = rest.subarray(4, 4 + length);
      const at = 4 + length + (length % 2);
      const route = rest.subarray(at + 2, at + 2 + 2 * (rest[at] ?? 0));
      const why = badRoute(route);
      return why === null ? this.#service(inner, UNCONNECTED_BYTES) : refusedReply(0x52, 0x01, why);
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

  /** @param room bytes of the answer, at the most */
  #service(message: Buffer, room: number): Buffer {
    this.messages++;
    return this.#serviceInside(message, room);
  }

  #serviceInside(message: Buffer, room: number): Buffer {
    const service = message[0] ?? 0;
    const path = message.subarray(2, 2 + 2 * (message[1] ?? 0));
    const rest = message.subarray(2 + path.length);
    const done = (data: Buffer, general = 0): Buffer => Buffer.concat([Buffer.from([service | 0x80, 0, general, 0]), data]);
    if (service === 0x0a) return this.traits.takesPackets ? this.#packet(rest, room) : refusedReply(service, 0x08);
    const object = path[0] === 0x20 || service === 0x55 ? objectIn(path) : null;
    if (object?.classId === 0x01 && service === 0x01) return done(this.#identity());
    if (object?.classId === 0x6b && service === 0x55) return this.#symbols(object, rest, room);
    if (object?.classId === 0x6c) return this.#templates(service, object.instance, rest, room);
    if (object) return refusedReply(service, 0x05);
    const place = this.#placeAt(path);
    if (!place) return refusedReply(service, 0x04);
    if ('general' in place) return refusedPlace(service, place);
    switch (service) {
      case 0x4c:
        return this.#read(service, place, rest.length >= 2 ? rest.readUInt16LE(0) : 1, 0, room);
      case 0x52:
        return rest.length >= 6 ? this.#read(service, place, rest.readUInt16LE(0), rest.readUInt32LE(2), room) : refusedReply(service, 0x13);
      case 0x4d:
        return this.#write(place, rest);
      case 0x4e:
        return this.#modify(place, rest);
      default:
        return refusedReply(service, 0x08);
    }
  }

  /** Null for a path that cannot be read. Where one has led is kept as long as the tags are the same. */
  #placeAt(path: Buffer): Place | Refused | null {
    if (this.#placedAt !== this.memory.version) {
      this.#placed.clear();
      this.#placedAt = this.memory.version;
    }
    const key = path.toString('latin1');
    const known = this.#placed.get(key);
    if (known) return known;
    const steps = stepsIn(path);
    const place = steps ? this.memory.locate(steps) : null;
    if (place && this.#placed.size < MOST_PLACED) this.#placed.set(key, place);
    return place;
  }

  #packet(rest: Buffer, room: number): Buffer {
    const count = rest.readUInt16LE(0);
    const offsets = Array.from({ length: count }, (_, i) => rest.readUInt16LE(2 + 2 * i));
    let left = room - 4 - 2 - 2 * count;
    let isAnyBad = false;
    const replies = offsets.map((from, i) => {
      // A reply that does not fit any more says so in its four bytes.
      const owed = 4 * (count - i - 1);
      const reply = this.#serviceInside(rest.subarray(from, offsets[i + 1] ?? rest.length), Math.max(4, left - owed));
      left -= reply.length;
      if (reply[2] !== 0) isAnyBad = true;
      return reply;
    });
    let at = 2 + 2 * count;
    const heads = replies.map((reply) => {
      const here = word(at);
      at += reply.length;
      return here;
    });
    return Buffer.concat([Buffer.from([0x8a, 0, isAnyBad ? 0x1e : 0, 0]), word(count), ...heads, ...replies]);
  }

  #read(service: number, { tag, type, offset, bit, left }: Place, count: number, from: number, room: number): Buffer {
    if (count > left) return refusedReply(service, 0xff, 0x2105);
    const head = type.kind === 'structure' ? Buffer.from([0xa0, 0x02, type.handle & 0xff, type.handle >> 8]) : word(type.code);
    if (bit === null && from === 0 && 4 + head.length + type.bytes * count <= room) {
      const whole = Buffer.allocUnsafe(4 + head.length + type.bytes * count);
      whole.writeUInt32LE(service | 0x80, 0);
      whole.set(head, 4);
      whole.set(tag.data.subarray(offset, offset + type.bytes * count), 4 + head.length);
      return whole;
    }
    const all =
      bit === null ? Buffer.from(tag.data.subarray(offset, offset + type.bytes * count)) : Buffer.from([((tag.data[offset] ?? 0) >> bit) & 1]);
    if (from > all.length) return refusedReply(service, 0xff, 0x2104);
    const fits = Math.floor((room - 4 - head.length) / 4) * 4;
    const data = all.subarray(from);
    if (data.length <= room - 4 - head.length) return Buffer.concat([Buffer.from([service | 0x80, 0, 0, 0]), head, data]);
    if (fits <= 0) return refusedReply(service, 0x11);
    return Buffer.concat([Buffer.from([service | 0x80, 0, 0x06, 0]), head, data.subarray(0, fits)]);
  }

  #write({ tag, type, offset, bit, left }: Place, rest: Buffer): Buffer {
    this.writes++;
    const isStructure = rest.readUInt16LE(0) === 0x02a0;
    const head = isStructure ? 6 : 4;
    const count = rest.readUInt16LE(head - 2);
    const fits = type.kind === 'structure' ? isStructure && rest.readUInt16LE(2) === type.handle : rest.readUInt16LE(0) === type.code;
    if (!fits) return refusedReply(0x4d, 0xff, 0x2107);
    if (count > left) return refusedReply(0x4d, 0xff, 0x2105);
    const data = rest.subarray(head);
    if (data.length !== type.bytes * count) return refusedReply(0x4d, data.length < type.bytes * count ? 0x13 : 0x15);
    if (bit !== null) tag.data[offset] = ((tag.data[offset] ?? 0) & ~(1 << bit)) | (data[0] ? 1 << bit : 0);
    else tag.data.set(type.kind === 'atom' && type.code === 0xc1 ? [data[0] ? 1 : 0] : data, offset);
    return Buffer.from([0xcd, 0, 0, 0]);
  }

  #modify({ tag, type, offset }: Place, rest: Buffer): Buffer {
    this.writes++;
    const width = rest.readUInt16LE(0);
    if (type.kind !== 'atom' || type.bytes !== width || rest.length !== 2 + 2 * width) return refusedReply(0x4e, 0x03);
    for (let i = 0; i < width; i++) tag.data[offset + i] = ((tag.data[offset + i] ?? 0) | (rest[2 + i] ?? 0)) & (rest[2 + width + i] ?? 0);
    return Buffer.from([0xce, 0, 0, 0]);
  }

  #symbols({ scope, instance }: ObjectPath, rest: Buffer, room: number): Buffer {
    const tags = this.memory.tagsOf(scope);
    if (!tags) return refusedReply(0x55, 0x04);
    if (rest.toString('hex') !== '0300010002000800') return refusedReply(0x55, 0x0a);
    const programs =
      scope === '' ? this.memory.programs.map((name, i) => ({ instance: 50_000 + i, name, word: 0x1068, lengths: [] as readonly number[] })) : [];
    const listed = [...tags.map((tag) => ({ instance: tag.instance, name: tag.name, word: typeWord(tag), lengths: tag.lengths })), ...programs];
    const parts: Buffer[] = [];
    let length = 4;
    let isCut = false;
    for (const { instance: own, name, word: type, lengths } of listed) {
      if (own < instance) continue;
      const part = Buffer.concat([
        double(own),
        word(name.length),
        Buffer.from(name, 'latin1'),
        word(type),
        ...[0, 1, 2].map((i) => double(lengths[i] ?? 0)),
      ]);
      if (length + part.length > room) {
        isCut = true;
        break;
      }
      length += part.length;
      parts.push(part);
    }
    return Buffer.concat([Buffer.from([0xd5, 0, isCut ? 0x06 : 0, 0]), ...parts]);
  }

  #templates(service: number, instance: number, rest: Buffer, room: number): Buffer {
    const type = this.memory.structures().get(instance);
    if (!type) return refusedReply(service, 0x05);
    const described = describedStructure(type);
    if (service === 0x03) {
      const words = Math.ceil((described.length + 23) / 4);
      const facts: Readonly<Record<number, Buffer>> = { 1: word(type.handle), 2: word(type.members.length), 4: double(words), 5: double(type.bytes) };
      const asked = Array.from({ length: rest.readUInt16LE(0) }, (_, i) => rest.readUInt16LE(2 + 2 * i));
      return Buffer.concat([
        Buffer.from([0x83, 0, 0, 0]),
        word(asked.length),
        ...asked.flatMap((a) => [word(a), word(0), facts[a] ?? Buffer.alloc(0)]),
      ]);
    }
    if (service !== 0x4c) return refusedReply(service, 0x08);
    const offset = rest.readUInt32LE(0);
    const padded = Buffer.concat([described, Buffer.alloc(4)]);
    const wanted = padded.subarray(offset, offset + rest.readUInt16LE(4));
    const fits = room - 4;
    return Buffer.concat([Buffer.from([0xcc, 0, wanted.length > fits ? 0x06 : 0, 0]), wanted.subarray(0, fits)]);
  }

  #identity(): Buffer {
    const { product, revision } = this.traits;
    return Buffer.concat([
      Buffer.from([0xff, 0xff, 0x0e, 0, 0x20, 0, ...revision, 0x60, 0x31, 0x51, 0x0c, 0x07, 0x4c, product.length]),
      Buffer.from(product, 'latin1'),
    ]);
  }

  #identityItem(port: number): Buffer {
    const identity = Buffer.concat([this.#identity(), Buffer.from([3])]);
    const address = Buffer.alloc(16);
    address.writeUInt16BE(2, 0);
    address.writeUInt16BE(port, 2);
    address.set([127, 0, 0, 1], 4);
    const body = Buffer.concat([word(1), address, identity]);
    return Buffer.concat([word(1), word(0x0c), word(body.length), body]);
  }
}

function word(value: number): Buffer {
  const bytes = Buffer.alloc(2);
  bytes.writeUInt16LE(value & 0xffff);
  return bytes;
}
function double(value: number): Buffer {
  const bytes = Buffer.alloc(4);
  bytes.writeUInt32LE(value >>> 0);
  return bytes;
}

function refusedReply(service: number, general: number, ...extended: readonly number[]): Buffer {
  return Buffer.concat([Buffer.from([service | 0x80, 0, general, extended.length]), ...extended.map(word)]);
}
function refusedPlace(service: number, { general, extended }: Refused): Buffer {
  return extended === 0 ? refusedReply(service, general) : refusedReply(service, general, extended);
}

/** Only the processor in its slot, or nothing at all. Returns the additional status of what is wrong. */
function badRoute(route: Buffer): number | null {
  if (route.length === 0) return null;
  if (route.length !== 2) return 0x0315;
  if (route[0] !== 1) return 0x0311;
  return route[1] === SLOT ? null : 0x0312;
}

interface ObjectPath {
  readonly scope: string;
  readonly classId: number;
  readonly instance: number;
}

/** A class and an instance, after the name of a program perhaps. */
function objectIn(path: Buffer): ObjectPath | null {
  let at = 0;
  let scope = '';
  if (path[0] === 0x91 && path.subarray(2, 10).toString('latin1').toLowerCase() === 'program:') {
    const length = path[1] ?? 0;
    scope = path.subarray(2, 2 + length).toString('latin1');
    at = 2 + length + (length % 2);
  }
  if (path[at] !== 0x20) return null;
  const kind = path[at + 2];
  const instance = kind === 0x24 ? (path[at + 3] ?? 0) : kind === 0x25 ? path.readUInt16LE(at + 4) : kind === 0x26 ? path.readUInt32LE(at + 4) : 0;
  return { scope, classId: path[at + 1] ?? 0, instance };
}

function stepsIn(path: Buffer): readonly (string | number)[] | null {
  const steps: (string | number)[] = [];
  for (let at = 0; at < path.length;) {
    const kind = path[at];
    if (kind === 0x91) {
      const length = path[at + 1] ?? 0;
      steps.push(path.subarray(at + 2, at + 2 + length).toString('latin1'));
      at += 2 + length + (length % 2);
    } else if (kind === 0x28) {
      steps.push(path[at + 1] ?? 0);
      at += 2;
    } else if (kind === 0x29 && path.length >= at + 4) {
      steps.push(path.readUInt16LE(at + 2));
      at += 4;
    } else if (kind === 0x2a && path.length >= at + 6) {
      steps.push(path.readUInt32LE(at + 2));
      at += 6;
    } else return null;
  }
  return steps.length > 0 ? steps : null;
}

function typeWord({ type, lengths }: Tag): number {
  return (type.kind === 'structure' ? 0x8000 | type.instance : type.code) | (lengths.length << 13);
}

function describedStructure({ name, members }: StructureType): Buffer {
  const infos = members.map(({ type, offset, length, bit }) =>
    Buffer.concat([
      word(bit ?? length),
      word((type.kind === 'structure' ? 0x8000 | type.instance : type.code) | (length > 0 ? 0x2000 : 0)),
      double(offset),
    ]),
  );
  return Buffer.concat([...infos, Buffer.from(`${name};n\0${members.map((m) => m.name).join('\0')}\0`, 'latin1')]);
}
