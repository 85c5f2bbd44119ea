/**
 * A stretch of the past of many tags, as bytes: what came over the wire, and when. It begins with what was known of every tag, so that
 * each stretch can be read alone.
 *
 * Layout, before it is deflated: `MLR1`, length of the head in 32 bits little-endian, the head as JSON, then five streams one after the
 * other, whose lengths stand in the head: entries of each column, places in the list of times (each less the one before), what each entry
 * is (0 for bytes, else a reason of the head's list, from 1), times (each less the one before), and the bytes, column by column and in it
 * byte by byte, each exclusive-or the one before: what does not change is zeros. Numbers are unsigned LEB128.
 */

/** One value that came; without bytes there was none, for a reason. */
export interface RecordedEntry {
  /** Whole milliseconds since 1970. */
  readonly at: number;
  readonly bytes: Uint8Array | null;
  /** Why there is no value; empty where there is one. */
  readonly reason: string;
}

export interface RecordedColumn {
  readonly tagId: string;
  /** Bytes of its values; another length is another column. */
  readonly size: number;
  /** How it was mapped then: an entry of the head's list. */
  readonly mapping: string;
  /** Where it lies: `area from` in bits of that area; empty where its source is no memory. */
  readonly place: string;
  readonly entries: readonly RecordedEntry[];
}

interface Head {
  readonly from: number;
  readonly to: number;
  readonly columns: readonly (readonly [tagId: string, size: number, mapping: number, place: string])[];
  readonly mappings: readonly string[];
  readonly reasons: readonly string[];
  /** Bytes of each stream. */
  readonly streams: readonly number[];
}

const MAGIC = 'MLR1';

/** In steps, one a column. */
export function* encodeChunk(from: number, to: number, columns: readonly RecordedColumn[]): Generator<void, Uint8Array> {
  const times = [...new Set(columns.flatMap(({ entries }) => entries.map(({ at }) => at)))].sort((a, b) => a - b);
  const placeOf = new Map(times.map((at, i) => [at, i]));
  const [mappings, reasons] = [new Numbered(), new Numbered()];
  const [counts, places, kinds, moments, planes] = [new Growing(), new Growing(), new Growing(), new Growing(), new Growing()];
  let last = from;
  for (const at of times) {
    moments.varint(at - last);
    last = at;
  }
  const heads: (readonly [string, number, number, string])[] = [];
  for (const { tagId, size, mapping, place, entries } of columns) {
    heads.push([tagId, size, mappings.of(mapping), place]);
    counts.varint(entries.length);
    let before = 0;
    for (const { at, bytes, reason } of entries) {
      const index = placeOf.get(at) ?? 0;
      places.varint(index - before);
      before = index;
      kinds.varint(bytes ? 0 : reasons.of(reason) + 1);
    }
    for (let i = 0; i < size; i++) {
      let prior = 0;
      for (const { bytes } of entries) {
        if (!bytes) continue;
        const byte = bytes[i] ?? 0;
        planes.byte(byte ^ prior);
        prior = byte;
      }
    }
    yield;
  }
  const streams = [counts, places, kinds, moments, planes].map((stream) => stream.taken());
  const head: Head = { from, to, columns: heads, mappings: mappings.all, reasons: reasons.all, streams: streams.map(({ length }) => length) };
  const json = new TextEncoder().encode(JSON.stringify(head));
  const out = new Uint8Array(8 + json.length + streams.reduce((sum, { length }) => sum + length, 0));
  out.set(new TextEncoder().encode(MAGIC));
  new DataView(out.buffer).setUint32(4, json.length, true);
  out.set(json, 8);
  let at = 8 + json.length;
  for (const stream of streams) {
    out.set(stream, at);
    at += stream.length;
  }
  return out;
}

