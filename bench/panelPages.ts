/**
 * Panel pages in a browser: a page of 300 elements whose values change five times a second, going to another page, opening one panel of a
 * project with 100 000 tags, and arranging a page of 1 000 elements.
 */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import puppeteer, { type Browser, type Page } from 'puppeteer-core';
import { v7 as uuid } from 'uuid';
import type { Change } from '@/core/project/command.ts';
import { newPoint } from '@/core/project/tagSource.ts';
import type { Figure } from './figure.ts';
import { bringIn, listOf } from './lists.ts';
import { measured } from './inPage.ts';
import { rest, startLoad, type Load } from './serverLoad.ts';

const VALUES = 200;
const PERIOD_MS = 200;
const DRAWN = 100;
const WATCHED_MS = 10_000;
const PAGES = 40;
const EDITED = 1000;
/** How often a time is taken. */
const CHANGES = 15;
const MULTIPLIED = 9;

export async function* panelPages(): AsyncGenerator<Figure> {
  const browser = await puppeteer.launch({
    executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-gpu', '--no-first-run', '--disable-background-networking', '--disable-component-update'],
  });
  const load = await startLoad(false, false, 1);
  try {
    yield* glass(browser, load);
    yield* editor(browser, load);
    yield* large(browser, load);
  } finally {
    await browser.close();
    await load.close();
  }
}

const most = (name: string, ms: number, wanted: number, detail = ''): Figure => ({
  name,
  ratio: ms / wanted,
  wanted: 1,
  atMost: true,
  detail: `${ms.toFixed(0)} ms${detail && `; ${detail}`}`,
});
const frames = (name: string, perSecond: number, detail = ''): Figure => ({
  name,
  ratio: perSecond / 50,
  wanted: 1,
  detail: `${perSecond.toFixed(1)} frames a second${detail && `; ${detail}`}`,
});

const median = (list: readonly number[]): number => [...list].sort((a, b) => a - b)[list.length >> 1] ?? NaN;
const spread = (list: readonly number[]): string =>
  `of ${list.length} between ${Math.round(Math.min(...list))} and ${Math.round(Math.max(...list))} ms`;

async function opened(browser: Browser, address: string): Promise<Page> {
  const page = await browser.newPage();
  await page.setViewport({ width: 1280, height: 800 });
  await page.goto(address, { waitUntil: 'domcontentloaded' });
  return page;
}

async function command(load: Load, label: string, changes: readonly Change[]): Promise<void> {
  const body = JSON.stringify({ id: uuid(), label, changes });
  const done = await fetch(`${load.address}/api/v1/commands`, { method: 'POST', headers: { 'content-type': 'application/json' }, body });
  if (!done.ok) throw new Error(await done.text());
}

type Put = Readonly<Record<string, unknown>>;

function page(panelId: string, name: string, position: number, elements: readonly Put[], id = uuid()): readonly Change[] {
  return [
    { kind: 'page', id, set: { panelId, name, position } },
    ...elements.map((set): Change => ({ kind: 'element', id: uuid(), set: { pageId: id, label: '', tagId: null, settings: {}, ...set } })),
  ];
}

/** Twenty across, forty pixels high each: as dense as a page may get. */
const at = (i: number): Put => ({ x: (i % 20) * 63, y: Math.floor(i / 20) * 47, w: 60, h: 44 });

/** Values, bars and lamps, most of all values; and what is drawn beside them. */
function busy(tags: readonly string[]): readonly Put[] {
  const shown = tags.map((tagId, i) =>
    i % 5 === 3
      ? { ...at(i), kind: 'bar', tagId, settings: { low: 0, high: 65_535 } }
      : i % 5 === 4
        ? { ...at(i), kind: 'lamp', tagId, settings: { states: STATES } }
        : { ...at(i), kind: 'value', tagId },
  );
  const still = Array.from({ length: DRAWN }, (_, i) => ({
    ...at(tags.length + i),
    ...[
      { kind: 'shape', settings: { shape: 'round' } },
      { kind: 'text', settings: { template: `Stand ${i}` } },
      { kind: 'symbol', settings: { symbol: 'pump' } },
      { kind: 'pipe' },
    ][i % 4],
  }));
  return [...shown, ...still];
}
const STATES = Array.from({ length: 8 }, (_, i) => ({
  at: i * 8192,
  to: i * 8192 + 8191,
  text: `Step ${i}`,
  look: i % 2 === 0 ? 'on' : 'off',
  symbol: null,
}));

