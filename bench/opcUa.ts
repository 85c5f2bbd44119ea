/** OPC UA beside a bare client of the library that it stands on: what observing and browsing cost more. */
import { fork, spawn } from 'node:child_process';
import { once } from 'node:events';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { v7 as uuid } from 'uuid';
import { newPoint } from '@/core/project/tagSource.ts';
import SERVER_FLAGS from '../scripts/serverFlags.json' with { type: 'json' };
import type { Figure } from './figure.ts';
import { file, rest } from './serverLoad.ts';

const NODES = 10_000;
const CHANGES = 1000;
const SECONDS = 20;
const PORT = 4791;
/** What was made for 10 000 tags is put away by then. */
const SETTLE_MS = 20_000;
const URI = 'urn:bench:load';

export async function opcUa(): Promise<readonly Figure[]> {
  const source = fork(file('bench/uaServer.mjs'), [String(NODES), String(CHANGES)], { stdio: ['ignore', 'pipe', 'inherit', 'ipc'] });
  const [line] = (await once(source.stdout as NodeJS.ReadableStream, 'data')) as [Buffer];
  const port = Number(line.toString());
  try {
    const bare = await client<{ cpuMs: number; changes: number }>(port, 'observe');
    const crawl = await client<{ ms: number; found: number }>(port, 'crawl');
    const own = await product(port);
    return [
      {
        name: 'Of a bare client, processor time for observing 10 000 nodes of which 1 000 change each second',
        ratio: own.cpuMs / bare.cpuMs,
        wanted: 1.3,
        atMost: true,
        detail: `${(own.cpuMs / SECONDS / 10).toFixed(1)} % of a core over ${SECONDS} s; bare ${(bare.cpuMs / SECONDS / 10).toFixed(1)} %, with ${bare.changes} changes told`,
      },
      {
        name: 'Of a bare crawl that asks for the same, time from asking a server for 10 000 nodes to the draft of a list',
        ratio: own.draftMs / crawl.ms,
        wanted: 1.5,
        atMost: true,
        detail: `${own.draftMs.toFixed(0)} ms for ${own.rows} rows; bare ${crawl.ms.toFixed(0)} ms for ${crawl.found} nodes`,
      },
    ];
  } finally {
    source.disconnect();
  }
}

async function client<T>(port: number, what: 'observe' | 'crawl'): Promise<T> {
  const run = spawn(process.execPath, [file('bench/uaClient.mjs'), String(port), what, String(NODES), String(SECONDS)], {
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  let said = '';
  run.stdout.on('data', (chunk: Buffer) => (said += chunk.toString()));
  await once(run, 'exit');
  return JSON.parse(said) as T;
}

/** The built server doing both. */
async function product(port: number): Promise<{ readonly cpuMs: number; readonly draftMs: number; readonly rows: number }> {
  const folder = mkdtempSync(join(tmpdir(), 'mill-latch-bench-'));
  const address = `http://127.0.0.1:${PORT}`;
  const server = spawn(process.execPath, [...SERVER_FLAGS, file('dist/server.mjs'), '--data', folder, '--port', String(PORT), '--with-parent'], {
    stdio: ['pipe', 'pipe', 'inherit'],
    env: { ...process.env, NODE_ENV: 'production' },
  });
  let said = '';
  server.stdout.on('data', (chunk: Buffer) => (said += chunk.toString()));
  while (!said.includes('"ready":true')) await rest(10);
  const api = async <T>(method: string, path: string, body?: object): Promise<T> => {
    const done = await fetch(`${address}/api/v1${path}`, {
      method,
      headers: { 'content-type': 'application/json' },
      ...(body ? { body: JSON.stringify(body) } : {}),
    });
    if (!done.ok) throw new Error(await done.text());
    return (await done.json()) as T;
  };
  const command = (changes: readonly object[]) => api('POST', '/commands', { id: uuid(), label: 'load', changes });
  try {
    const [linkId, deviceId] = [uuid(), uuid()];
    await command([
      { kind: 'link', id: linkId, set: { name: 'Load', driver: 'opc-ua', settings: { endpoint: `opc.tcp://127.0.0.1:${port}`, policy: 'None' } } },
      { kind: 'device', id: deviceId, set: { linkId, name: 'LOAD', settings: {}, dialect: {}, witnessUrl: '' } },
    ]);
    while (!JSON.stringify(await api('GET', '/status')).includes('"connected"')) await rest(50);
    const begun = performance.now();
    const draft = await api<{ readonly id: string }>('POST', `/devices/${deviceId}/list/draft`);
    let status = await api<{ readonly phase: string; readonly summary: { readonly good: number } | null }>('GET', `/lists/drafts/${draft.id}`);
    while (status.phase === 'reading') {
      await rest(10);
      status = await api('GET', `/lists/drafts/${draft.id}`);
    }
    const draftMs = performance.now() - begun;
    for (let from = 0; from < NODES; from += 2500)
      await command(
        Array.from({ length: 2500 }, (_, i) => ({
          kind: 'tag',
          id: uuid(),
          set: {
            name: `v${from + i}`,
            source: newPoint(deviceId, `nsu=${URI};s=v${from + i}`),
            type: 'LREAL',
            access: 'read',
            unit: '',
            decimals: null,
            rangeLow: null,
            rangeHigh: null,
            comment: '',
            listId: '',
          },
        })),
      );
    const good = async (): Promise<number> => (await api<{ readonly values: { readonly good: number } }>('GET', '/status')).values.good;
    while ((await good()) < NODES) await rest(100);
    await rest(SETTLE_MS);
    const before = cpuMsOf(server.pid);
    await rest(SECONDS * 1000);
    return { cpuMs: cpuMsOf(server.pid) - before, draftMs, rows: status.summary?.good ?? 0 };
  } finally {
    server.kill('SIGTERM');
    await once(server, 'exit');
    rmSync(folder, { recursive: true, force: true });
  }
}

/** utime and stime in ticks of 10 ms (USER_HZ is 100 on Linux). */
function cpuMsOf(pid: number | undefined): number {
  const stat = readFileSync(`/proc/${pid ?? 0}/stat`, 'utf8');
  const fields = stat.slice(stat.lastIndexOf(')') + 2).split(' ');
  return (Number(fields[11]) + Number(fields[12])) * 10;
}
