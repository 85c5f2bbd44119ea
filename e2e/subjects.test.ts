/** One page for the eight stands of a line, chosen from an overview: drawn once, read for one, written for the one that is seen. */
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import type { Browser } from 'puppeteer-core';
import { v7 as uuid } from 'uuid';
import { newAction } from '@/core/panel/actions.ts';
import { startStandin, type RunningStandin } from '../tests/support/standin.ts';
import { newTag } from '../tests/support/newTag.ts';
import { freePort, newFolder, startServer, type RunningServer } from '../tests/support/server.ts';
import { until } from '../tests/support/until.ts';
import { openBrowser, Screen } from './browser.ts';
import { sendCommand } from './sendCommand.ts';

const data = newFolder();
const [linkId, panelId, overviewId, pageId] = [uuid(), uuid(), uuid(), uuid()];
const STANDS = [1, 2, 3, 4, 5, 6, 7, 8] as const;
const devices = STANDS.map(() => uuid());
const ids = new Map<string, string>();
let browser: Browser;
let server: RunningServer;
let rolls: RunningStandin;
let bench: Screen;
let glass: Screen;

const tag = (n: number, name: string, address: string, more: object) => {
  const id = uuid();
  ids.set(name, id);
  return { kind: 'tag' as const, id, set: { ...newTag(devices[n - 1] ?? '', name, address, { periodMs: 1000 }), ...more } };
};
const element = (kind: string, label: string, name: string | null, at: readonly [number, number, number, number], settings: object = {}) => ({
  kind: 'element' as const,
  id: uuid(),
  set: { pageId, kind, tagId: name === null ? null : (ids.get(name) ?? ''), label, x: at[0], y: at[1], w: at[2], h: at[3], settings },
});
const tile = (label: string): string => `[data-label="${label}"]`;
/** What the controllers' own process says. */
const real = (name: string): Promise<number> => rolls.value(name) as Promise<number>;
const shown = (label: string): Promise<string> => glass.page.$eval(`${tile(label)} [data-drawn]`, (e) => e.textContent ?? '');
async function requests(): Promise<number> {
  const plan = (await (await fetch(`${server.address}/api/v1/links/${linkId}/bus`)).json()) as { groups: { requests: unknown[] }[] };
  return plan.groups.reduce((sum, group) => sum + group.requests.length, 0);
}
const listOf = async (): Promise<{ id: string }> => {
  const { subjectLists } = (await (await fetch(`${server.address}/api/v1/project`)).json()) as { subjectLists: { id: string }[] };
  return subjectLists[0] ?? { id: '' };
};
const DIALOG = 'dialog[open]';

beforeAll(async () => {
  [browser, server, rolls] = await Promise.all([openBrowser(), startServer(data.folder, await freePort()), startStandin('rolls')]);
  await sendCommand(server.address, 'eight stands', [
    { kind: 'link', id: linkId, set: { name: 'Line', driver: 'modbus-gateway', settings: { host: '127.0.0.1', port: rolls.modbusPort, speed: 19200, parity: 'even', gatewayMs: 300 } } }, // prettier-ignore
    ...STANDS.flatMap((n) => [
      { kind: 'device' as const, id: devices[n - 1] ?? '', set: { linkId, name: `ROLLS ${n}`, settings: { unit: n }, dialect: { countingBase: 0, order32: 'CDAB' }, witnessUrl: '', reads: 'shown' } }, // prettier-ignore
      tag(n, `s${n}_gap_sp`, '40000', { type: 'UINT', unit: 'mm', access: 'readWrite' }),
      // The fifth stand calls it otherwise, and has no vibration.
      tag(n, n === 5 ? 'roll_gap' : `s${n}_gap`, '40001', { type: 'UINT', unit: 'mm', access: 'read' }),
      ...(n === 5 ? [] : [tag(n, `s${n}_vibration`, '30000', { type: 'UINT', access: 'read' })]),
      tag(n, `s${n}_speed`, '40004', { type: 'UINT', access: 'read' }),
      tag(n, `s${n}_running`, '40010.0', { type: 'BOOL', access: 'read' }),
    ]),
  ]);
  for (const n of STANDS) {
    await sendCommand(server.address, 'in thousandths', [
      { kind: 'scale', id: ids.get(`s${n}_gap_sp`) ?? '', set: { scale: { kind: 'power', exponent: -3 } } },
    ]);
  }
  await sendCommand(server.address, 'pages', [
    { kind: 'panel', id: panelId, set: { name: 'Line', units: [], width: 800, height: 480 } },
    { kind: 'page', id: overviewId, set: { panelId, name: 'Overview', position: 0 } },
    { kind: 'page', id: pageId, set: { panelId, name: 'Stand {subject}', position: 1 } },
    element('subject', 'Which stand', null, [8, 8, 780, 56]),
    element('frame', 'Stand {subject}', null, [8, 80, 400, 300]),
    element('value', 'Gap', 's1_gap', [24, 100, 160, 64]),
    element('entry', 'Set point', 's1_gap_sp', [200, 100, 160, 64]),
    element('value', 'Vibration', 's1_vibration', [24, 180, 160, 64]),
    element('lamp', 'Turns', 's1_running', [200, 180, 160, 64]),
  ]);
  for (const deviceId of devices) {
    const body = JSON.stringify({ deviceId, minutes: 60, who: 'R. Vale', writers: ['panel'] });
    const headers = { 'content-type': 'application/json', origin: server.address };
    expect((await fetch(`${server.address}/api/v1/guard/unlock`, { method: 'POST', headers, body })).status).toBe(200);
  }
}, 60_000);
afterAll(async () => {
  await browser?.close();
  await Promise.all([server?.stop(), rolls?.stop()]);
  data.remove();
});

