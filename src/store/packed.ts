/** Large lists in the database: lines of JSON, each an array or a table, compressed, in base64. A portion at a time, so that nothing else waits. */
import { once } from 'node:events';
import type { TransformOptions } from 'node:stream';
import { createGunzip, createGzip, type ZlibOptions } from 'node:zlib';
import { nextTurn } from '@/core/inSlices.ts';
import { fromTable, toTable, type JsonTable } from '@/core/jsonTable.ts';

/** Items that go into one line. */
const PORTION = 100;
/** What goes to the compressing thread at once: small pieces would spend their time waiting for it. */
const CHUNK_BYTES = 256 * 1024;

export function pack(items: readonly object[]): Promise<string> {
  return packLines(linesOf(items));
}

/** The lines that a list is packed as, a portion each. */
export function* linesOf(items: Iterable<object>): Generator<string> {
  let portion: object[] = [];
  for (const item of items) {
    if (portion.push(item) < PORTION) continue;
    yield JSON.stringify(toTable(portion) ?? portion);
    portion = [];
  }
  if (portion.length > 0) yield JSON.stringify(toTable(portion) ?? portion);
}

/** The inverse of one line. */
export function itemsIn<T>(line: string): readonly T[] {
  const read = JSON.parse(line) as readonly T[] | JsonTable;
  return 'rows' in read ? fromTable<T>(read) : read;
}

export async function packLines(lines: Iterable<string>): Promise<string> {
  const packer = new LinePacker();
  let written = 0;
  for (const line of lines) {
    await packer.write(line);
    if (++written % 5 === 0) await nextTurn();
  }
  return packer.end();
}

/** Packs lines as they come. */
export class LinePacker {
  readonly #gzip = createGzip({ level: 1, chunkSize: CHUNK_BYTES, highWaterMark: CHUNK_BYTES } as ZlibOptions & TransformOptions);
  readonly #chunks: Buffer[] = [];
  readonly #ended = once(this.#gzip, 'end');

  constructor() {
    this.#gzip.on('data', (chunk: Buffer) => this.#chunks.push(chunk));
    this.#ended.catch(() => undefined);
  }

  /** Waits while there is more than the compressing thread can take. */
  async write(line: string): Promise<void> {
    if (!this.#gzip.write(`${line}\n`)) await once(this.#gzip, 'drain');
  }

  async end(): Promise<string> {
    this.#gzip.end();
    await this.#ended;
    return Buffer.concat(this.#chunks).toString('base64');
  }
}

/** @throws Error when the text was not made by {@link pack} */
export async function unpack<T>(packed: string): Promise<readonly T[]> {
  const items: T[] = [];
  for await (const line of unpackLines(packed)) for (const item of itemsIn<T>(line)) items.push(item);
  return items;
}

/** The lines of a packed list, each in a turn of its own. */
export async function* unpackLines(packed: string): AsyncGenerator<string> {
  const gunzip = createGunzip({ chunkSize: CHUNK_BYTES });
  gunzip.end(Buffer.from(packed, 'base64'));
  const utf8 = new TextDecoder();
  let rest = '';
  for await (const chunk of gunzip) {
    const lines = (rest + utf8.decode(chunk as Buffer, { stream: true })).split('\n');
    rest = lines.pop() ?? '';
    for (const line of lines) {
      yield line;
      await nextTurn();
    }
  }
}
