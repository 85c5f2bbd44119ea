import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { spawn, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { rmSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Browser } from 'puppeteer-core';
import { SILENCE_MS } from '@/core/live/messages.ts';
import { freePort, newFolder, startServer } from '../tests/support/server.ts';
import { startKiln, type RunningStandin } from '../tests/support/standin.ts';
import { until } from '../tests/support/until.ts';
import { openBrowser, Screen } from './browser.ts';

/** The server crashes under open pages, as often as RESTARTS says. */
const RESTARTS = Number(process.env.RESTARTS ?? 3);
/** How often the page is looked at. The value that is watched is a counter that never stops. */
const FRAME_MS = 20;

let browser: Browser;
let kiln: RunningStandin;
let command: ChildProcess;
let address = '';
let port = 0;
let said = '';
const data = newFolder();

beforeAll(async () => {
  [browser, kiln] = await Promise.all([openBrowser(), startKiln()]);
  port = await freePort();
  address = `http://127.0.0.1:${port}`;
  // The demo's project, then served by the command that people start.
  const first = await startServer(data.folder, port, ['--demo-kiln', `${kiln.modbusPort},${kiln.controlPort}`]);
  await first.stop();
  command = spawn(process.execPath, ['scripts/start.mjs', '--data', data.folder, '--port', String(port)], { stdio: ['pipe', 'pipe', 'pipe'] });
  for (const stream of [command.stdout, command.stderr]) stream?.on('data', (chunk: Buffer) => (said += chunk.toString()));
  await until('it is open', () => said.includes('Mill Latch is open'), 60_000);
});
afterAll(async () => {
  await browser?.close();
  if (command && command.exitCode === null) {
    command.kill('SIGTERM');
    await once(command, 'exit');
  }
  await kiln?.stop();
  data.remove();
});

const rest = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));

/** The server's own process: the lock names it. */
async function serverPid(): Promise<number> {
  return (JSON.parse(await readFile(join(data.folder, 'server.lock'), 'utf8')) as { pid: number }).pid;
}

/** Looks at a value every few milliseconds, from inside the page, and keeps what is shown as good with its time. */
async function watch(screen: Screen): Promise<void> {
  await screen.page.evaluate((everyMs) => {
    const seen: { at: number; text: string }[] = [];
    Object.assign(window, { seen });
    setInterval(() => {
      const cell = document.querySelector('[data-tag="free_count"]');
      const isGood = cell?.querySelector('[data-quality]')?.getAttribute('data-quality') === 'good';
      const text = cell?.querySelector('[data-column="value"]')?.textContent ?? '';
      if (isGood && document.visibilityState === 'visible') seen.push({ at: Date.now(), text });
    }, everyMs);
  }, FRAME_MS);
}
const seenBy = (screen: Screen): Promise<readonly { at: number; text: string }[]> =>
  screen.page.evaluate(() => (window as unknown as { seen: { at: number; text: string }[] }).seen.splice(0));

/** Kills the server, starts another or waits for it, and looks that nothing of before comes back as good. */
async function crash(screen: Screen, pid: number, again: () => Promise<unknown>): Promise<void> {
  await until('values are good', async () => (await seenBy(screen)).length > 0, 60_000);
  await rest(200);
  process.kill(pid, 'SIGKILL');
  const killedAt = Date.now();
  await rest(SILENCE_MS + 200);
  const before = await seenBy(screen);
  // The page marks its values bad by itself once the server has been silent; until then it shows what was read just before.
  expect(before.filter(({ at }) => at > killedAt + SILENCE_MS + 100)).toEqual([]);
  const last = Math.max(...before.map(({ text }) => Number(text)));
  expect(last).toBeGreaterThan(0);
  await again();
  const isNew = async (): Promise<boolean> => {
    const now = await seenBy(screen);
    expect(now.filter(({ text }) => !(Number(text) > last))).toEqual([]);
    return now.length > 0;
  };
  await until('values are good again', isNew, 60_000);
}

describe('a server that crashes', () => {
  test('is started again by itself and says so; no page shows a value of before as good', async () => {
    const screen = await Screen.open(browser, `${address}/map`);
    await watch(screen);
    // One that crashes again and again is started later each time.
    for (let round = 0; round < 2; round++) {
      const pid = await serverPid();
      const isAnother = async (): Promise<boolean> => (await serverPid().catch(() => pid)) !== pid;
      await crash(screen, pid, () => until('the server is there again', isAnother, 60_000));
      await screen.sees('was started again by itself', '[data-trouble="started-again"]');
    }
    expect(said).toContain('it ended with SIGKILL');
    await screen.press('Understood');
    await until('it is put aside', async () => (await screen.page.$('[data-trouble]')) === null);
    expect(screen.complaints).toEqual([]);
    await screen.page.close();
  }, 180_000);
  test('whose data folder was damaged meanwhile is not started again, and its backups are named', async () => {
    const made = await fetch(`${address}/api/v1/backups`, { method: 'POST' });
    expect(made.status).toBe(200);
    const { name } = (await made.json()) as { name: string };
    rmSync(join(data.folder, 'db/PG_VERSION'));
    process.kill(await serverPid(), 'SIGKILL');
    await until('the command has ended', () => command.exitCode !== null, 60_000);
    for (const words of ['“db/PG_VERSION” is missing', name, '--restore']) expect(said).toContain(words);
    const restored = await startServer(data.folder, port, ['--restore', name]);
    expect(((await (await fetch(`${restored.address}/api/v1/project`)).json()) as { tags: unknown[] }).tags.length).toBeGreaterThan(10);
    await restored.stop();
  }, 120_000);
  test(
    'however often: not for one frame is a value of before drawn as good',
    async () => {
      let server = await startServer(data.folder, port);
      const screen = await Screen.open(browser, `${address}/map`);
      await watch(screen);
      for (let round = 0; round < RESTARTS; round++)
        await crash(screen, server.process.pid ?? 0, async () => {
          server = await startServer(data.folder, port);
        });
      expect(screen.complaints).toEqual([]);
      await server.stop();
    },
    60_000 + RESTARTS * 30_000,
  );
});
