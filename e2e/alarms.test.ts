/** Alarms made in the bench, seen and handled on a glass, through all their states, with a controller that acknowledges too. */
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
const [deviceId, panelId, pageId, alarmsId] = [uuid(), uuid(), uuid(), uuid()];
const [jam, acked, level] = [uuid(), uuid(), uuid()];
let browsers: Browser[];
let server: RunningServer;
let caller: RunningStandin;
let bench: Screen;
let glass: Screen;

const element = (kind: string, on: string, label: string, y: number, h: number, settings: object = {}) => ({
  kind: 'element' as const,
  id: uuid(),
  set: { pageId: on, kind, tagId: null, label, x: 8, y, w: 780, h, settings },
});
const openIn = async (n: number, address: string): Promise<Screen> => {
  const browser = browsers[n];
  if (!browser) throw new Error('no such window');
  return Screen.open(browser, address);
};
const write = (tagId: string, value: string): Promise<Response> =>
  fetch(`${server.address}/api/v1/tags/${tagId}/write`, {
    method: 'POST',
    headers: { 'content-type': 'application/json', origin: server.address },
    body: JSON.stringify({ id: uuid(), value, origin: 'engineer' }),
  });
const shows = (state: string, text = ''): Promise<unknown> =>
  glass.page.waitForFunction(
    (wanted, said) => [...document.querySelectorAll<HTMLElement>(`li[data-alarm="${wanted}"]`)].some((row) => row.innerText.includes(said)),
    {},
    state,
    text,
  );
const row = (text: string): Promise<string> => glass.text('main ul').then((all) => all.split('\n').find((line) => line.includes(text)) ?? '');

beforeAll(async () => {
  [browsers, server, caller] = await Promise.all([
    Promise.all([openBrowser(), openBrowser()]),
    startServer(data.folder, await freePort()),
    startStandin('caller'),
  ]);
  const linkId = uuid();
  const tag = (id: string, name: string, address: string, more: object) => ({
    kind: 'tag' as const,
    id,
    set: { ...newTag(deviceId, name, address), ...more },
  });
  await sendCommand(server.address, 'a controller', [
    { kind: 'link', id: linkId, set: { name: 'Line', driver: 'modbus-tcp', settings: { host: '127.0.0.1', port: caller.modbusPort } } },
    { kind: 'device', id: deviceId, set: { linkId, name: 'CALLER', settings: { unit: 1 }, dialect: {}, witnessUrl: '' } },
    tag(jam, 'jam', '00003', { type: 'BOOL', access: 'read' }),
    tag(acked, 'jam_acked', '00004', { type: 'BOOL' }),
    tag(level, 'level', 'HR50', { type: 'UINT', unit: '%' }),
    { kind: 'panel', id: panelId, set: { name: 'Mill', units: [], width: 800, height: 480, languages: [{ code: 'en', number: 1 }, { code: 'de', number: 2 }] } }, // prettier-ignore
    { kind: 'page', id: pageId, set: { panelId, name: 'Overview', position: 0 } },
    { kind: 'page', id: alarmsId, set: { panelId, name: 'Calls', position: 1 } },
    element('alarmBar', pageId, '', 8, 48),
    element('alarms', alarmsId, '', 8, 400, { least: 'medium' }),
  ]);
  await unlock(server.address, deviceId);
  await write(level, '50');
  bench = await openIn(0, `${server.address}/map/alarms`);
  glass = await openIn(1, `${server.address}/panel/${panelId}`);
  await glass.sees('No alarms');
});
afterAll(async () => {
  await Promise.all([...(browsers ?? []).map((browser) => browser.close()), server?.stop(), caller?.stop()]);
  data.remove();
});

test('an engineer makes an alarm of a bit with the controller’s acknowledge bit, and one of a limit', async () => {
  await bench.press('Make an alarm');
  await bench.fill('Text', 'Belt jammed at {level}');
  await bench.pickTag('Tag of the alarm', 'jam');
  await bench.choose('Priority', 'critical');
  await bench.fill('Group', 'Belt');
  await bench.fill('What to do', 'Clear the belt');
  await bench.pickTag("Controller's acknowledge bit", 'jam_acked');
  await bench.press('Make the alarm');
  await bench.sees('Belt jammed at {CALLER.level}', '[role=row]');
  await bench.sees('CALLER.jam is on', '[role=row]');
  await bench.press('Alarm');
  await bench.fill('Text', 'Level high');
  await bench.pickTag('Tag of the alarm', 'level');
  await bench.fill('Limit, %', '90');
  await bench.page.keyboard.press('Enter');
  await bench.fill('Hysteresis', '5');
  await bench.press('Make the alarm');
  await bench.sees('CALLER.level ≥ 90 %', '[role=row]');
  await bench.sees('2 alarms, 0 open');
});

