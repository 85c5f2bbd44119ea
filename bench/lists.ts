/**
 * Lists of 100 000 rows on the built server with its engine online: 10 000 tags on 8 devices are read every second
 * meanwhile. The reference is what the file costs at the least, measured in the same run.
 */
import { execFile } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { promisify } from 'node:util';
import puppeteer, { type Browser, type Page } from 'puppeteer-core';
import { v7 as uuid } from 'uuid';
import { mergeLists } from '@/core/taglist/merge.ts';
import type { DraftStatus } from '@/core/taglist/draft.ts';
import { listHistory } from '../tests/support/listHistory.ts';
import type { Figure } from './figure.ts';
import { loop, onQuietMachine, startLoad } from './serverLoad.ts';

const ROWS = 100_000;
const CHANGED = 0.05;
const ROUNDS = 3;
const HISTORIES = 6;
const file = (path: string): string => fileURLToPath(new URL(`../../${path}`, import.meta.url));
const rest = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));
const median = (list: readonly number[]): number => [...list].sort((a, b) => a - b)[list.length >> 1] ?? NaN;

export async function lists(): Promise<readonly Figure[]> {
  const folder = mkdtempSync(join(tmpdir(), 'mill-latch-lists-'));
  const list = (name: string): string => listOf(folder, name, ROWS);
  const load = await startLoad(false);
  try {
    const { devices } = (await (await fetch(`${load.address}/api/v1/project`)).json()) as { devices: { id: string }[] };
    const deviceId = devices[0]?.id ?? '';
    await rest(12_000);
    const references: number[] = [];
    const imports: number[] = [];
    const undos: number[] = [];
    const path = list('big');
    for (let round = 0; round < ROUNDS; round++) {
      references.push(await reference(path));
      await rest(500);
      imports.push(await bringIn(load.address, deviceId, path));
      await rest(3000);
      undos.push(await undo(load.address));
      await rest(3000);
    }
    const blocked = await onQuietMachine(async () => {
      await loop(load.address);
      await bringIn(load.address, deviceId, path);
      // What follows from it is part of it: the tags come online.
      await rest(5000);
      const ms = await loop(load.address);
      await undo(load.address);
      await rest(2000);
      return ms;
    });
    const page = await pageBlocked(load.address, path);
    const words = (all: readonly number[]): string => all.map((ms) => `${(ms / 1000).toFixed(2)} s`).join(', ');
    return [
      {
        name: `Times papaparse and COPY, ${ROWS} rows from file to committed`,
        ratio: median(imports) / median(references),
        wanted: 2.5,
        atMost: true,
        detail: `${words(imports)} against ${words(references)}; medians`,
      },
      { name: 'Of 3 s, undoing it', ratio: median(undos) / 3000, wanted: 1, atMost: true, detail: words(undos) },
      {
        name: 'Of 50 ms, the longest time that the engine’s loop was blocked by it',
        ratio: blocked.ms / 50,
        wanted: 1,
        atMost: true,
        detail: blocked.words,
      },
      { name: 'Of 100 ms, the longest time that the page was blocked by it', ratio: page.ms / 100, wanted: 1, atMost: true, detail: page.words },
      ...merging(),
    ];
  } finally {
    await load.close();
    rmSync(folder, { recursive: true, force: true });
  }
}

async function reference(path: string): Promise<number> {
  const { stdout } = await promisify(execFile)(process.execPath, [file('bench/listReference.mjs'), path]);
  const { ms, count } = JSON.parse(stdout) as { ms: number; count: number };
  if (count !== ROWS) throw new Error(`The reference took ${count} rows.`);
  return ms;
}

/** A list of so many rows as a file. */
export function listOf(folder: string, name: string, count: number): string {
  const path = join(folder, `${name}.csv`);
  const rows = Array.from({ length: count }, (_, i) => `${name}_${i},HR${i % 60_000},INT,°C,0,100,Bulk,"Row ${i}, of the list"`);
  writeFileSync(path, `Name,Address,Data type,Unit,Low,High,Group,Comment\n${rows.join('\n')}\n`);
  return path;
}

