/** A controller's program commands the pages of a real panel through an array, checks the answers, and hears of keys. */
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { Browser } from 'puppeteer-core';
import { v7 as uuid } from 'uuid';
import { startStandin, type RunningStandin } from '../tests/support/standin.ts';
import { newTag } from '../tests/support/newTag.ts';
import { freePort, newFolder, startServer, type RunningServer } from '../tests/support/server.ts';
import { until } from '../tests/support/until.ts';
import { openBrowser, Screen } from './browser.ts';
import { sendCommand } from './sendCommand.ts';

const data = newFolder();
const [deviceId, panelId, buttonId] = [uuid(), uuid(), uuid()];
const pages = [uuid(), uuid(), uuid()];
/** A page that lies behind another is no screen: each has a window of its own. */
let browsers: Browser[];
let server: RunningServer;
let caller: RunningStandin;
let bench: Screen;
let glass: Screen;

const tag = (name: string, address: string, more: object = {}) => ({
  kind: 'tag' as const,
  id: uuid(),
  set: { ...newTag(deviceId, name, address), type: 'UINT', ...more },
});
function openIn(window: number, address: string): Promise<Screen> {
  const browser = browsers[window];
  if (!browser) throw new Error('no such window');
  return Screen.open(browser, address);
}
const shows = (screen: Screen, name: string): Promise<void> => screen.find(`[data-page="${name}"]`).then(() => undefined);
async function call(said: string): Promise<string> {
  await caller.set('call', said);
  await until('the program has its answers', async () => (await caller.value('waits')) === false, 20_000);
  return String(await caller.value('answers')).replaceAll(/:\d+( |$)/g, '$1');
}

beforeAll(async () => {
  [browsers, server, caller] = await Promise.all([
    Promise.all([openBrowser(), openBrowser(), openBrowser()]),
    startServer(data.folder, await freePort()),
    startStandin('caller'),
  ]);
  const linkId = uuid();
  await sendCommand(server.address, 'a controller', [
    { kind: 'link', id: linkId, set: { name: 'Line', driver: 'modbus-tcp', settings: { host: '127.0.0.1', port: caller.modbusPort } } },
    { kind: 'device', id: deviceId, set: { linkId, name: 'CALLER', settings: { unit: 1 }, dialect: { bitWrites: 'mask' }, witnessUrl: '' } },
    tag('cmd_0', 'HR0', { access: 'read' }),
    tag('cmd_1', 'HR1', { access: 'read' }),
    ...[0, 1, 2, 3].map((n) => tag(`sts_${n}`, `HR${10 + n}`)),
    tag('key_start', 'HR14.0', { type: 'BOOL' }),
    tag('clock', 'HR20', { type: 'DATE_AND_TIME parts', access: 'read' }),
    { kind: 'panel', id: panelId, set: { name: 'Mill', units: [], width: 800, height: 480 } },
    ...pages.map((id, position) => ({ kind: 'page' as const, id, set: { panelId, name: `Page ${10 + position}`, position, number: 10 + position } })),
    { kind: 'element', id: buttonId, set: { pageId: pages[0], kind: 'button', tagId: null, label: 'Start', x: 8, y: 8, w: 200, h: 80, settings: { actions: [] } } }, // prettier-ignore
    { kind: 'element', id: uuid(), set: { pageId: pages[0], kind: 'clock', tagId: null, label: '', x: 8, y: 100, w: 200, h: 36, settings: { shows: 'both' } } }, // prettier-ignore
  ]);
  const headers = { 'content-type': 'application/json', origin: server.address };
  const body = JSON.stringify({ deviceId, minutes: 60, who: 'R. Vale', writers: ['panel'] });
  expect((await fetch(`${server.address}/api/v1/guard/unlock`, { method: 'POST', headers, body })).status).toBe(200);
  bench = await openIn(0, `${server.address}/panels`);
});
afterAll(async () => {
  await Promise.all([...(browsers ?? []).map((browser) => browser.close()), server?.stop(), caller?.stop()]);
  data.remove();
});

const DIALOG = 'dialog[open]';
async function pick(label: string, name: string): Promise<void> {
  await bench.fill(label, name, DIALOG);
  await bench.find('[role="listbox"] [role="option"]');
  await bench.page.keyboard.press('Enter');
}

