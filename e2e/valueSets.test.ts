/** Sets of values on a glass: stored, compared with the controller, written back as one, of like things on one page. */
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import type { Browser } from 'puppeteer-core';
import { v7 as uuid } from 'uuid';
import { freePort, newFolder, startServer, type RunningServer } from '../tests/support/server.ts';
import { startStandin, type RunningStandin } from '../tests/support/standin.ts';
import { newTag } from '../tests/support/newTag.ts';
import { openBrowser, Screen } from './browser.ts';
import { sendCommand } from './sendCommand.ts';
import { unlock } from './unlock.ts';

const data = newFolder();
const [deviceId, panelId, pageId, listId] = [uuid(), uuid(), uuid(), uuid()];
const groups = [uuid(), uuid()] as const;
const tags = [
  [uuid(), uuid()],
  [uuid(), uuid()],
] as const;
let browser: Browser;
let server: RunningServer;
let caller: RunningStandin;
let glass: Screen;

const write = async (tagId: string, value: string): Promise<void> => {
  const done = await fetch(`${server.address}/api/v1/tags/${tagId}/write`, {
    method: 'POST',
    headers: { 'content-type': 'application/json', origin: server.address },
    body: JSON.stringify({ id: uuid(), value, origin: 'engineer' }),
  });
  expect(done.status).toBe(200);
};
/** What the controller holds, as the server has just read it. */
const held = async (stand: 0 | 1): Promise<readonly string[]> => {
  const log = (await (await fetch(`${server.address}/api/v1/writes?limit=20`)).json()) as { tagId: string; held: { value: string } }[];
  return tags[stand].map((id) => String(log.find(({ tagId }) => tagId === id)?.held.value ?? ''));
};

beforeAll(async () => {
  [browser, server, caller] = await Promise.all([openBrowser(), startServer(data.folder, await freePort()), startStandin('caller')]);
  const linkId = uuid();
  const tag = (stand: 0 | 1, at: 0 | 1, name: string, address: string) => ({
    kind: 'tag' as const,
    id: tags[stand][at],
    set: { ...newTag(deviceId, name, address), type: 'UINT', unit: 'mm', groupId: groups[stand] },
  });
  await sendCommand(server.address, 'a controller', [
    { kind: 'link', id: linkId, set: { name: 'Line', driver: 'modbus-tcp', settings: { host: '127.0.0.1', port: caller.modbusPort } } },
    { kind: 'device', id: deviceId, set: { linkId, name: 'CALLER', settings: { unit: 1 }, dialect: {}, witnessUrl: '' } },
    ...groups.map((id, i) => ({ kind: 'group' as const, id, set: { deviceId, parentId: null, name: `Stand ${i + 1}` } })),
    tag(0, 0, 'gap', 'HR40'),
    tag(0, 1, 'feed', 'HR41'),
    tag(1, 0, 'gap', 'HR42'),
    tag(1, 1, 'feed', 'HR43'),
    { kind: 'subjectList', id: listId, set: { name: 'Stands', tagId: null, subjects: groups.map((id, i) => ({ of: 'group', id, number: i + 1, text: `Stand ${i + 1}`, find: '', put: '', renames: [] })) } }, // prettier-ignore
    { kind: 'panel', id: panelId, set: { name: 'Mill', units: [], width: 800, height: 480 } },
    { kind: 'page', id: pageId, set: { panelId, name: 'Rolls', position: 0, subjectListId: listId } },
    { kind: 'element', id: uuid(), set: { pageId, kind: 'subject', tagId: null, label: '', x: 8, y: 8, w: 400, h: 48, settings: {} } },
    { kind: 'element', id: uuid(), set: { pageId, kind: 'sets', tagId: null, label: '', x: 8, y: 64, w: 600, h: 300, settings: { name: 'Recipes', members: [...tags[0]] } } }, // prettier-ignore
  ]);
  await unlock(server.address, deviceId);
  for (const [id, value] of [[tags[0][0], '21'], [tags[0][1], '22'], [tags[1][0], '31'], [tags[1][1], '32']] as const) await write(id, value); // prettier-ignore
  glass = await Screen.open(browser, `${server.address}/panel/${panelId}`);
  await glass.sees('21 mm');
});
afterAll(async () => {
  await browser?.close();
  await Promise.all([server?.stop(), caller?.stop()]);
  data.remove();
});

test('what the controller holds is stored under a name, and is what it holds until something changes', async () => {
  await glass.sees('Nothing is stored yet');
  await glass.press('Store', 'main');
  await glass.fill('Name of the set', 'Thin', 'dialog');
  await glass.press('Store', 'dialog');
  await glass.sees('The controller holds it');
  await write(tags[0][0], '99');
  await glass.sees('1 of 2 differ');
  await glass.sees('→ 21 mm');
});

test('it is written back as one, when a person has said so', async () => {
  await glass.press('Write it', 'main');
  await glass.sees('Write its 2 values to the controller?', 'dialog');
  await glass.press('Write it', 'dialog');
  await glass.sees('The controller holds it');
  expect(await held(0)).toEqual(['21', '22']);
});

test('of another of the like things it writes the tags of that one, and no other', async () => {
  await glass.press('Stand 2', 'main');
  await glass.sees('31 mm');
  await glass.choose('Recipes', await glass.page.$eval('select option:nth-child(2)', (option) => option.value));
  await glass.sees('2 of 2 differ');
  await glass.press('Write it', 'main');
  await glass.press('Write it', 'dialog');
  await glass.sees('The controller holds it');
  expect(await held(1)).toEqual(['21', '22']);
  await write(tags[1][1], '5');
  await glass.press('Store', 'main');
  await glass.fill('Name of the set', 'Thick', 'dialog');
  await glass.press('Store', 'dialog');
  await glass.sees('The controller holds it');
  await glass.press('Stand 1', 'main');
  await glass.sees('22 mm');
});

test('it is removed for good when a person has said so; a refused write says that nothing was written', async () => {
  await glass.choose('Recipes', await glass.page.$$eval('select option', (all) => all.find((one) => one.textContent === 'Thick')?.value ?? ''));
  await glass.sees('→ 5 mm');
  await fetch(`${server.address}/api/v1/guard/lock`, { method: 'POST', headers: { 'content-type': 'application/json', origin: server.address }, body: '{}' }); // prettier-ignore
  await glass.press('Write it', 'main');
  await glass.press('Write it', 'dialog');
  await glass.sees('Nothing was written.');
  await glass.press('Remove', 'main');
  await glass.press('Remove', 'dialog');
  await glass.page.waitForFunction(() => ![...document.querySelectorAll('option')].some((one) => one.textContent === 'Thick'));
  expect(glass.complaints).toEqual([]);
});