/** @param wanted  tags to read; null for all. @returns null where it is no such stretch, or was cut off */
export function decodeChunk(bytes: Uint8Array, wanted: ReadonlySet<string> | null = null): readonly RecordedColumn[] | null {
  const read = opened(bytes);
  if (!read) return null;
  const { head, streams } = read;
  const [counts, places, kinds, moments, planes] = streams.map((stream) => new Reading(stream)) as [Reading, Reading, Reading, Reading, Reading];
  const times: number[] = [];
  for (let last = head.from; !moments.isOver; times.push(last)) last += moments.varint();
  const columns: RecordedColumn[] = [];
  for (const [tagId, size, mapping, place] of head.columns) {
    const count = counts.varint();
    const isWanted = wanted === null || wanted.has(tagId);
    const found: { at: number; kind: number }[] = [];
    let index = 0;
    let valued = 0;
    for (let i = 0; i < count; i++) {
      index += places.varint();
      const kind = kinds.varint();
      if (kind === 0) valued++;
      if (isWanted) found.push({ at: times[index] ?? head.from, kind });
    }
    const plane = planes.take(size * valued);
    if (!isWanted) continue;
    const values = unfolded(plane, size, valued);
    let next = 0;
    const entries = found.map(({ at, kind }): RecordedEntry =>
      kind === 0 ? { at, bytes: values[next++] ?? null, reason: '' } : { at, bytes: null, reason: head.reasons[kind - 1] ?? '' },
    );
    columns.push({ tagId, size, mapping: head.mappings[mapping] ?? '', place, entries });
  }
  return columns;
}

function opened(bytes: Uint8Array): { readonly head: Head; readonly streams: readonly Uint8Array[] } | null {
  if (bytes.length < 8 || new TextDecoder().decode(bytes.subarray(0, 4)) !== MAGIC) return null;
  const size = new DataView(bytes.buffer, bytes.byteOffset).getUint32(4, true);
  if (8 + size > bytes.length) return null;
  try {
    const head = JSON.parse(new TextDecoder().decode(bytes.subarray(8, 8 + size))) as Head;
    let at = 8 + size;
    const streams = head.streams.map((length) => bytes.subarray(at, (at += length)));
    return at === bytes.length && streams.length === 5 ? { head, streams } : null;
  } catch {
    return null;
  }
}

function unfolded(plane: Uint8Array, size: number, count: number): readonly Uint8Array[] {
  const values = Array.from({ length: count }, () => new Uint8Array(size));
  for (let i = 0; i < size; i++) {
    let prior = 0;
    for (let n = 0; n < count; n++) {
      prior ^= plane[i * count + n] ?? 0;
      const value = values[n];
      if (value) value[i] = prior;
    }
  }
  return values;
}

/** Texts, each once, by their numbers. */
class Numbered {
  readonly #numbers = new Map<string, number>();

  of(text: string): number {
    const known = this.#numbers.get(text);
    if (known !== undefined) return known;
    this.#numbers.set(text, this.#numbers.size);
    return this.#numbers.size - 1;
  }

  get all(): readonly string[] {
    return [...this.#numbers.keys()];
  }
}

class Growing {
  #bytes = new Uint8Array(1024);
  #length = 0;

  byte(value: number): void {
    if (this.#length === this.#bytes.length) {
      const larger = new Uint8Array(this.#bytes.length * 2);
      larger.set(this.#bytes);
      this.#bytes = larger;
    }
    this.#bytes[this.#length++] = value;
  }

  varint(value: number): void {
    let rest = value;
    while (rest >= 128) {
      this.byte((rest % 128) | 128);
      rest = Math.floor(rest / 128);
    }
    this.byte(rest);
  }

  taken(): Uint8Array {
    return this.#bytes.subarray(0, this.#length);
  }
}

class Reading {
  #at = 0;

  constructor(private readonly bytes: Uint8Array) {}

  get isOver(): boolean {
    return this.#at >= this.bytes.length;
  }

  varint(): number {
    let value = 0;
    for (let scale = 1; ; scale *= 128) {
      const byte = this.bytes[this.#at++] ?? 0;
      value += (byte & 127) * scale;
      if (byte < 128) return value;
    }
  }

  take(length: number): Uint8Array {
    return this.bytes.subarray(this.#at, (this.#at += length));
  }
}