test('an engineer says which things are like the first, maps what one of them calls otherwise once, and sees what it saves', async () => {
  bench = await Screen.open(browser, `${server.address}/panels?panel=${panelId}&page=${pageId}`);
  await bench.press('Subjects');
  await bench.press('New subjects', DIALOG);
  const first = devices[0] ?? '';
  await bench.choose('Add a subject', `device ${first}`, DIALOG);
  await bench.press('Add 7 like ones', DIALOG);
  await bench.sees('s1_ → s8_', DIALOG);
  for (const n of STANDS) {
    await bench.fill(`Name of ${n}`, String(n), DIALOG);
    await bench.page.keyboard.press('Tab');
  }
  await bench.press('◑ 2 to map', DIALOG);
  await bench.choose('s1_gap is called', 'roll_gap', DIALOG);
  await bench.choose('s1_vibration is called', '-', DIALOG);
  await bench.sees('2 mapped', DIALOG);
  await bench.sees('1 page instead of 8; 4 tags on it instead of 31.', DIALOG);
  await bench.sees('Only those of the chosen one are read.', DIALOG);
  await bench.press('Close', DIALOG);
  expect(bench.complaints).toEqual([]);
}, 90_000);

test('an overview has a button for each, made by multiplying one', async () => {
  const button = (n: number) => ({ actions: [newAction('subject', { pageId, value: String(n) })] });
  await sendCommand(server.address, 'buttons', STANDS.map((n) => ({ kind: 'element', id: uuid(), set: { pageId: overviewId, kind: 'button', tagId: null, label: `Stand ${n}`, x: 8 + (n - 1) * 96, y: 8, w: 90, h: 60, settings: button(n) } }))); // prettier-ignore
  glass = await Screen.open(browser, `${server.address}/panel/${panelId}?page=${overviewId}`);
  await glass.press('Stand 3', 'main');
  await glass.sees('Stand 3', 'h1');
  await until('its gap is shown', async () => (await shown('Gap')) === String(Math.round((await real('s3_gap')) * 1000)), 15_000);
  expect(await glass.page.$eval(`${tile('Which stand')} [aria-checked="true"]`, (e) => e.textContent?.trim())).toBe('● 3');
}, 60_000);

test('only the chosen one is read: the bus carries what one stand needs, whichever it is', async () => {
  await bench.page.close();
  // Holding and input registers of one device.
  await until('the bus has what one stand needs', async () => (await requests()) <= 3);
  const one = await requests();
  expect(one).toBeGreaterThan(1);
  await glass.press('7', tile('Which stand'));
  await until('stand 7 is shown', async () => (await shown('Gap')) === String(Math.round((await real('s7_gap')) * 1000)), 15_000);
  expect(await requests()).toBe(one);
  const headers = { 'content-type': 'application/json', origin: server.address };
  const all = devices.map((id) => ({ kind: 'device', id, set: { reads: 'always' } }));
  await sendCommand(server.address, 'read always', all);
  // The fifth has no input register.
  expect(await requests()).toBeGreaterThanOrEqual(8 * one - 1);
  expect((await fetch(`${server.address}/api/v1/undo`, { method: 'POST', headers, body: '{}' })).status).toBe(200);
  await until('one is read again', async () => (await requests()) === one);
}, 60_000);