async function* glass(browser: Browser, load: Load): AsyncGenerator<Figure> {
  const { devices } = (await (await fetch(`${load.address}/api/v1/project`)).json()) as { devices: { id: string }[] };
  const ids = Array.from({ length: VALUES }, () => uuid());
  const panelId = uuid();
  await command(load, 'a busy panel', [
    ...ids.map((id, i): Change => {
      const source = newPoint(devices[0]?.id ?? '', `HR${20_000 + i}`, { periodMs: PERIOD_MS });
      return { kind: 'tag', id, set: { name: `quick_${i}`, source, type: 'UINT', access: 'read', unit: '', decimals: null, rangeLow: null, rangeHigh: null, comment: '', listId: '' } }; // prettier-ignore
    }),
    { kind: 'panel', id: panelId, set: { name: 'Busy', width: 1280, height: 800 } },
    ...page(panelId, 'One', 0, busy(ids)),
    ...page(panelId, 'Two', 1, busy([...ids].reverse())),
  ]);
  const glass = await opened(browser, `${load.address}/panel/${panelId}`);
  await glass.waitForFunction(() => document.querySelectorAll('[data-drawn]').length >= 160);
  await rest(5000);
  const seen = await glass.evaluate(
    async (begun, ms) => {
      const ages: number[] = [];
      let waiting: number[] = [];
      // Each register holds the millisecond at which it was read: what is drawn tells how old it is.
      const watch = new MutationObserver((changes) => {
        for (const change of changes) {
          const text = change.target.textContent ?? '';
          if (/^\d+$/.test(text)) waiting.push(Number(text));
        }
      });
      watch.observe(document.body, { subtree: true, characterData: true });
      const from = performance.now();
      let frames = 0;
      while (performance.now() - from < ms) {
        await new Promise((resolve) => requestAnimationFrame(resolve));
        frames++;
        const now = Date.now() - begun;
        for (const value of waiting) ages.push((now - value) & 0xffff);
        waiting = [];
      }
      watch.disconnect();
      return { ages, perSecond: (frames * 1000) / (performance.now() - from), seconds: (performance.now() - from) / 1000 };
    },
    load.begun,
    WATCHED_MS,
  );
  const ages = seen.ages.sort((a, b) => a - b);
  const part = (of: number): number => ages[Math.min(ages.length - 1, Math.floor(ages.length * of))] ?? NaN;
  const told = `${Math.round(ages.length / seen.seconds)} texts drawn a second`;
  yield frames(
    `Of 50 frames a second, what a page of ${VALUES + DRAWN} elements keeps, ${VALUES} values changing five times a second`,
    seen.perSecond,
    told,
  );
  yield most('Of 100 ms, from a value read to the frame that draws it, 95 % of changes', part(0.95), 100, `median ${part(0.5)} ms`);
  const changes: number[] = [];
  while (changes.length < CHANGES) {
    const name = changes.length % 2 === 0 ? 'Two' : 'One';
    const press = `[...document.querySelectorAll('nav button')].find((b) => b.textContent === '${name}').click()`;
    changes.push(await measured(glass, press, SHOWN(name)));
    await rest(1000);
  }
  yield most(
    `Of 150 ms, from a press to the other page of ${VALUES + DRAWN} elements, all its values painted, at the median`,
    median(changes),
    150,
    spread(changes),
  );
  await glass.close();
}