test('the words are laid out over an array, the offset is said, and a button becomes a key', async () => {
  await bench.press('With the controller');
  await bench.sees('No screen shows the panel now.', DIALOG);
  await pick('Page wanted', 'cmd_0');
  await bench.press('Lay out what follows Page wanted', DIALOG);
  await pick('Result', 'sts_0');
  await bench.press('Lay out what follows Result', DIALOG);
  await bench.page.waitForFunction(
    () => [...document.querySelectorAll<HTMLInputElement>('dialog[open] table input')].filter((i) => i.value.startsWith('sts_')).length === 4,
  );
  await bench.fill('Offset', '10', DIALOG);
  await bench.page.keyboard.press('Enter');
  await pick('Bit of Page 10: Start', 'key_start');
  await pick('Controller clock', 'clock');
  await bench.sees('Every button of it is a key.', DIALOG);
  expect(bench.complaints).toEqual([]);
}, 60_000);

describe('a panel that is open', () => {
  beforeAll(async () => {
    glass = await openIn(1, `${server.address}/panel/${panelId}`);
    await shows(glass, 'Page 10');
  });

  test('shows the page that the controller commands, and is answered; one that is not there is refused', async () => {
    await until('it is told', async () => (await caller.value('page')) === 0);
    expect(await call('1 2 7 0')).toBe('1:1 2:1 7:2 0:1');
    await shows(glass, 'Page 10');
    expect(await call('2')).toBe('2:1');
    await shows(glass, 'Page 12');
    await bench.sees('The last command: 2', DIALOG);
  }, 60_000);
  test('tells the page that a person chooses, and comes back to the server with it', async () => {
    await glass.press('Page 11');
    await until('the controller hears of it', async () => (await caller.value('page')) === 1);
    expect(await call('0')).toBe('0:1');
    await shows(glass, 'Page 10');
  }, 60_000);
  test('tells a key while it is pressed, and lets go of it when the page is gone', async () => {
    await caller.set('watchKeys', true);
    const button = await glass.button('Start');
    const box = await button.boundingBox();
    await glass.page.mouse.move((box?.x ?? 0) + 20, (box?.y ?? 0) + 20);
    await glass.page.mouse.down();
    await until('the bit is on', async () => (await caller.value('keys')) === 1);
    await glass.page.mouse.up();
    await until('it is off', async () => (await caller.value('keys')) === 0);
    await glass.page.mouse.down();
    await until('the bit is on', async () => (await caller.value('keys')) === 1);
    expect(await call('1')).toBe('1:1');
    await until('it is off', async () => (await caller.value('keys')) === 0);
    await glass.page.mouse.up();
  }, 60_000);
  test('its clock is that of the controller, as its wall shows it', async () => {
    expect(await call('0')).toBe('0:1');
    await glass.page.waitForFunction(() => /^2026-03-01 \d\d:\d\d:\d\d$/.test(document.querySelector<HTMLElement>('[data-kind="clock"]')?.innerText.trim() ?? '')); // prettier-ignore
  });
  test('a second screen follows the first one, and cannot choose', async () => {
    await sendCommand(server.address, 'one leads', [{ kind: 'panel', id: panelId, set: { screens: 'leader' } }]);
    const second = await openIn(2, `${server.address}/panel/${panelId}?page=${pages[2] ?? ''}`);
    await shows(second, 'Page 10');
    await second.sees('This screen follows another one.');
    await second.press('Page 12');
    await second.sees('This screen follows another one.', '[data-sonner-toast]');
    await shows(second, 'Page 10');
    await glass.press('Page 11');
    await shows(second, 'Page 11');
    await second.page.close();
    await sendCommand(server.address, 'apart', [{ kind: 'panel', id: panelId, set: { screens: 'apart' } }]);
    expect([...glass.complaints, ...second.complaints]).toEqual([]);
  }, 60_000);
  test('nothing is written while writing is locked, and the bench says so', async () => {
    await fetch(`${server.address}/api/v1/guard/lock`, { method: 'POST', headers: { 'content-type': 'application/json', origin: server.address }, body: '{}' }); // prettier-ignore
    await glass.press('Page 12');
    await bench.sees('The controller is not told:', DIALOG);
    expect(await caller.value('page')).toBe(1);
  }, 60_000);
});
