/** A driver that is only a manifest and a session in memory goes through the interface, which has no line of code that knows it. */
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { build } from 'esbuild';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { Browser } from 'puppeteer-core';
import { freePort, newFolder, startServer, type RunningServer } from '../tests/support/server.ts';
import { openBrowser, Screen } from './browser.ts';

const PROGRAM = 'serverWithCells.mjs';
const file = (path: string): string => fileURLToPath(new URL(`../${path}`, import.meta.url));
let browser: Browser;
let server: RunningServer;
let bench: Screen;
let cellsPort = 0;
const data = newFolder();

beforeAll(async () => {
  // Beside the server's own program, where it finds what it needs.
  await build({
    entryPoints: [file('tests/support/serverWithCells.ts')],
    outfile: file(`dist/${PROGRAM}`),
    bundle: true,
    format: 'esm',
    platform: 'node',
    target: 'node20',
    packages: 'external',
    logLevel: 'warning',
    tsconfig: file('tsconfig.json'),
  });
  cellsPort = await freePort();
  process.env.CELLS_PORT = String(cellsPort);
  [browser, server] = await Promise.all([openBrowser(), startServer(data.folder, await freePort(), [], PROGRAM)]);
  bench = await Screen.open(browser, server.address);
});
afterAll(async () => {
  await browser?.close();
  await server?.stop();
  data.remove();
});

const cell = async (name: string, value?: number): Promise<number> =>
  Number(await (await fetch(`http://127.0.0.1:${cellsPort}/${name}${value === undefined ? '' : `/${value}`}`)).text());

describe('a driver that is only a manifest and a session', () => {
  test('is chosen, set up by forms made of its manifest, and its connection is tested in its own stages', async () => {
    await bench.go('Links');
    await bench.press('Create the first link');
    await bench.fill('Name', 'Shelf', 'dialog');
    await bench.choose('Protocol', 'mock-cells', 'dialog');
    await bench.fill('Shelf', 'north', 'dialog');
    await bench.choose('Signed in as', 'user', 'dialog');
    await bench.fill('Password', 'Flour&Water-7731', 'dialog');
    await bench.press('Create link', 'dialog');
    await bench.sees('shelf north', 'section[aria-label="Link Shelf"]');
    await bench.press('Device', 'section[aria-label="Link Shelf"]');
    await bench.fill('Name', 'CELLS', 'dialog');
    await bench.fill('Row', '21', 'dialog');
    await bench.press('Create device', 'dialog');
    await bench.sees('The row is a whole number from 1 to 20.', 'dialog');
    await bench.fill('Row', '2', 'dialog');
    await bench.press('Create device', 'dialog');
    await bench.sees('row 2', '[data-device="CELLS"]');
    await bench.press('Test connection', '[data-device="CELLS"]');
    await bench.find('dialog [data-stage="cells"][data-state="passed"]');
    await bench.press('Close', 'dialog');
    expect(JSON.stringify(await (await fetch(`${server.address}/api/v1/project`)).json())).not.toContain('Flour&Water');
  });

  test('lists its tags itself, and takes a list from a file whose addresses its manifest describes', async () => {
    await bench.go('Lists');
    await bench.press('Ask CELLS for its tags');
    await bench.sees('2 rows understood', '[data-preview-count]');
    await bench.press('Discard');
    const list = join(data.folder, 'cells.csv');
    writeFileSync(list, 'Name,Address,Type,Access,Unit\nbed_temp,cell:BED_TEMP,REAL,RW,°C\nspeed,cell:speed_ro,REAL,R,rpm\nwrong,HR1,REAL,R,\n');
    const input = (await bench.field('Tag list file')) as unknown as { uploadFile(path: string): Promise<void> };
    await input.uploadFile(list);
    await bench.sees('“HR1” is no address here.');
    await (await bench.find('input[type=checkbox].checkbox-sm')).click();
    await bench.press('Import 2 tags');
    await bench.go('Map');
    await bench.sees('104.5', '[data-tag="bed_temp"]');
    await bench.sees('40', '[data-tag="speed"]');
  });

  test('its values come by themselves, and an address that its manifest does not know is refused in the map', async () => {
    await cell('bed_temp', 99.25);
    await bench.sees('99.25', '[data-tag="bed_temp"]');
    await bench.editCell('bed_temp', 'address', 'HR7');
    await bench.sees('“HR7” is no address here.');
    await bench.page.keyboard.press('Escape');
  });

  test('is put on a panel page and written to once writing is unlocked', async () => {
    await bench.go('Panels');
    await bench.press('Make a panel');
    await bench.press('Entry', '[aria-label="Add to the page"]');
    await bench.page.waitForFunction(
      () => document.querySelector<HTMLElement>('[role=group][aria-label^="Settings of"] strong')?.innerText === 'Entry',
    );
    await bench.pickTag('Tag of the element', 'bed_temp');
    await bench.sees('99.25', '[data-kind="entry"]');
    const href = await bench.page.$eval('a[href^="/panel/"]', (a) => a.getAttribute('href'));
    await bench.press('writing locked');
    await bench.fill('Your name', 'R. Vale', 'dialog');
    await bench.press('Unlock writing', 'dialog');
    await bench.sees('writing open: CELLS');
    const panel = await Screen.open(browser, `${server.address}${href}`);
    await panel.find('[data-drawn]');
    await panel.press('Enter bed_temp');
    await panel.fill('New value', '88.5', 'dialog');
    await panel.press('Write', 'dialog');
    await panel.sees('88.5', '[data-drawn]');
    expect(await cell('bed_temp')).toBe(88.5);
    expect(panel.complaints).toEqual([]);
    await panel.page.close();
  });

  test('a typed value is proven by who sees it, and its signal path has a wire stage', async () => {
    await bench.page.bringToFront();
    await bench.go('Check');
    await (await bench.find('[data-tag="bed_temp"]')).click();
    await bench.sees('the cell cell:bed_temp', '[data-strip="bed_temp"]');
    await bench.fill('What you see at the controller', '88.5');
    await bench.press('Compare');
    await bench.find('[data-tag="bed_temp"] [data-proof="proven"]');
  });

  test('its trace says that there is nothing to take apart; no page complained', async () => {
    await bench.go('Links');
    await bench.press('Trace', 'section[aria-label="Link Shelf"]');
    await bench.sees('Shelf', 'main');
    expect(bench.complaints).toEqual([]);
    const log = (await (await fetch(`${server.address}/api/v1/writes`)).json()) as { tagName: string; state: string }[];
    expect(log.map(({ tagName, state }) => `${tagName} ${state}`)).toEqual(['bed_temp done']);
  });
});