const SHOWN = (name: string): string => `document.querySelector('[data-page="${name}"]') && [...document.querySelectorAll('[data-kind=value] [data-drawn]')].every((e) => /^\\d+$/.test(e.textContent))`; // prettier-ignore

async function* editor(browser: Browser, load: Load): AsyncGenerator<Figure> {
  const { tags } = (await (await fetch(`${load.address}/api/v1/project`)).json()) as { tags: { id: string }[] };
  const panelId = uuid();
  const full = Array.from({ length: EDITED }, (_, i) => ({
    x: (i % 40) * 47,
    y: Math.floor(i / 40) * 42,
    w: 44,
    h: 39,
    kind: 'value',
    tagId: tags[i]?.id,
  }));
  await command(load, 'a full page', [
    { kind: 'panel', id: panelId, set: { name: 'Arranged', width: 1920, height: 1200 } },
    ...page(panelId, 'Full', 0, full),
    ...page(panelId, 'One', 1, [{ x: 8, y: 8, w: 40, h: 30, kind: 'value', label: 'Value 1' }]),
  ]);
  const bench = await opened(browser, `${load.address}/panels?panel=${panelId}`);
  await bench.waitForFunction((count) => document.querySelectorAll('[data-box]').length === count, { timeout: 60_000 }, EDITED);
  await rest(3000);
  const dragging = async (chosen: number): Promise<number> => {
    const box = await bench.evaluate((n) => {
      const { left, top, width, height } = document.querySelectorAll('[data-box]')[n - 1]?.getBoundingClientRect() ?? new DOMRect();
      return { x: left + width / 2, y: top + height / 2 };
    }, chosen);
    await bench.mouse.move(box.x, box.y);
    await bench.mouse.down();
    const counted = bench.evaluate(async () => {
      const from = performance.now();
      let frames = 0;
      while (performance.now() - from < 3000) {
        await new Promise((resolve) => requestAnimationFrame(resolve));
        frames++;
      }
      return (frames * 1000) / (performance.now() - from);
    });
    const end = performance.now() + 3100;
    for (let i = 0; performance.now() < end; i++) {
      await bench.mouse.move(box.x + 60 * Math.sin(i / 20), box.y + 40 * Math.cos(i / 20));
      await rest(12);
    }
    await bench.mouse.move(box.x + 3, box.y + 3);
    await bench.mouse.up();
    return counted;
  };
  await bench.click('[data-box]:nth-of-type(500)');
  await rest(500);
  yield frames(`Of 50 frames a second, what dragging one of ${EDITED} elements keeps`, await dragging(500));
  await rest(1000);
  await bench.evaluate(() => [...document.querySelectorAll('button')].find((b) => b.textContent.trim() === 'One')?.click());
  await bench.waitForFunction(() => document.querySelectorAll('[data-box]').length === 1);
  const multiplied: number[] = [];
  while (multiplied.length < MULTIPLIED) {
    if (multiplied.length > 0) await fetch(`${load.address}/api/v1/undo`, { method: 'POST' });
    await bench.waitForFunction(() => document.querySelectorAll('[data-box]').length === 1);
    await rest(1000);
    multiplied.push(await multiply(bench));
  }
  yield most(
    `Of 1 s, from asking for ${EDITED} of one element to the page that draws them, at the median`,
    median(multiplied),
    1000,
    spread(multiplied),
  );
  await bench.close();
}

/** The one element of the page. */
async function multiply(bench: Page): Promise<number> {
  await bench.click('[data-box]');
  await (await bench.waitForSelector('::-p-xpath(//button[contains(., "Multiply")])'))?.click();
  await bench.waitForSelector('[data-multiply]');
  for (const [label, count] of [
    ['Rows', '25'],
    ['Columns', '40'],
  ] as const) {
    const field = await bench.waitForSelector(`::-p-xpath(//dialog//label[contains(., "${label}")]//input)`);
    await field?.click({ count: 3 });
    await field?.type(count);
    await bench.keyboard.press('Tab');
  }
  await bench.waitForSelector(`::-p-xpath(//dialog//button[contains(., "Make ${EDITED}")])`);
  return measured(
    bench,
    `[...document.querySelectorAll('dialog button')].find((b) => b.textContent === 'Make ${EDITED}').click()`,
    `document.querySelectorAll('[data-box]').length === ${EDITED}`,
  );
}