test('what is entered goes to the stand that is seen', async () => {
  const before = await real('s1_gap_sp');
  await glass.press('Set point', 'main');
  await glass.find(DIALOG);
  await glass.page.keyboard.type('0.6');
  await glass.page.keyboard.press('Enter');
  await until('stand 7 has it', async () => Math.abs((await real('s7_gap_sp')) - 0.6) < 1e-9);
  expect(await real('s1_gap_sp')).toBe(before);
}, 60_000);

test('of the fifth its own name is read, and what it does not have is hidden, or said', async () => {
  await glass.press('5', tile('Which stand'));
  await until('stand 5 is shown', async () => (await shown('Gap')) === String(Math.round((await real('s5_gap')) * 1000)), 15_000);
  expect(await glass.page.$(tile('Vibration'))).toBeNull();
  await sendCommand(server.address, 'says so', [{ kind: 'page', id: pageId, set: { absent: 'say' } }]);
  await glass.sees('5 has none', 'main');
}, 60_000);

test('what is being entered for one is not taken for another that is shown meanwhile, and a trend begins anew', async () => {
  const [chooser, listId] = [uuid(), (await listOf()).id];
  const set = { name: 'stand_no', source: { kind: 'local' }, type: 'UINT', access: 'readWrite', unit: '', decimals: null, rangeLow: null, rangeHigh: null, comment: '', listId: '', initial: '3' }; // prettier-ignore
  await sendCommand(server.address, 'chosen by a tag', [
    { kind: 'tag', id: chooser, set },
    { kind: 'subjectList', id: listId, set: { tagId: chooser } },
    element('trend', 'Trend', 's1_gap_sp', [420, 80, 360, 200]),
  ]);
  const choose = async (value: string): Promise<void> => {
    const body = JSON.stringify({ id: uuid(), value, origin: 'engineer' });
    const headers = { 'content-type': 'application/json', origin: server.address };
    expect((await fetch(`${server.address}/api/v1/tags/${chooser}/write`, { method: 'POST', headers, body })).status).toBe(200);
    await glass.sees(`Stand ${value}`, 'h1');
  };
  await glass.sees('Stand 3', 'h1');
  await glass.find(tile('Trend'));
  await new Promise((resolve) => setTimeout(resolve, 2500));
  await glass.press('Set point', 'main');
  await glass.find(DIALOG);
  await glass.page.keyboard.type('0.9');
  const before = await real('s4_gap_sp');
  await choose('4');
  await until('the pad has gone', async () => (await glass.page.$(DIALOG)) === null);
  await glass.page.keyboard.press('Enter');
  await new Promise((resolve) => setTimeout(resolve, 1500));
  expect([await real('s4_gap_sp'), (await real('s3_gap_sp')) === 0.9]).toEqual([before, false]);
  // The set points differ: a line that joins them would be of no stand.
  const lines = await glass.page.$$eval(`${tile('Trend')} path.recharts-line-curve, ${tile('Trend')} .recharts-line path`, (all) => all.map((path) => path.getAttribute('d') ?? '')); // prettier-ignore
  const heights = new Set(lines.flatMap((d) => [...d.matchAll(/[ML](-?[\d.]+),(-?[\d.]+)/g)].map((match) => Math.round(Number(match[2])))));
  expect(heights.size).toBeLessThanOrEqual(1);
  await sendCommand(server.address, 'chosen by the glass', [{ kind: 'subjectList', id: listId, set: { tagId: null } }]);
  // What is pressed before the glass has heard of it would be written to the tag, and shown nowhere.
  await glass.sees('Stand 5', 'h1');
}, 60_000);

test('a stand that is removed while it is shown leaves no value behind, and says so', async () => {
  await glass.press('8', tile('Which stand'));
  await until('stand 8 is shown', async () => (await shown('Gap')) === String(Math.round((await real('s8_gap')) * 1000)), 15_000);
  await sendCommand(server.address, 'gone', [{ kind: 'device', id: devices[7] ?? '', set: null }]);
  await glass.sees('it is not there any more', '[role="alert"]');
  expect(await glass.page.$$('[data-drawn]')).toHaveLength(0);
  await glass.press('2', tile('Which stand'));
  await until('stand 2 is shown', async () => (await shown('Gap')) === String(Math.round((await real('s2_gap')) * 1000)), 15_000);
  expect(glass.complaints).toEqual([]);
}, 60_000);
