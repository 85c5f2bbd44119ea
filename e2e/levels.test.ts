/** A panel that people sign in at: pages and elements that need a level, wrong PINs, signing out by itself, who did what. */
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import type { Browser } from 'puppeteer-core';
import { v7 as uuid } from 'uuid';
import { freePort, newFolder, startServer, type RunningServer } from '../tests/support/server.ts';
import { startStandin, type RunningStandin } from '../tests/support/standin.ts';
import { newTag } from '../tests/support/newTag.ts';
import { until } from '../tests/support/until.ts';
import { openBrowser, Screen } from './browser.ts';
import { sendCommand } from './sendCommand.ts';
import { unlock } from './unlock.ts';

const data = newFolder();
const [deviceId, panelId, openId, closedId] = [uuid(), uuid(), uuid(), uuid()];
const [count, level] = [uuid(), uuid()];
const hiddenId = uuid();
let browsers: Browser[];
let server: RunningServer;
let caller: RunningStandin;
let bench: Screen;
let glass: Screen;

const button = (id: string, pageId: string, label: string, y: number, settings: object = {}) => ({
  kind: 'element' as const,
  id,
  set: {
    pageId,
    kind: 'button',
    tagId: count,
    label,
    x: 8,
    y,
    w: 200,
    h: 60,
    settings: { actions: [{ act: 'write', tagId: null, value: String(y), pageId: null }], ...settings },
  },
});
const openIn = async (n: number, address: string): Promise<Screen> => {
  const browser = browsers[n];
  if (!browser) throw new Error('no such window');
  return Screen.open(browser, address);
};
const pinBy = async (digits: string): Promise<void> => {
  for (const digit of digits) await glass.press(digit, 'dialog');
};
const log = async (): Promise<readonly string[]> => {
  const all = (await (await fetch(`${server.address}/api/v1/writes?limit=5`)).json()) as { tagName: string; by: string; asked: { value: string } }[];
  return all.filter(({ tagName }) => tagName === 'count').map(({ by, asked }) => `${asked.value} by ${by}`);
};

beforeAll(async () => {
  [browsers, server, caller] = await Promise.all([
    Promise.all([openBrowser(), openBrowser()]),
    startServer(data.folder, await freePort()),
    startStandin('caller'),
  ]);
  const linkId = uuid();
  const tag = (id: string, name: string, address: string) => ({
    kind: 'tag' as const,
    id,
    set: { ...newTag(deviceId, name, address), type: 'UINT' },
  });
  await sendCommand(server.address, 'a controller', [
    { kind: 'link', id: linkId, set: { name: 'Line', driver: 'modbus-tcp', settings: { host: '127.0.0.1', port: caller.modbusPort } } },
    { kind: 'device', id: deviceId, set: { linkId, name: 'CALLER', settings: { unit: 1 }, dialect: {}, witnessUrl: '' } },
    tag(count, 'count', 'HR40'),
    tag(level, 'level', 'HR15'),
    { kind: 'panel', id: panelId, set: { name: 'Mill', units: [], width: 800, height: 480 } },
    { kind: 'page', id: openId, set: { panelId, name: 'Rolls', position: 0 } },
    { kind: 'page', id: closedId, set: { panelId, name: 'Service', position: 1 } },
    button(uuid(), openId, 'Anybody', 8),
    button(uuid(), openId, 'Skilled', 80, { level: 2 }),
    button(hiddenId, openId, 'Secret', 152, { level: 3, hiddenBelow: true }),
    button(uuid(), closedId, 'Inside', 8),
    { kind: 'panelWord', id: uuid(), set: { panelId, role: 'level', tagId: level, elementId: null } },
  ]);
  await unlock(server.address, deviceId);
  bench = await openIn(0, `${server.address}/panels`);
  glass = await openIn(1, `${server.address}/panel/${panelId}`);
  await glass.sees('Anybody');
});
afterAll(async () => {
  await Promise.all([...(browsers ?? []).map((browser) => browser.close()), server?.stop(), caller?.stop()]);
  data.remove();
});

