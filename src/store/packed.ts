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
export function* linesOf(items: readonly object[]): Generator<string> {
  for (let from = 0; from < items.length; from += PORTION) {
    const portion = items.slice(from, from + PORTION);
    yield JSON.stringify(toTable(portion) ?? portion);
  }
}

/** The inverse of one line. */
export function itemsIn<T>(line: string): readonly T[] {
  const read = JSON.parse(line) as readonly T[] | JsonTable;
  return 'rows' in read ? fromTable<T>(read) : read;
}

export async function packLines(lines: Iterable<string>): Promise<string> {
  const options: ZlibOptions & TransformOptions = { level: 1, chunkSize: CHUNK_BYTES, highWaterMark: CHUNK_BYTES };
  const gzip = createGzip(options);
  const chunks: Buffer[] = [];
  gzip.on('data', (chunk: Buffer) => chunks.push(chunk));
  const ended = once(gzip, 'end');
  let written = 0;
  for (const line of lines) {
    if (!gzip.write(`${line}\n`)) await once(gzip, 'drain');
    else if (++written % 5 === 0) await nextTurn();
  }
  gzip.end();
  await ended;
  return Buffer.concat(chunks).toString('base64');
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
