/**
 * A panel at work: from a command of its controller to the page that is drawn, from a press to the bit that the controller sees, and one
 * page for nineteen like devices.
 */
import { fork } from 'node:child_process';
import { once } from 'node:events';
import puppeteer, { type Browser, type Page } from 'puppeteer-core';
import { v7 as uuid } from 'uuid';
import type { Change } from '@/core/project/command.ts';
import type { WordRole } from '@/core/panel/exchange.ts';
import { newFolder, freePort, startServer, type RunningServer } from '../tests/support/server.ts';
import { startStandin, type RunningStandin } from '../tests/support/standin.ts';
import { newTag } from '../tests/support/newTag.ts';
import { until } from '../tests/support/until.ts';
import type { Figure } from './figure.ts';
import { file, rest } from './serverLoad.ts';

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
    await glass.close();
    yield* subjects(server, browser);
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

const DEVICES = 19;
const MEMBERS = 165;
const DEVICE_SCAN_MS = 500;
const SWITCHES = 20;

/** Nineteen devices of 165 values behind one socket, and one page for all of them. */
async function* subjects(server: RunningServer, browser: Browser): AsyncGenerator<Figure> {
  const controllers = fork(file('bench/registerServer.mjs'), { silent: true });
  try {
    const [line] = controllers.stdout ? ((await once(controllers.stdout, 'data')) as [Buffer]) : [Buffer.alloc(0)];
    const [linkId, panelId, pageId, listId] = [uuid(), uuid(), uuid(), uuid()];
    const devices = Array.from({ length: DEVICES }, () => uuid());
    const first = Array.from({ length: MEMBERS }, () => uuid());
    const send = (label: string, changes: readonly object[]) => asked(server, '/commands', { id: uuid(), label, changes });
    await send('nineteen devices', [
      { kind: 'link', id: linkId, set: { name: 'Mills', driver: 'modbus-tcp', settings: { host: '127.0.0.1', port: Number(line.toString()) } } },
      ...devices.map((id, n) => ({ kind: 'device', id, set: { linkId, name: `MILL ${n + 1}`, settings: { unit: n + 1 }, dialect: {}, witnessUrl: '', reads: 'shown' } })), // prettier-ignore
    ]);
    for (const [n, deviceId] of devices.entries())
      await send('their tags', first.map((id, i) => ({ kind: 'tag', id: n === 0 ? id : uuid(), set: { ...newTag(deviceId, `value_${i}`, `HR${i}`, { periodMs: DEVICE_SCAN_MS }), type: 'UINT', access: 'read' } }))); // prettier-ignore
    await send('one page', [
      { kind: 'subjectList', id: listId, set: { name: 'Mills', subjects: devices.map((id, n) => ({ of: 'device', id, number: n + 1, text: `M${n + 1}`, find: '', put: '', renames: [] })) } }, // prettier-ignore
      { kind: 'panel', id: panelId, set: { name: 'Mills', units: [] } },
      { kind: 'page', id: pageId, set: { panelId, name: 'Mill {subject}', position: 0, subjectListId: listId } },
      { kind: 'element', id: uuid(), set: { pageId, kind: 'subject', tagId: null, label: 'Mill', x: 8, y: 8, w: 1200, h: 48, settings: {} } },
      ...first.map((tagId, i) => ({ kind: 'element', id: uuid(), set: { pageId, kind: 'value', tagId, label: '', x: (i % 15) * 84, y: 64 + Math.floor(i / 15) * 60, w: 80, h: 54, settings: {} } })), // prettier-ignore
    ]);
    const glass = await browser.newPage();
    await glass.setViewport({ width: 1280, height: 800 });
    await glass.goto(`${server.address}/panel/${panelId}`, { waitUntil: 'domcontentloaded' });
    await glass.waitForFunction(
      (n) => [...document.querySelectorAll('[data-shows]')].filter((e) => e.textContent === '257').length === n,
      {},
      MEMBERS,
    );
    const requests = async (): Promise<number> => {
      const plan = (await (await fetch(`${server.address}/api/v1/links/${linkId}/bus`)).json()) as { groups: { requests: unknown[] }[] };
      return plan.groups.reduce((sum, group) => sum + group.requests.length, 0);
    };
    const one = await requests();
    const took: number[] = [];
    for (let i = 0; i < SWITCHES; i++) {
      took.push(await glass.evaluate(switched, `M${((i + 1) % DEVICES) + 1}`, MEMBERS));
      await rest(100 + ((i * 137) % DEVICE_SCAN_MS));
    }
    const during = await requests();
    await send('read always', devices.map((id) => ({ kind: 'device', id, set: { reads: 'always' } }))); // prettier-ignore
    const all = await requests();
    yield {
      name: 'Of the requests of one device, what one page for nineteen like devices of 165 members reads',
      ratio: Math.max(one, during) / (all / DEVICES),
      wanted: 1,
      atMost: true,
      detail: `${Math.max(one, during)} requests a scan; ${all} where all are read`,
    };
    yield most('Of a scan and 200 ms, from a subject chosen to all its 165 values drawn, 95 % of choices', took, DEVICE_SCAN_MS + 200, `a scan is ${DEVICE_SCAN_MS} ms`); // prettier-ignore
  } finally {
    controllers.disconnect();
  }
}

/** Runs in the page: from a press to the frame in which all values are those of the subject. */
async function switched(name: string, count: number): Promise<number> {
  const before = new Set([...document.querySelectorAll<HTMLElement>('[data-shows]')].map((e) => e.dataset.shows));
  const begun = performance.now();
  [...document.querySelectorAll<HTMLElement>('[role="radio"]')].find((e) => e.textContent === name)?.click();
  const isThere = (): boolean => {
    const drawn = [...document.querySelectorAll<HTMLElement>('[data-shows]')].filter((e) => !before.has(e.dataset.shows));
    return drawn.length === count && drawn.every((e) => e.textContent === '257');
  };
  while (!isThere()) {
    if (performance.now() - begun > 20_000) throw new Error(`waited in vain for ${name}`);
    await new Promise((resolve) => requestAnimationFrame(resolve));
  }
  return performance.now() - begun;
}

function most(name: string, took: readonly number[], wanted: number, detail: string): Figure {
  const sorted = [...took].sort((a, b) => a - b);
  const p95 = sorted[Math.ceil(sorted.length * 0.95) - 1] ?? NaN;
  const median = sorted[sorted.length >> 1] ?? NaN;
  return {
    name,
    ratio: p95 / wanted,
    wanted: 1,
    atMost: true,
    detail: `${Math.round(p95)} ms, median ${Math.round(median)} ms, of ${took.length}; ${detail}`,
  };
}