test('an engineer enters people, their levels and PINs, and the level of a page', async () => {
  await bench.press('People');
  await bench.sees('Nobody yet');
  await bench.press('Person');
  await bench.fill('Name of Operator', 'A. Reed');
  await bench.page.keyboard.press('Enter');
  await bench.find('tr[data-person="A. Reed"]');
  await bench.press('Person');
  await bench.fill('Name of Operator', 'B. Moss');
  await bench.page.keyboard.press('Enter');
  await bench.find('tr[data-person="B. Moss"]');
  await bench.choose('Level of A. Reed', '2');
  await bench.choose('Level of B. Moss', '3');
  await bench.sees('◑ has none');
  for (const [name, pin] of [
    ['A. Reed', '2718'],
    ['B. Moss', '31415'],
  ] as const) {
    await bench.press('Set PIN', `tr[data-person="${name}"]`);
    await bench.fill(`New PIN of ${name}`, '1234');
    await bench.sees('the first that is tried');
    await bench.fill(`New PIN of ${name}`, pin);
    await bench.page.keyboard.press('Enter');
    await bench.sees('Change PIN', `tr[data-person="${name}"]`);
  }
  await bench.choose('Level of the page Service', '3');
  await bench.press('Close', 'dialog');
});

test('what needs a level has a lock that lets one sign in; a wrong PIN is told, and the log says who pressed', async () => {
  await glass.sees('Sign in', 'header');
  expect(await glass.text('main')).not.toContain('Secret');
  await glass.press('Anybody');
  await until('it is written', async () => (await log())[0] === '8 by ');
  await glass.press('Skilled: This needs level 2.');
  await glass.press('A. Reed', 'dialog');
  await pinBy('1111');
  await glass.press('Sign in', 'dialog');
  await glass.sees('That is not the PIN of this person.', 'dialog');
  await pinBy('2718');
  await glass.page.keyboard.press('Enter');
  await glass.sees('A. Reed', '[data-signed-in]');
  await glass.press('Skilled');
  await until('it is written', async () => (await log())[0] === '80 by A. Reed');
  await until('the controller is told the level', async () => (await caller.value('level')) === 2);
  expect(await glass.text('main')).not.toContain('Secret');
});

test('a page that needs more asks for somebody else, who sees what was hidden', async () => {
  await glass.press('Service', 'nav');
  await glass.sees('This needs level 3.', 'dialog');
  await glass.press('A. Reed', 'dialog');
  await pinBy('2718');
  await glass.press('Sign in', 'dialog');
  await glass.sees('A. Reed has level 2; this needs level 3.', 'dialog');
  await glass.press('Somebody else', 'dialog');
  await glass.press('B. Moss', 'dialog');
  await pinBy('31415');
  await glass.press('Sign in', 'dialog');
  await glass.sees('Inside', 'main');
  await glass.press('Inside');
  await until('it is written', async () => (await log())[0] === '8 by B. Moss');
  await glass.press('Rolls', 'nav');
  await glass.sees('Secret', 'main');
  await glass.press('Service', 'nav');
  await glass.sees('Inside', 'main');
});

test('signing out leaves what needs a level; neither the address of a page nor a level that was taken away lets one in', async () => {
  await glass.press('Sign out');
  await glass.sees('Skilled', 'main');
  expect(await glass.text('main')).not.toContain('Secret');
  await until('the controller is told that nobody is there', async () => (await caller.value('level')) === 0);
  // By its address neither.
  await glass.page.goto(`${server.address}/panel/${panelId}?page=${closedId}`);
  await glass.sees('Skilled', 'main');
  await glass.press('Sign in', 'header');
  await glass.press('B. Moss', 'dialog');
  await pinBy('31415');
  await glass.press('Sign in', 'dialog');
  await glass.sees('Secret', 'main');
  await bench.press('People');
  await bench.choose('Level of B. Moss', '2');
  await glass.page.waitForFunction(() => !document.querySelector('[data-signed-in]'));
  expect(await glass.text('main')).not.toContain('Secret');
  expect([...bench.complaints, ...glass.complaints]).toEqual([]);
});
