import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { Browser } from 'puppeteer-core';
import { BadCable } from '../tests/support/badCable.ts';
import { freePort, newFolder, startServer, type RunningServer } from '../tests/support/server.ts';
import { startKiln, type RunningStandin } from '../tests/support/standin.ts';
import { until } from '../tests/support/until.ts';
import { openBrowser, Screen } from './browser.ts';

/**
 * Every way to be silent, on a counter that never stops: whatever the page shows as good, at every change of its text,
 * is compared with what the control channel said the counter was. Nothing old is ever shown as good.
 */
let browser: Browser;
let kiln: RunningStandin;
let cable: BadCable;
let server: RunningServer;
let bench: Screen;
const data = newFolder();

/** Counts in a second, and how old a good value may be: its period (200 ms), a time-out with its retry (2 s), and this machine. */
const PER_SECOND = 10;
const OLDEST_MS = 200 + 2000 + 1000;

interface Seen {
  readonly at: number;
  readonly text: string;
  readonly quality: string;
}
const told: { readonly at: number; readonly value: number }[] = [];
let isOver = false;
let asking: Promise<void>;

beforeAll(async () => {
  [browser, kiln] = await Promise.all([openBrowser(), startKiln()]);
  cable = await BadCable.to(() => kiln.modbusPort);
  server = await startServer(data.folder, await freePort(), ['--demo-kiln', `${cable.port},${kiln.controlPort}`]);
  const page = await browser.newPage();
  await page.evaluateOnNewDocument(() => {
    const sockets: WebSocket[] = [];
    (window as unknown as { sockets: WebSocket[] }).sockets = sockets;
    const Real = window.WebSocket;
    window.WebSocket = class extends Real {
      constructor(url: string | URL) {
        super(url);
        sockets.push(this);
      }
    };
  });
  await page.setViewport({ width: 1280, height: 800 });
  bench = Screen.of(page);
  await page.goto(`${server.address}/map`, { waitUntil: 'domcontentloaded' });
  await bench.fill('Find tags', 'free_count');
  await until('the value is good', async () => (await quality()) === 'good');
  await page.evaluate(() => {
    const seen: { at: number; text: string; quality: string }[] = [];
    (window as unknown as { seen: unknown[] }).seen = seen;
    const look = (): void => {
      const row = document.querySelector('[data-tag="free_count"]');
      seen.push({
        at: performance.timeOrigin + performance.now(),
        text: row?.querySelector('[data-value]')?.textContent ?? '',
        quality: row?.querySelector('[data-quality]')?.getAttribute('data-quality') ?? '',
      });
    };
    new MutationObserver(look).observe(document.querySelector('[role=grid]') ?? document.body, {
      subtree: true,
      childList: true,
      characterData: true,
      attributes: true,
    });
    setInterval(look, 50);
  });
  asking = keepAsking();
});
afterAll(async () => {
  isOver = true;
  await asking;
  await browser?.close();
  await Promise.all([server?.stop(), kiln?.stop(), cable?.stop()]);
  data.remove();
});

/** Asks the control channel all the time, whatever becomes of the stand-in meanwhile. */
async function keepAsking(): Promise<void> {
  while (!isOver) {
    const value = await kiln.value('free_count').catch(() => null);
    if (value !== null) told.push({ at: Date.now(), value: Number(value) });
    await rest(40);
  }
}

const quality = (): Promise<string> => bench.page.$eval('[data-tag="free_count"] [data-quality]', (e) => e.getAttribute('data-quality') ?? '');

/** All that the page showed as good and that the controller had not held within the allowed time before. */
async function lies(): Promise<string[]> {
  const seen = await bench.page.evaluate(() => (window as unknown as { seen: Seen[] }).seen.splice(0));
  return seen.flatMap(({ at, text, quality: level }) => {
    if (level !== 'good') return text === '–' || level !== 'bad' ? [] : [`${text} is bad, and shown`];
    const value = Number(text);
    // The controller's count at a time: what it said last, and what it has counted since.
    const last = told.filter((t) => t.at <= at).at(-1);
    if (!last) return [];
    const now = last.value + ((at - last.at) / 1000) * PER_SECOND;
    const ageMs = ((now - value) / PER_SECOND) * 1000;
    return ageMs <= OLDEST_MS && ageMs >= -400 ? [] : [`${text} was shown as good, ${Math.round(ageMs)} ms old`];
  });
}
const turnsBad = (ms: number): Promise<void> => until('the value is bad', async () => (await quality()) === 'bad', ms);
const isGoodAgain = (): Promise<void> => until('the value is good again', async () => (await quality()) === 'good', 12_000);
const rest = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));

describe('nothing old is shown as good', () => {
  test('while all is well', async () => {
    await rest(2000);
    expect(await lies()).toEqual([]);
  });
  test('when the cable swallows everything', async () => {
    cable.set('swallows');
    await turnsBad(OLDEST_MS);
    await rest(3000);
    cable.set('passes');
    await isGoodAgain();
    await rest(500);
    expect(await lies()).toEqual([]);
  });
  test('when the cable is cut, and while it stays cut', async () => {
    cable.set('cut');
    await turnsBad(2000);
    await rest(2500);
    cable.set('passes');
    await isGoodAgain();
    expect(await lies()).toEqual([]);
  });
  test('when the controller answers with exceptions', async () => {
    cable.set('exceptions');
    await turnsBad(2000);
    await bench.sees('refused', '[data-tag="free_count"]');
    cable.set('passes');
    await isGoodAgain();
    expect(await lies()).toEqual([]);
  });
  test('when the live channel is cut, which comes back by itself', async () => {
    await bench.page.evaluate(() => (window as unknown as { sockets: WebSocket[] }).sockets.at(-1)?.close());
    await turnsBad(1000);
    await isGoodAgain();
    expect(await bench.page.evaluate(() => (window as unknown as { sockets: WebSocket[] }).sockets.length)).toBeGreaterThan(1);
    expect(await lies()).toEqual([]);
  });
  test('when the server freezes and wakes', async () => {
    server.process.kill('SIGSTOP');
    await turnsBad(3000);
    await rest(4000);
    server.process.kill('SIGCONT');
    await isGoodAgain();
    await rest(500);
    expect(await lies()).toEqual([]);
  });
  test('when the tab is hidden for a while and shown again', async () => {
    const other = await browser.newPage();
    await other.bringToFront();
    await rest(6000);
    await bench.page.bringToFront();
    await rest(1500);
    expect(await quality()).toBe('good');
    await other.close();
    expect(await lies()).toEqual([]);
  });
  test('when the clock of the browser is stepped', async () => {
    await bench.page.evaluate(() => {
      const real = Date.now;
      Date.now = () => real() + 3_600_000;
    });
    await rest(1500);
    expect(await quality()).toBe('good');
    expect(await lies()).toEqual([]);
  });
  test('when the controller is frozen, and when it is killed and started again', async () => {
    kiln.process.kill('SIGSTOP');
    await turnsBad(OLDEST_MS);
    kiln.process.kill('SIGCONT');
    await isGoodAgain();
    expect(await lies()).toEqual([]);
    const { controlPort } = kiln;
    await kiln.stop();
    await turnsBad(2000);
    await bench.page.evaluate(() => (window as unknown as { seen: Seen[] }).seen.splice(0));
    told.length = 0;
    kiln = await startKiln(0, controlPort);
    await isGoodAgain();
    await rest(1000);
    expect(await lies()).toEqual([]);
    expect(bench.complaints).toEqual([]);
  });
});
