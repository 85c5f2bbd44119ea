/** A server whose start fails ends and says so; one whose words nobody reads any more works on. */
import { spawn, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { freePort, newFolder } from '../tests/support/server.ts';
import { until } from '../tests/support/until.ts';

let data: ReturnType<typeof newFolder>;
beforeEach(() => void (data = newFolder()));
let child: ChildProcess | null = null;
afterEach(async () => {
  if (child && child.exitCode === null && child.signalCode === null) {
    const ended = once(child, 'exit');
    child.kill('SIGKILL');
    await ended;
  }
  data.remove();
});

/** @param beside runs in the server's process before anything of its own */
async function start(beside: string): Promise<{ readonly process: ChildProcess; readonly port: number }> {
  const file = (path: string): string => fileURLToPath(new URL(`../${path}`, import.meta.url));
  const flags = JSON.parse(readFileSync(file('scripts/serverFlags.json'), 'utf8')) as string[];
  const port = await freePort();
  const script = `data:text/javascript,${encodeURIComponent(beside)}`;
  child = spawn(
    process.execPath,
    [...flags, '--import', script, file('dist/server.mjs'), '--data', data.folder, '--port', String(port), '--with-parent'],
    {
      stdio: ['pipe', 'pipe', 'pipe'],
      env: { ...process.env, NODE_ENV: 'production', NODE_OPTIONS: '' },
    },
  );
  return { process: child, port };
}

test('an error while it starts ends it with a message', async () => {
  const { process } = await start(`
    const timer = setInterval(() => {
      // Once others than the server itself listen for what is not caught.
      if (process.listenerCount('uncaughtException') < 2) return;
      clearInterval(timer);
      void Promise.reject(new Error('the disk is away'));
    }, 5);`);
  let said = '';
  process.stderr?.on('data', (chunk: Buffer) => (said += chunk.toString()));
  const [code] = (await once(process, 'exit')) as [number];
  expect(code).toBe(1);
  expect(said).toContain('the disk is away');
}, 30_000);

test('goes on when nobody reads what it says', async () => {
  const { process, port } = await start(`setInterval(() => console.error('something to say'), 100);`);
  const answers = async (): Promise<boolean> => (await fetch(`http://127.0.0.1:${port}/api/v1/health`).catch(() => null))?.ok ?? false;
  await until('it answers', answers, 30_000);
  process.stdout?.destroy();
  process.stderr?.destroy();
  const spent = (): number => {
    const fields = readFileSync(`/proc/${process.pid}/stat`, 'utf8').split(') ')[1]?.split(' ') ?? [];
    return (Number(fields[11]) + Number(fields[12])) * 10;
  };
  await new Promise((resolve) => setTimeout(resolve, 2000));
  const before = spent();
  await new Promise((resolve) => setTimeout(resolve, 3000));
  expect(await answers()).toBe(true);
  // In milliseconds of work: a server that has nothing to do works next to nothing.
  expect(spent() - before).toBeLessThan(1500);
}, 60_000);