async function* large(browser: Browser, load: Load): AsyncGenerator<Figure> {
  const folder = mkdtempSync(join(tmpdir(), 'mill-latch-glass-'));
  try {
    const { devices } = (await (await fetch(`${load.address}/api/v1/project`)).json()) as { devices: { id: string }[] };
    await bringIn(load.address, devices[0]?.id ?? '', listOf(folder, 'big', 100_000));
    await rest(5000);
    const { tags } = (await (await fetch(`${load.address}/api/v1/project`)).json()) as { tags: { id: string }[] };
    const panelId = uuid();
    const shown = (n: number): readonly Put[] => Array.from({ length: 30 }, (_, i) => ({ ...at(i), kind: 'value', tagId: tags[n * 30 + i]?.id }));
    await command(load, 'forty pages', [
      { kind: 'panel', id: panelId, set: { name: 'Forty' } },
      ...Array.from({ length: PAGES }, (_, n) => page(panelId, `Page ${n}`, n, shown(n))).flat(),
    ]);
    const all: Opened[] = [];
    while (all.length < OPENED) all.push(await openedFresh(browser, `${load.address}/panel/${panelId}`));
    const [middle] = all.sort((a, b) => a.ms - b.ms).slice(all.length >> 1);
    if (!middle) return;
    yield { name: `Of 300 kB, what opening a panel of ${PAGES} pages takes in a project of 100 000 tags`, ratio: middle.sent / 300_000, wanted: 1, atMost: true, detail: `${(middle.sent / 1000).toFixed(0)} kB, ${(middle.bytes / 1000).toFixed(0)} kB uncompressed` }; // prettier-ignore
    const told = `the page had come after ${Math.round(middle.answeredMs)} ms, its scripts after ${Math.round(middle.scriptsMs)} ms; ${spread(all.map(({ ms }) => ms))}`;
    yield most('Of 1 s, opening it in a browser that was never there, at the median', middle.ms, 1000, told);
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

const OPENED = 9;
const SETTLED_MS = 3000;
interface Opened {
  readonly ms: number;
  readonly bytes: number;
  readonly sent: number;
  readonly answeredMs: number;
  readonly scriptsMs: number;
}

/** With nothing kept from before. */
async function openedFresh(browser: Browser, address: string): Promise<Opened> {
  const fresh = await browser.createBrowserContext();
  const glass = await fresh.newPage();
  // A window of a new profile first loads pages of the browser's own, on the same cores.
  await rest(SETTLED_MS);
  const network = await glass.createCDPSession();
  await network.send('Network.enable');
  let [bytes, sent] = [0, 0];
  network.on('Network.dataReceived', ({ dataLength, encodedDataLength }) => {
    bytes += dataLength;
    sent += encodedDataLength;
  });
  const from = performance.now();
  await glass.goto(address, { waitUntil: 'domcontentloaded' });
  await glass.waitForFunction(() => document.querySelectorAll('[data-drawn]').length === 30, { polling: 'raf' });
  const ms = performance.now() - from;
  // The other pages of the panel follow.
  await rest(1500);
  const times = await glass.evaluate(() => {
    const [page] = performance.getEntriesByType('navigation') as PerformanceNavigationTiming[];
    const scripts = (performance.getEntriesByType('resource') as PerformanceResourceTiming[]).filter(({ name }) => name.endsWith('.js'));
    return { answeredMs: page?.responseEnd ?? NaN, scriptsMs: Math.max(...scripts.map(({ responseEnd }) => responseEnd)) };
  });
  await fresh.close();
  return { ms, bytes, sent, ...times };
}
