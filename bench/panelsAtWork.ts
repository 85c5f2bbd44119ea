/** A panel at work with its controller: from a command of its program to the page that is drawn, from a press to the bit that it sees. */
import puppeteer, { type Browser, type Page } from 'puppeteer-core';
import { v7 as uuid } from 'uuid';
import type { Change } from '@/core/project/command.ts';
import type { WordRole } from '@/core/panel/exchange.ts';
import { newFolder, freePort, startServer, type RunningServer } from '../tests/support/server.ts';
import { startStandin, type RunningStandin } from '../tests/support/standin.ts';
import { newTag } from '../tests/support/newTag.ts';
import { until } from '../tests/support/until.ts';
import type { Figure } from './figure.ts';
import { rest } from './serverLoad.ts';

const SCAN_MS = 100;
const COMMANDS = 60;
const PRESSES = 40;
/** On each page, so that drawing one is work. */
const ELEMENTS = 60;

export async function* panelsAtWork(): AsyncGenerator<Figure> {
  const data = newFolder();
  const [browser, server, caller] = await Promise.all([
    puppeteer.launch({
      executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
      args: ['--no-sandbox', '--disable-gpu', '--no-first-run', '--disable-background-networking', '--disable-component-update'],
    }),
    startServer(data.folder, await freePort()),
    startStandin('caller'),
  ]);
  try {
    const panelId = await project(server, caller);
    const glass = await opened(browser, `${server.address}/panel/${panelId}`);
    await until('the panel is there', async () => (await caller.value('page')) === 0);
    yield await commands(caller, glass);
    yield await keys(server, caller, glass);
  } finally {
    await browser.close();
    await Promise.all([server.stop(), caller.stop()]);
    data.remove();
  }
}

async function project(server: RunningServer, caller: RunningStandin): Promise<string> {
  const [linkId, deviceId, panelId] = [uuid(), uuid(), uuid()];
  const pages = [uuid(), uuid()];
  const buttons = pages.map(() => uuid());
  const word = (role: WordRole, address: string, more: object = {}, elementId: string | null = null): readonly Change[] => {
    const tagId = uuid();
    const set = { ...newTag(deviceId, `${role}_${address}`, address, { periodMs: SCAN_MS }), type: 'UINT', ...more };
    return [
      { kind: 'tag', id: tagId, set },
      { kind: 'panelWord', id: uuid(), set: { panelId, role, tagId, elementId } },
    ];
  };
  await asked(server, '/commands', {
    id: uuid(),
    label: 'a panel and its controller',
    changes: [
      { kind: 'link', id: linkId, set: { name: 'Line', driver: 'modbus-tcp', settings: { host: '127.0.0.1', port: caller.modbusPort } } },
      { kind: 'device', id: deviceId, set: { linkId, name: 'CALLER', settings: { unit: 1 }, dialect: { bitWrites: 'mask' }, witnessUrl: '' } },
      { kind: 'panel', id: panelId, set: { name: 'Panel', units: [], exchange: { offset: 1, noWish: null, whenBoth: 'latest', personSeconds: 60, clockDaily: null } } }, // prettier-ignore
      ...pages.map((id, position) => ({ kind: 'page', id, set: { panelId, name: `Page ${position}`, position } })),
      ...word('wanted', 'HR0'),
      ...word('request', 'HR1'),
      ...word('result', 'HR10'),
      ...word('answer', 'HR11'),
      ...word('page', 'HR12'),
      ...pages.flatMap((pageId, p) => [
        { kind: 'element', id: buttons[p], set: { pageId, kind: 'button', tagId: null, label: 'Start', x: 8, y: 8, w: 160, h: 60, settings: { actions: [] } } }, // prettier-ignore
        ...Array.from({ length: ELEMENTS }, (_, i) => ({
          kind: 'element',
          id: uuid(),
          set: { pageId, kind: 'text', tagId: null, label: '', x: 8 + (i % 10) * 100, y: 90 + Math.floor(i / 10) * 50, w: 90, h: 40, settings: { template: `Text ${i}` } }, // prettier-ignore
        })),
      ]),
      ...word('key', 'HR14.0', { type: 'BOOL' }, buttons[0]),
    ],
  });
  await asked(server, '/guard/unlock', { deviceId, minutes: 30, who: 'bench', writers: ['panel'] });
  return panelId;
}