test('it comes on the line of a page, which leads to the list; acknowledged, the controller is told', async () => {
  await caller.set('coil2', true);
  await glass.sees('Belt jammed at 50 %', '[data-alarm-bar="unacked"]');
  await bench.sees('active', '[data-alarm=unacked]');
  await glass.press('Alarms', 'main');
  await shows('unacked', 'Belt jammed at 50 %');
  await glass.press('Acknowledge', 'li');
  await shows('acked', 'active, acknowledged');
  await until('the controller is told', async () => String(await caller.value('coils'))[3] === '1');
  await caller.set('coil2', false);
  await glass.sees('No alarms', 'main');
});

test('gone before anybody saw it, it stays, and the controller’s bit acknowledges it', async () => {
  await caller.set('coil3', false);
  await caller.set('coil2', true);
  await shows('unacked');
  await caller.set('coil2', false);
  await shows('returned', 'gone, not acknowledged');
  await caller.set('coil3', true);
  await glass.sees('No alarms', 'main');
});

test('it is shelved with a reason and comes back from the shelf; all of them are acknowledged at once', async () => {
  await caller.set('coil2', true);
  await write(level, '95');
  await shows('unacked', 'Belt jammed');
  await shows('unacked', 'Level high');
  await glass.press('Belt jammed', 'main');
  await glass.sees('Clear the belt', 'dialog');
  await glass.press('Shelve', 'dialog');
  await glass.fill('Why', 'sensor is being changed', 'dialog');
  await glass.press('1 h', 'dialog');
  await glass.press('Shelve', 'dialog');
  await shows('shelved', 'sensor is being changed');
  await glass.press('Acknowledge all');
  await shows('acked', 'Level high');
  await glass.press('Belt jammed', 'main');
  await glass.press('Back from the shelf', 'dialog');
  await shows('unacked', 'Belt jammed');
  await glass.press('Acknowledge all');
  await shows('acked', 'Belt jammed');
});

test('out of service and in again by the engineer; one of a priority that the list leaves out is not on it', async () => {
  await bench.press('Belt jammed');
  const flag = await bench.field('In service');
  await flag.click();
  await bench.press('Keep');
  await shows('out', 'Belt jammed');
  await bench.press('Belt jammed');
  await (await bench.field('In service')).click();
  await bench.choose('Priority', 'low');
  await bench.press('Keep');
  await glass.page.waitForFunction(() => !document.querySelector('main ul')?.textContent?.includes('Belt jammed'));
  expect(await row('Level high')).not.toBe('');
});

test('what became of them is listed on the glass and in the bench', async () => {
  await glass.press('Before');
  await glass.sees('Level high', 'main');
  await glass.sees('acknowledged', 'main');
  // What was of a priority that it shows then is there; what came after is not.
  await glass.sees('out of service', 'main');
  expect(await glass.text('main')).not.toContain('in service again');
  await bench.press('What became of them');
  await bench.fill('Find in what became of alarms', 'sensor is being changed');
  await bench.sees('1 record');
  await bench.sees('Belt jammed at');
});

test('in another language texts keep their values; a server that is silent leaves no alarm looking live', async () => {
  const source = 'Level high';
  const translated = [
    { source, text: 'Füllstand hoch' },
    { source: 'Acknowledge all', text: 'Alle quittieren' },
    { source: 'Now', text: 'Jetzt' },
  ];
  await sendCommand(
    server.address,
    'texts',
    translated.map((one) => ({ kind: 'translation' as const, id: uuid(), set: { language: 'de', ...one } })),
  ).catch(() => undefined);
  await glass.page.evaluate((id) => localStorage.setItem(`language of ${id}`, '2'), panelId);
  await glass.page.reload();
  await glass.press('Calls', 'nav').catch(() => undefined);
  await glass.sees('Füllstand hoch', 'main');
  await glass.sees('Alle quittieren', 'main');
  expect([...bench.complaints, ...glass.complaints]).toEqual([]);
  await server.stop();
  await glass.sees('Alarms are not live', 'main');
  expect(await glass.text('main ul')).toBe('');
});
