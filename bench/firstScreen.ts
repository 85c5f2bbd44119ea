/** What a page gets before its first screen of a project with 100 000 tags, uncompressed, scripts and all. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import puppeteer from 'puppeteer-core';
import type { Figure } from './figure.ts';
import { bringIn, listOf } from './lists.ts';
import { rest, startLoad } from './serverLoad.ts';

const ROWS = 100_000;
const MOST_MB = 8;

export async function firstScreen(): Promise<readonly Figure[]> {
  const folder = mkdtempSync(join(tmpdir(), 'mill-latch-first-'));
  const load = await startLoad(false);
  try {
    const { devices } = (await (await fetch(`${load.address}/api/v1/project`)).json()) as { devices: { id: string }[] };
    await bringIn(load.address, devices[0]?.id ?? '', listOf(folder, 'big', ROWS));
    await rest(5000);
    const { mb, sentMb, firstMs, wholeMs } = await opened(load.address);
    return [
      {
        name: `Of ${MOST_MB} MB, what a page gets before its first screen of ${ROWS} tags`,
        ratio: mb / MOST_MB,
        wanted: 1,
        atMost: true,
        detail: `${mb.toFixed(2)} MB uncompressed, ${sentMb.toFixed(2)} MB on the wire; first screen after ${Math.round(firstMs)} ms, all tags after ${Math.round(wholeMs)} ms`,
      },
    ];
  } finally {
    await load.close();
    rmSync(folder, { recursive: true, force: true });
  }
}

async function opened(address: string) {
  const browser = await puppeteer.launch({ executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium', args: ['--no-sandbox', '--disable-gpu'] });
  try {
    const page = await browser.newPage();
    const network = await page.createCDPSession();
    await network.send('Network.enable');
    let [bytes, sent] = [0, 0];
    network.on('Network.dataReceived', ({ dataLength, encodedDataLength }) => {
      bytes += dataLength;
      sent += encodedDataLength;
    });
    const begun = performance.now();
    await page.goto(`${address}/links`, { waitUntil: 'domcontentloaded' });
    await page.waitForSelector('[data-device]', { timeout: 60_000 });
    const [mb, sentMb, firstMs] = [bytes / 1e6, sent / 1e6, performance.now() - begun];
    await page.waitForFunction(() => !document.body.innerText.includes('opening …'), { timeout: 120_000 });
    return { mb, sentMb, firstMs, wholeMs: performance.now() - begun };
  } finally {
    await browser.close();
  }
}
