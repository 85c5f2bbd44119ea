/** A pick list whose items are strings of the controller: laid out by length, counted by a word, read when they are wanted. */
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import type { Browser } from 'puppeteer-core';
import { v7 as uuid } from 'uuid';
import { startStandin, type RunningStandin } from '../tests/support/standin.ts';
import { newTag } from '../tests/support/newTag.ts';
import { freePort, newFolder, startServer, type RunningServer } from '../tests/support/server.ts';
import { until } from '../tests/support/until.ts';
import { openBrowser, Screen } from './browser.ts';
import { sendCommand } from './sendCommand.ts';

const data = newFolder();
const [linkId, deviceId, panelId, pageId, otherId, countId] = [uuid(), uuid(), uuid(), uuid(), uuid(), uuid()];
let browser: Browser;
let server: RunningServer;
let caller: RunningStandin;
let glass: Screen;

/** Common practice: strings of five words each from word 2 on lie at 2, 7, 12, 17, 22; here a hundred words further. */
const WORDS = [102, 107, 112, 117, 122];
const names = WORDS.map(() => uuid());
const tag = (id: string, name: string, address: string, more: object = {}) => ({
  kind: 'tag' as const,
  id,
  set: { ...newTag(deviceId, name, address), type: 'UINT', ...more },
});
const picked = uuid();
const pickedName = uuid();
const DIALOG = 'dialog[open]';
const items = (): Promise<string[]> => glass.page.$$eval(`${DIALOG} [role="option"]`, (all) => all.map((e) => (e as HTMLElement).innerText.trim()));
const listIs = (...texts: readonly string[]) => until(`the list is ${texts.join(', ')}`, async () => JSON.stringify(await items()) === JSON.stringify(texts)); // prettier-ignore
async function requests(): Promise<number> {
  const plan = (await (await fetch(`${server.address}/api/v1/links/${linkId}/bus`)).json()) as { groups: { requests: { tags: number }[] }[] };
  return plan.groups.reduce((sum, group) => sum + group.requests.reduce((n, { tags }) => n + tags, 0), 0);
}

beforeAll(async () => {
  [browser, server, caller] = await Promise.all([openBrowser(), startServer(data.folder, await freePort()), startStandin('caller')]);
  const pick = (label: string, tagId: string, y: number, settings: object) => ({
    kind: 'element' as const,
    id: uuid(),
    set: { pageId, kind: 'pick', tagId, label, x: 8, y, w: 260, h: 72, settings: { from: 'tags', itemTags: names, count: { by: `@${countId}` }, ...settings } }, // prettier-ignore
  });
  await sendCommand(server.address, 'recipes in a controller', [
    { kind: 'link', id: linkId, set: { name: 'Line', driver: 'modbus-tcp', settings: { host: '127.0.0.1', port: caller.modbusPort } } },
    { kind: 'device', id: deviceId, set: { linkId, name: 'CALLER', settings: { unit: 1 }, dialect: {}, witnessUrl: '', reads: 'shown' } },
    tag(countId, 'recipe_count', 'HR100', { access: 'read' }),
    tag(picked, 'recipe_number', 'HR101'),
    tag(pickedName, 'recipe_name', 'HR130', { type: 'STRING(10)' }),
    ...WORDS.map((word, i) => tag(names[i] ?? '', `recipe_${i + 1}`, `HR${word}`, { type: 'STRING(10)', access: 'read' })),
    { kind: 'panel', id: panelId, set: { name: 'Recipes', units: [], width: 800, height: 480 } },
    { kind: 'page', id: pageId, set: { panelId, name: 'Recipes', position: 0 } },
    { kind: 'page', id: otherId, set: { panelId, name: 'Other', position: 1 } },
    pick('Number', picked, 8, { readWhen: 'asked', writesWhat: 'place' }),
    pick('Name', pickedName, 100, { readWhen: 'start' }),
    pick('Opening', pickedName, 200, { readWhen: 'opening' }),
    pick('Rising', pickedName, 300, { readWhen: 'asked', readOn: { by: `@${countId} = 5` } }),
  ]);
  const headers = { 'content-type': 'application/json', origin: server.address };
  const body = JSON.stringify({ deviceId, minutes: 60, who: 'R. Vale', writers: ['panel'] });
  expect((await fetch(`${server.address}/api/v1/guard/unlock`, { method: 'POST', headers, body })).status).toBe(200);
  glass = await Screen.open(browser, `${server.address}/panel/${panelId}`);
});
afterAll(async () => {
  await browser?.close();
  await Promise.all([server?.stop(), caller?.stop()]);
  data.remove();
});

test('items are read when somebody asks for them, as many as there are, and the place of the one that is picked is written', async () => {
  await glass.press('Pick Number', 'main');
  await glass.sees('Not read yet.', DIALOG);
  await glass.press('Read', DIALOG);
  await listIs('THIN', 'REGULAR', 'JUMBO');
  await glass.sees('Read at', DIALOG);
  await glass.press('JUMBO', DIALOG);
  await until('the controller has its place', async () => (await caller.value('picked')) === 2);
}, 60_000);

test('once they are read the bus carries none of them', async () => {
  await until('only what the page shows is read', async () => (await requests()) <= 3);
});

test('those that were read at the start are there at once, and the name that was seen is written', async () => {
  await glass.press('Pick Name', 'main');
  await listIs('THIN', 'REGULAR', 'JUMBO');
  await glass.press('REGULAR', DIALOG);
  await until('the controller has the name', async () => (await caller.value('pickedName')) === 'REGULAR');
}, 60_000);

test('a name that is another one now is not written: the list is read again first', async () => {
  await caller.set('recipes', 'THIN|THICK|JUMBO');
  await glass.press('Pick Name', 'main');
  await listIs('THIN', 'REGULAR', 'JUMBO');
  await glass.press('REGULAR', DIALOG);
  await glass.sees('The item is “THICK” now.', '[data-sonner-toast]');
  expect(await caller.value('pickedName')).toBe('REGULAR');
  await glass.press('Read again', DIALOG);
  await listIs('THIN', 'THICK', 'JUMBO');
  await glass.press('THICK', DIALOG);
  await until('the controller has the name', async () => (await caller.value('pickedName')) === 'THICK');
}, 60_000);

test('they are read again when the page opens, and when a condition comes true', async () => {
  await caller.set('recipes', 'A|B|C|D');
  await glass.press('Other', 'nav');
  await glass.press('Recipes', 'nav');
  await glass.press('Pick Opening', 'main');
  await listIs('A', 'B', 'C', 'D');
  await glass.press('Cancel', DIALOG);
  await glass.press('Pick Rising', 'main');
  await glass.sees('Not read yet.', DIALOG);
  await caller.set('recipes', 'A|B|C|D|E');
  await listIs('A', 'B', 'C', 'D', 'E');
  await glass.press('Cancel', DIALOG);
  expect(glass.complaints).toEqual([]);
}, 60_000);