/** Imports a list as the interface does. @returns milliseconds */
export async function bringIn(address: string, deviceId: string, path: string): Promise<number> {
  const body = readFileSync(path);
  const begun = performance.now();
  const ask = async <T>(url: string, init?: RequestInit): Promise<T> => {
    const response = await fetch(`${address}/api/v1/lists/drafts${url}`, init);
    if (!response.ok) throw new Error(await response.text());
    return (await response.json()) as T;
  };
  const headers = { 'content-type': 'application/octet-stream' };
  const { id } = await ask<DraftStatus>(`?deviceId=${deviceId}&fileName=big.csv`, { method: 'POST', headers, body });
  for (;;) {
    const { phase, problem } = await ask<DraftStatus>(`/${id}`);
    if (problem) throw new Error(problem.message);
    if (phase === 'ready') break;
    await rest(25);
  }
  await ask(`/${id}/commit`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ commandId: uuid(), renames: [], bytes: [], leaveOutBad: false }),
  });
  return performance.now() - begun;
}

async function undo(address: string): Promise<number> {
  const begun = performance.now();
  const done = await fetch(`${address}/api/v1/undo`, { method: 'POST' });
  if (!done.ok) throw new Error(await done.text());
  return performance.now() - begun;
}

/** The longest task of the page while the list is imported with it, and for a while after. */
async function pageBlocked(address: string, path: string): Promise<{ readonly ms: number; readonly words: string }> {
  const browser: Browser = await puppeteer.launch({
    executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-gpu'],
  });
  try {
    const page: Page = await browser.newPage();
    await page.goto(`${address}/lists`);
    await page.waitForSelector('input[type=file]');
    await rest(2000);
    return await onQuietMachine(async () => {
      await page.evaluate(() => {
        const seen = window as unknown as { longest: number; observer?: PerformanceObserver };
        seen.longest = 0;
        seen.observer ??= new PerformanceObserver((entries) => {
          for (const { duration } of entries.getEntries()) seen.longest = Math.max(seen.longest, duration);
        });
        seen.observer.observe({ type: 'longtask' });
      });
      const input = await page.$('input[type=file]');
      await (input as unknown as { uploadFile(path: string): Promise<void> }).uploadFile(path);
      await page.waitForFunction((rows) => document.body.innerText.includes(`${rows} rows understood`), { timeout: 120_000 }, ROWS);
      await page.evaluate(() => [...document.querySelectorAll('button')].find((b) => b.innerText.startsWith('Import ') && !b.disabled)?.click());
      await page.waitForFunction(() => document.body.innerText.includes('imported from'), { timeout: 120_000 });
      await rest(8000);
      const longest = await page.evaluate(() => (window as unknown as { longest: number }).longest);
      await undo(address);
      await rest(5000);
      return longest;
    });
  } finally {
    await browser.close();
  }
}

/** Merging in one piece, and renames by what a generator knows to be true. */
function merging(): readonly Figure[] {
  const { before, after } = listHistory(ROWS, CHANGED, 7);
  const begun = performance.now();
  const merge = mergeLists(before, after);
  const ms = performance.now() - begun;
  let [clear, found, proposed, wrong] = [0, 0, 0, 0];
  for (let seed = 1; seed <= HISTORIES; seed++) {
    const history = listHistory(4000, 0.2, seed);
    const named = mergeLists(history.before, history.after).proposals.filter((p) => p.alternatives.length === 0);
    const right = named.filter((p) => history.renamed.get(p.from.listName) === p.to.listName).length;
    clear += history.renamed.size;
    proposed += named.length;
    found += right;
    wrong += named.length - right;
  }
  return [
    {
      name: `Of 3 s, merging two versions of ${ROWS} tags, ${CHANGED * 100} % changed`,
      ratio: ms / 3000,
      wanted: 1,
      atMost: true,
      detail: `${Math.round(ms)} ms: ${merge.same.length} same, ${merge.changed.length} changed, ${merge.added.length} new, ${merge.gone.length} gone, ${merge.proposals.length} proposals`,
    },
    {
      name: 'Of the clear renames, found',
      ratio: found / clear,
      wanted: 0.95,
      detail: `${found} of ${clear}, in ${HISTORIES} histories of 4000 tags`,
    },
    { name: 'Of the proposals without a doubt, wrong', ratio: wrong / proposed, wanted: 0.01, atMost: true, detail: `${wrong} of ${proposed}` },
  ];
}
