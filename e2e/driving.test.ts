/** Values that are set for a check and held, at a real server: seen on every step, taken back by a key, and after a kill only on request. */
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { Browser } from 'puppeteer-core';
import type { Snapshot } from '@/core/project/snapshot.ts';
import { freePort, newFolder, startServer, type RunningServer } from '../tests/support/server.ts';
import { startKiln, type RunningStandin } from '../tests/support/standin.ts';
import { until } from '../tests/support/until.ts';
import { axeFinds } from './axe.ts';
import { openBrowser, Screen } from './browser.ts';
import { unlock } from './unlock.ts';

let browser: Browser;
let server: RunningServer;
let kiln: RunningStandin;
let bench: Screen;
let port: number;
let device: string;
const data = newFolder();
const demo = (): string[] => ['--demo-kiln', `${kiln.modbusPort},${kiln.controlPort}`];
const project = async (): Promise<Snapshot> => (await (await fetch(`${server.address}/api/v1/project`)).json()) as Snapshot;
/** As the controller's own display shows it. */
const shown = async (name: string): Promise<number> => Number(await kiln.value(name));
const near = (value: number, wanted: number): boolean => Math.abs(value - wanted) < 0.06;
const setting = '[data-setting]';

beforeAll(async () => {
  [browser, kiln, port] = await Promise.all([openBrowser(), startKiln(), freePort()]);
  server = await startServer(data.folder, port, demo());
  device = (await project()).devices[0]?.id ?? '';
  bench = await Screen.open(browser, `${server.address}/check`);
});
afterAll(async () => {
  await browser.close();
  await server.stop();
  await kiln.stop();
  data.remove();
});

describe('setting a set point for its check', () => {
  let before: number;
  test('is not possible before somebody has allowed it, isolated the machine and opened writing', async () => {
    before = await shown('bed_temp_sp');
    await bench.fill('Checked by', 'R. Vale');
    await bench.fill('Find tags to check', 'bed_temp_sp');
    await (await bench.find('[data-tag="bed_temp_sp"]')).click();
    await (await bench.find('summary')).click();
    await bench.press('Allow it …', setting);
    await bench.fill('From', '90', setting);
    await bench.fill('to', '11x', setting);
    await bench.press('R. Vale allows it', setting);
    await bench.sees('“11x” is no number', setting);
    await bench.fill('to', '110', setting);
    await bench.press('R. Vale allows it', setting);
    await bench.sees('It may be set from 90 to 110', setting);
    await bench.press('Declare it isolated', setting);
    await bench.sees('R. Vale answers for it', setting);
    await bench.sees('locked for driven checks', setting);
    expect(await bench.page.$$eval(`${setting} form button:not([disabled])`, (all) => all.length)).toBe(0);
    await bench.press('Unlock …', setting);
    await bench.press('Unlock writing', 'dialog');
    await until('writing is open', async () => !(await bench.text(setting)).includes('locked for driven checks'));
    expect(await axeFinds(bench.page)).toEqual([]);
  });
  test('sets the controller to a value that tells mistakes apart, and every step says so', async () => {
    await bench.press('Set 104.6', setting);
    await bench.sees('bed_temp_sp of KILN is set to 104.6', '[data-driven]');
    expect(near(await shown('bed_temp_sp'), 104.6)).toBe(true);
    await bench.go('Map');
    await bench.sees('bed_temp_sp of KILN is set to 104.6', '[data-driven]');
    await bench.go('Check');
  });
  test('makes the proof one that was driven', async () => {
    await bench.fill('Checked by', 'R. Vale');
    await bench.fill('What you see at the controller', '104.6');
    await bench.page.keyboard.press('Enter');
    await bench.find('section[aria-label="Check of bed_temp_sp"] [data-proof="proven"]');
    const proof = (await project()).proofs.at(-1);
    expect(proof).toMatchObject({ outcome: 'proven', more: { how: 'driven' } });
  });
  test('Escape puts the old value back, wherever one is', async () => {
    await bench.page.keyboard.press('Escape');
    await until('nothing is set', async () => (await bench.page.$('[data-driven]')) === null);
    expect(near(await shown('bed_temp_sp'), before)).toBe(true);
  });
});

describe('a held value', () => {
  test('is set from Watch, told on every view and panel, and released', async () => {
    const before = await shown('steam_press_sp');
    await unlock(server.address, device);
    await bench.page.goto(`${server.address}/check/watch`);
    await bench.pickTag('Add a tag', 'steam_press_sp');
    await bench.press('Set steam_press_sp');
    await bench.fill('New value', String(before + 1), 'dialog');
    await (await bench.page.$$('dialog input[name=how]'))[1]?.click();
    await bench.fill('Period in seconds', '0.1', 'dialog');
    await bench.press('Hold', 'dialog');
    await bench.sees('At least 0.2 s', 'dialog');
    await bench.fill('Period in seconds', '0.3', 'dialog');
    await bench.press('Hold', 'dialog');
    await bench.sees('written again every 0.3 s', '[data-driven]');
    await bench.sees('▣ held', '[data-watched="steam_press_sp"]');
    const panel = (await project()).panels[0]?.id ?? '';
    const glass = await Screen.open(browser, `${server.address}/panel/${panel}`);
    await glass.sees('steam_press_sp of KILN is held at', '[data-driven]');
    expect(await glass.page.$$eval('[data-driven] button', (all) => all.length)).toBe(0);
    await glass.page.close();
    await bench.page.bringToFront();
    await bench.press('Release', '[data-driven]');
    await until('it is released', async () => (await bench.page.$('[data-driven]')) === null);
    expect(near(await shown('steam_press_sp'), before)).toBe(true);
  });
});

describe('a server that is killed while a value is held', () => {
  let before: number;
  let held: number;
  test('writes nothing when it is there again: it tells what may still be set', async () => {
    before = await shown('steam_press_sp');
    held = before + 0.5;
    await bench.press('Set steam_press_sp');
    await bench.fill('New value', String(held), 'dialog');
    await (await bench.page.$$('dialog input[name=how]'))[1]?.click();
    await bench.press('Hold', 'dialog');
    await bench.sees('steam_press_sp of KILN is held', '[data-driven]');
    await server.stop('SIGKILL');
    expect(near(await shown('steam_press_sp'), held)).toBe(true);
    server = await startServer(data.folder, port, demo());
    await bench.page.reload();
    await bench.sees('steam_press_sp of KILN may still hold', '[data-left]');
    // Long enough for several of its periods.
    await new Promise((resolve) => setTimeout(resolve, 2500));
    expect(near(await shown('steam_press_sp'), held)).toBe(true);
    const log = (await (await fetch(`${server.address}/api/v1/writes?limit=1`)).json()) as readonly { readonly at: string }[];
    expect(Date.now() - Date.parse(log[0]?.at ?? '')).toBeGreaterThan(2500);
  });
  test('and puts it back when somebody asks for it, once writing is open', async () => {
    await bench.press('Put', '[data-left]');
    await bench.sees('is locked');
    expect(near(await shown('steam_press_sp'), held)).toBe(true);
    await unlock(server.address, device);
    await bench.press('Put', '[data-left]');
    await until('it is put back', async () => (await bench.page.$('[data-left]')) === null);
    expect(near(await shown('steam_press_sp'), before)).toBe(true);
  });
});

test('the pages have complained of nothing but the server that was killed', () => {
  expect(bench.complaints.filter((text) => !/ERR_CONNECTION_REFUSED|WebSocket|409|423|422/.test(text))).toEqual([]);
});
