/** Large lists in the database: lines of JSON, compressed, in base64. A portion at a time, so that nothing else waits. */
import { once } from 'node:events';
import type { TransformOptions } from 'node:stream';
import { createGunzip, createGzip, type ZlibOptions } from 'node:zlib';
import { nextTurn } from '@/core/inSlices.ts';

/** Items that go into one line. */
const PORTION = 100;
/** What goes to the compressing thread at once: small pieces would spend their time waiting for it. */
const CHUNK_BYTES = 256 * 1024;

export async function pack(items: readonly unknown[]): Promise<string> {
  const options: ZlibOptions & TransformOptions = { level: 1, chunkSize: CHUNK_BYTES, highWaterMark: CHUNK_BYTES };
  const gzip = createGzip(options);
  const chunks: Buffer[] = [];
  gzip.on('data', (chunk: Buffer) => chunks.push(chunk));
  const ended = once(gzip, 'end');
  for (let from = 0; from < items.length; from += PORTION) {
    if (!gzip.write(`${JSON.stringify(items.slice(from, from + PORTION))}\n`)) await once(gzip, 'drain');
    else if (from % (PORTION * 5) === 0) await nextTurn();
  }
  gzip.end();
  await ended;
  return Buffer.concat(chunks).toString('base64');
}

/** @throws Error when the text was not made by {@link pack} */
export async function unpack<T>(packed: string): Promise<readonly T[]> {
  const gunzip = createGunzip({ chunkSize: CHUNK_BYTES });
  gunzip.end(Buffer.from(packed, 'base64'));
  const items: T[] = [];
  const utf8 = new TextDecoder();
  let rest = '';
  for await (const chunk of gunzip) {
    const lines = (rest + utf8.decode(chunk as Buffer, { stream: true })).split('\n');
    rest = lines.pop() ?? '';
    for (const line of lines) {
      for (const item of JSON.parse(line) as T[]) items.push(item);
      await nextTurn();
    }
  }
  return items;
}
