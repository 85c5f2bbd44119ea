/** Starts the built server as a process of its own on a folder of its own, as the product runs. */
import { spawn, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { createServer, type AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

export interface RunningServer {
  readonly address: string;
  readonly port: number;
  readonly folder: string;
  readonly process: ChildProcess;
  /** Lines the server wrote to standard error. */
  readonly errors: string[];
  stop(signal?: NodeJS.Signals): Promise<void>;
}

export async function freePort(): Promise<number> {
  const probe = createServer();
  await new Promise<void>((resolve) => probe.listen(0, '127.0.0.1', resolve));
  const { port } = probe.address() as AddressInfo;
  await new Promise<void>((resolve) => probe.close(() => resolve()));
  return port;
}

export function newFolder(): { readonly folder: string; readonly remove: () => void } {
  const folder = mkdtempSync(join(process.env.MILL_LATCH_SCRATCH ?? tmpdir(), 'mill-latch-'));
  return { folder, remove: () => rmSync(folder, { recursive: true, force: true }) };
}

/** @param program the built server, or one that has more in it */
export async function startServer(folder: string, port: number, more: readonly string[] = [], program = 'server.mjs'): Promise<RunningServer> {
  const file = (path: string): string => fileURLToPath(new URL(`../../${path}`, import.meta.url));
  const flags = JSON.parse(
    readFileSync(file(program === 'panelHost.mjs' ? 'scripts/panelFlags.json' : 'scripts/serverFlags.json'), 'utf8'),
  ) as string[];
  const child = spawn(process.execPath, [...flags, file(`dist/${program}`), '--data', folder, '--port', String(port), '--with-parent', ...more], {
    stdio: ['pipe', 'pipe', 'pipe'],
    env: { ...process.env, NODE_ENV: 'production', NODE_OPTIONS: '' },
  });
  const errors: string[] = [];
  child.stderr.on('data', (chunk: Buffer) => errors.push(chunk.toString()));
  const ready = new Promise<void>((resolve, reject) => {
    let text = '';
    child.stdout.on('data', (chunk: Buffer) => {
      text += chunk.toString();
      if (text.includes('"ready":true')) resolve();
    });
    child.once('exit', (code) => reject(new Error(`The server ended with ${code}: ${errors.join('')}`)));
  });
  await ready;
  return {
    address: `http://127.0.0.1:${port}`,
    port,
    folder,
    process: child,
    errors,
    async stop(signal = 'SIGTERM') {
      if (child.exitCode !== null || child.signalCode !== null) return;
      const ended = once(child, 'exit');
      child.kill(signal);
      await ended;
    },
  };
}
