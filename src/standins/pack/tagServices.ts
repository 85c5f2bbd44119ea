/** What a controller answers to messages: tags read, written and listed, several services in one message, and who it is. */
import { objectIn, stepsIn, type ObjectPath } from './paths.ts';
import { double, refusedPlace, refusedReply, word } from './replies.ts';
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

const MOST_PLACED = 20_000;

export class TagServices {
  readonly memory: TagMemory;
  readonly traits: ServerTraits;
  /** Messages that asked for something, counted for who measures. */
  messages = 0;
  writes = 0;
  readonly #placed = new Map<string, Place | Refused>();
  #placedAt = -1;

  constructor(memory: TagMemory, traits: ServerTraits) {
    this.memory = memory;
    this.traits = traits;
  }

  /** @param room bytes of the answer, at the most */
  answer(message: Buffer, room: number): Buffer {
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
    if (object?.classId === 0x01 && service === 0x01) return done(this.identity());
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

  identity(): Buffer {
    const { product, revision } = this.traits;
    return Buffer.concat([
      Buffer.from([0xff, 0xff, 0x0e, 0, 0x20, 0, ...revision, 0x60, 0x31, 0x51, 0x0c, 0x07, 0x4c, product.length]),
      Buffer.from(product, 'latin1'),
    ]);
  }
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
