/** The map with 100 000 tags in a browser, the engine online and values changing: opening, searching, filtering, sorting, scrolling. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import puppeteer from 'puppeteer-core';
import type { Figure } from './figure.ts';
import { measured } from './inPage.ts';
import { bringIn, listOf } from './lists.ts';
import { rest, startLoad } from './serverLoad.ts';

const ROWS = 100_000;
const SCROLLED_MS = 3000;

export async function mapGrid(): Promise<readonly Figure[]> {
  const folder = mkdtempSync(join(tmpdir(), 'mill-latch-map-'));
  const load = await startLoad(false);
  const browser = await puppeteer.launch({ executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium', args: ['--no-sandbox', '--disable-gpu'] });
  try {
    const { devices } = (await (await fetch(`${load.address}/api/v1/project`)).json()) as { devices: { id: string }[] };
    await bringIn(load.address, devices[0]?.id ?? '', listOf(folder, 'big', ROWS));
    await rest(5000);
    const page = await browser.newPage();
    await page.setViewport({ width: 1280, height: 800 });
    await page.goto(`${load.address}/links`, { waitUntil: 'domcontentloaded' });
    await page.waitForFunction(() => document.querySelector('[data-device]') && !document.body.innerText.includes('opening …'), { timeout: 120_000 });
    await rest(5000);
    const openMs = await measured(page, `document.querySelector('a[href="/map"]').click()`, `document.querySelector('[role="row"][data-tag]')`);
    await rest(3000);
    const search: number[] = [];
    // Each finds another number of tags than the one before.
    for (const text of ['big_1', 'big_12', 'big_127', 'big_1270', 'big_127', 'big_12', 'big_1', ''])
      search.push(await measured(page, `${SET}('input[aria-label="Find tags"]', 'input', ${JSON.stringify(text)})`, CHANGED));
    const filterMs = await measured(page, `${SET}('select[aria-label="State"]', 'change', 'unscaled')`, CHANGED);
    await measured(page, `${SET}('select[aria-label="State"]', 'change', 'all')`, CHANGED);
    const sortMs = await measured(
      page,
      `document.querySelector('[role="columnheader"] button').click()`,
      `document.querySelector('[role="columnheader"][aria-sort="ascending"]')`,
    );
    await rest(1000);
    const frames = await page.evaluate(async (ms) => {
      const grid = document.querySelector('[role="grid"]');
      const begun = performance.now();
      let frames = 0;
      while (performance.now() - begun < ms) {
        await new Promise((resolve) => requestAnimationFrame(resolve));
        frames++;
        if (grid) grid.scrollTop += 93;
      }
      return (frames * 1000) / (performance.now() - begun);
    }, SCROLLED_MS);
    const figure = (name: string, ms: number, most: number): Figure => ({
      name,
      ratio: ms / most,
      wanted: 1,
      atMost: true,
      detail: `${ms.toFixed(0)} ms`,
    });
    return [
      figure('Of 1 s, from opening the map of 100 000 tags to its first rows', openMs, 1000),
      figure('Of 50 ms, from a key in its search to what it finds, at the median', search.sort((x, y) => x - y)[search.length >> 1] ?? 0, 50),
      figure('Of 150 ms, filtering it', filterMs, 150),
      figure('Of 150 ms, sorting it', sortMs, 150),
      { name: 'Of 50 frames a second, what scrolling it keeps', ratio: frames / 50, wanted: 1, detail: `${frames.toFixed(1)} frames a second` },
    ];
  } finally {
    await browser.close();
    await load.close();
    rmSync(folder, { recursive: true, force: true });
  }
}

/** What is shown of how many there are. */
const STATUS = `document.querySelector('main [role="status"]').textContent`;
const CHANGED = `${STATUS} !== before`;
/** Sets a field as a person would: its page hears of it. */
const SET = `((selector, event, value) => {
  const field = document.querySelector(selector);
  Object.getOwnPropertyDescriptor(Object.getPrototypeOf(field), 'value').set.call(field, value);
  field.dispatchEvent(new Event(event, { bubbles: true }));
})`;
