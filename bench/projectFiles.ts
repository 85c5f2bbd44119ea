/** A project of 110 000 tags as a file: the engine's loop while it is written, looked at and taken over. */
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { v7 as uuid } from 'uuid';
import SERVER_FLAGS from '../scripts/serverFlags.json' with { type: 'json' };
import type { Figure } from './figure.ts';
import { bringIn, listOf } from './lists.ts';
import { file, freePort, loop, onQuietMachine, rest, startLoad } from './serverLoad.ts';

const ROWS = 100_000;
const LOOP_MS = 50;
/** What follows from a change is part of it. */
const AFTER_MS = 4000;

export async function projectFiles(): Promise<readonly Figure[]> {
  const load = await startLoad(false);
  let isLoaded = true;
  const folder = mkdtempSync(join(tmpdir(), 'mill-latch-file-'));
  try {
    const { devices } = (await (await fetch(`${load.address}/api/v1/project`)).json()) as { devices: { id: string }[] };
    await bringIn(load.address, devices[0]?.id ?? '', listOf(folder, 'big', ROWS));
    await rest(AFTER_MS);
    const download = async (): Promise<Uint8Array> => new Uint8Array(await (await fetch(`${load.address}/api/v1/project-file`)).arrayBuffer());
    const zip = await download();
    const writing = await longest(load.address, async () => void (await download()));
    const looking = await longest(load.address, () => send(load.address, 'preview', zip));
    // A server of its own has the machine for itself.
    await load.close();
    isLoaded = false;
    const other = await emptyServer(join(folder, 'other'));
    const taking = await longest(other.address, async () => {
      await send(other.address, `commit?command=${uuid()}`, zip);
      await rest(AFTER_MS);
    });
    const undoing = await longest(other.address, async () => {
      await fetch(`${other.address}/api/v1/undo`, { method: 'POST' });
      await rest(AFTER_MS);
    });
    await other.end();
    const measured = { exporting: writing, 'looking at': looking, importing: taking, undoing };
    return Object.entries(measured).map(([what, { ms, words }]) => ({
      name: `Of ${LOOP_MS} ms, the longest time that the engine’s loop was blocked by ${what} a project file of ${ROWS + 10_000} tags`,
      ratio: ms / LOOP_MS,
      wanted: 1,
      atMost: true,
      detail: words,
    }));
  } finally {
    if (isLoaded) await load.close();
    rmSync(folder, { recursive: true, force: true });
  }
}

interface Measured {
  readonly ms: number;
  readonly words: string;
}

/** @param work is done again where the machine was not quiet */
async function longest(address: string, work: () => Promise<void>): Promise<Measured> {
  let seconds = 0;
  const { ms, words } = await onQuietMachine(async () => {
    await loop(address);
    const begun = performance.now();
    await work();
    seconds = (performance.now() - begun) / 1000;
    return loop(address);
  });
  return { ms, words: `${words}; it took ${seconds.toFixed(1)} s` };
}

async function send(address: string, what: string, zip: Uint8Array): Promise<void> {
  const headers = { 'content-type': 'application/octet-stream' };
  const done = await fetch(`${address}/api/v1/project-file/${what}`, { method: 'POST', headers, body: new Uint8Array(zip) });
  const text = await done.text();
  if (!done.ok && done.status !== 409) throw new Error(text);
}

/** A server on a folder of its own. */
async function emptyServer(folder: string): Promise<{ readonly address: string; end(): Promise<void> }> {
  const port = await freePort();
  const server = spawn(process.execPath, [...SERVER_FLAGS, file('dist/server.mjs'), '--data', folder, '--port', String(port), '--with-parent'], {
    stdio: ['pipe', 'pipe', 'inherit'],
    env: { ...process.env, NODE_ENV: 'production' },
  });
  let said = '';
  server.stdout.on('data', (chunk: Buffer) => (said += chunk.toString()));
  while (!said.includes('"ready":true')) await rest(10);
  return {
    address: `http://127.0.0.1:${port}`,
    async end() {
      server.kill('SIGTERM');
      await once(server, 'exit');
    },
  };
}