async function asked(server: RunningServer, path: string, body: object): Promise<void> {
  const headers = { 'content-type': 'application/json', origin: server.address };
  const done = await fetch(`${server.address}/api/v1${path}`, { method: 'POST', headers, body: JSON.stringify(body) });
  if (!done.ok) throw new Error(await done.text());
}

async function opened(browser: Browser, address: string): Promise<Page> {
  const page = await browser.newPage();
  await page.setViewport({ width: 1280, height: 800 });
  await page.goto(address, { waitUntil: 'domcontentloaded' });
  await page.waitForSelector('[data-page="Page 0"]');
  return page;
}

/** All on one clock: that of this machine. */
async function commands(caller: RunningStandin, glass: Page): Promise<Figure> {
  const took: number[] = [];
  for (let i = 0; i < COMMANDS; i++) {
    const to = (i + 1) % 2;
    const drawn = glass.evaluate(async (name) => {
      while (!document.querySelector(`[data-page="${name}"]`)) await new Promise((resolve) => requestAnimationFrame(resolve));
      // The next frame begins once this one is painted.
      await new Promise((resolve) => requestAnimationFrame(resolve));
      return Date.now();
    }, `Page ${to}`);
    await caller.set('call', String(to));
    const at = await drawn;
    took.push(at - Number(await caller.value('calledAt')));
    await until('it is answered', async () => (await caller.value('waits')) === false);
    await rest(50 + ((i * 37) % SCAN_MS));
  }
  return most('Of a scan and 150 ms, from a page commanded to the page drawn, 95 % of commands', took, SCAN_MS + 150, `a scan is ${SCAN_MS} ms`);
}

async function keys(server: RunningServer, caller: RunningStandin, glass: Page): Promise<Figure> {
  await caller.set('call', '0');
  await glass.waitForSelector('[data-page="Page 0"]');
  const took: number[] = [];
  const box = await (await glass.waitForSelector('[data-kind="button"] button'))?.boundingBox();
  await glass.mouse.move((box?.x ?? 0) + 30, (box?.y ?? 0) + 20);
  // When the browser itself saw each press.
  await glass.evaluate(() => {
    const seen: number[] = [];
    Object.assign(window, { seen });
    window.addEventListener('pointerdown', () => seen.push(Date.now()), { capture: true });
  });
  await caller.set('watchKeys', true);
  for (let i = 0; i < PRESSES; i++) {
    await glass.mouse.down();
    await until('the bit is on', async () => (await caller.value('keys')) === 1);
    await glass.mouse.up();
    await until('the bit is off', async () => (await caller.value('keys')) === 0);
    await rest(30);
  }
  const seen = await glass.evaluate(() => (window as unknown as { seen: number[] }).seen);
  const changes = String(await caller.value('keyChanges')).split(' ');
  const on = changes.flatMap((change) => (change.startsWith('1:') ? [Number(change.slice(2))] : []));
  for (const [i, at] of on.entries()) took.push(at - (seen[i] ?? NaN));
  const values = (await (await fetch(`${server.address}/api/v1/values`)).json()) as { values: { roundTripMs: number }[] };
  const trips = values.values.map(({ roundTripMs }) => roundTripMs).sort((a, b) => a - b);
  const trip = Math.max(1, Math.round(trips[trips.length >> 1] ?? 1));
  return most('Of a round trip and 50 ms, from a press to the bit at the controller, 95 % of presses', took, trip + 50, `a round trip is ${trip} ms`);
}

function most(name: string, took: readonly number[], wanted: number, detail: string): Figure {
  const sorted = [...took].sort((a, b) => a - b);
  const p95 = sorted[Math.ceil(sorted.length * 0.95) - 1] ?? NaN;
  const median = sorted[sorted.length >> 1] ?? NaN;
  return { name, ratio: p95 / wanted, wanted: 1, atMost: true, detail: `${p95} ms, median ${median} ms, of ${took.length}; ${detail}` };
}
