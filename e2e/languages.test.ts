/** A panel in two languages: switched by a button and by the controller, out to a translator and in again, and checked in each. */
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import * as XLSX from '@e965/xlsx';
import type { Browser } from 'puppeteer-core';
import { v7 as uuid } from 'uuid';
import { startStandin, type RunningStandin } from '../tests/support/standin.ts';
import { newTag } from '../tests/support/newTag.ts';
import { freePort, newFolder, startServer, type RunningServer } from '../tests/support/server.ts';
import { until } from '../tests/support/until.ts';
import { openBrowser, Screen } from './browser.ts';
import { sendCommand } from './sendCommand.ts';
import { unlock } from './unlock.ts';

const data = newFolder();
const [deviceId, panelId, pageId] = [uuid(), uuid(), uuid()];
const [state, wanted, told, count] = [uuid(), uuid(), uuid(), uuid()];
let browsers: Browser[];
let server: RunningServer;
let caller: RunningStandin;
let bench: Screen;
let glass: Screen;

const element = (kind: string, tagId: string | null, label: string, y: number, settings: object = {}) => ({
  kind: 'element' as const,
  id: uuid(),
  set: { pageId, kind, tagId, label, x: 8, y, w: 260, h: 56, settings },
});
const states = ['STOPPED', 'RUNS'].map((text, at) => ({ at, to: null, text, look: at === 0 ? 'off' : 'on', symbol: null }));
const speak = (value: string) => ({ actions: [{ act: 'language', tagId: null, value, pageId: null }] });
const openIn = async (n: number, address: string): Promise<Screen> => {
  const browser = browsers[n];
  if (!browser) throw new Error('no such window');
  return Screen.open(browser, address);
};
const texts = (): Promise<string> => glass.page.evaluate(() => document.querySelector('[data-panel]')?.textContent ?? '');
const write = (tagId: string, value: string): Promise<Response> =>
  fetch(`${server.address}/api/v1/tags/${tagId}/write`, {
    method: 'POST',
    headers: { 'content-type': 'application/json', origin: server.address },
    body: JSON.stringify({ id: uuid(), value, origin: 'engineer' }),
  });
const read = async (file: string | Uint8Array<ArrayBuffer>) => {
  const body = new Blob([file]);
  const headers = { 'content-type': 'application/octet-stream', origin: server.address };
  const answer = await fetch(`${server.address}/api/v1/panels/${panelId}/texts`, { method: 'POST', headers, body });
  return (await answer.json()) as {
    changes: { source: string; after: string }[];
    problems: { place: string; message: string }[];
    unknown: number;
    title?: string;
  };
};

beforeAll(async () => {
  [browsers, server, caller] = await Promise.all([
    Promise.all([openBrowser(), openBrowser()]),
    startServer(data.folder, await freePort()),
    startStandin('caller'),
  ]);
  const linkId = uuid();
  const tag = (id: string, name: string, address: string, more: object = {}) => ({
    kind: 'tag' as const,
    id,
    set: { ...newTag(deviceId, name, address), type: 'UINT', ...more },
  });
  await sendCommand(server.address, 'a controller', [
    { kind: 'link', id: linkId, set: { name: 'Line', driver: 'modbus-tcp', settings: { host: '127.0.0.1', port: caller.modbusPort } } },
    { kind: 'device', id: deviceId, set: { linkId, name: 'CALLER', settings: { unit: 1 }, dialect: {}, witnessUrl: '' } },
    tag(state, 'state', 'HR40'),
    tag(count, 'count', 'HR41', { names: [{ value: 7, name: 'full' }] }),
    tag(wanted, 'wanted', 'HR42'),
    tag(told, 'told', 'HR43'),
    { kind: 'panel', id: panelId, set: { name: 'Mill', units: [], width: 800, height: 480, languages: [{ code: 'en', number: 1 }, { code: 'de', number: 2 }] } }, // prettier-ignore
    { kind: 'page', id: pageId, set: { panelId, name: 'Rolls', position: 0 } },
    element('lamp', state, 'Drive', 8, { states }),
    element('value', count, 'Bags', 70),
    element('text', null, '', 132, { template: `{@${count}} bags, state {@${state}}` }),
    element('text', state, '', 190, { template: 'It {state} now', states }),
    element('button', null, 'German', 250, speak('2')),
    element('button', null, 'English', 320, speak('1')),
    { kind: 'panelWord', id: uuid(), set: { panelId, role: 'language', tagId: wanted, elementId: null } },
    { kind: 'panelWord', id: uuid(), set: { panelId, role: 'languageShown', tagId: told, elementId: null } },
  ]);
  await unlock(server.address, deviceId);
  bench = await openIn(0, `${server.address}/panels`);
  glass = await openIn(1, `${server.address}/panel/${panelId}`);
  await glass.sees('STOPPED');
});
afterAll(async () => {
  await Promise.all([...(browsers ?? []).map((browser) => browser.close()), server?.stop(), caller?.stop()]);
  data.remove();
});

test('texts go out with what is missing, and come back from a translator whose lines end otherwise', async () => {
  const csv = await (await fetch(`${server.address}/api/v1/panels/${panelId}/texts`)).text();
  expect(csv.split('\r\n')[0]?.replace('\uFEFF', '')).toBe('Text,Where,de,de: note');
  expect(csv).toContain('Drive,Rolls: Drive,,missing');
  expect(csv).toContain('full,"Rolls: Bags, text",,missing');
  const filled = ['Text\tde', 'Drive\tAntrieb', 'RUNS\tLÄUFT', 'STOPPED\tSTEHT', '"{1} bags, state {2}"\t"Zustand {2}, {1} Säcke"', 'It {state} now\tJetzt: {state}', 'full\tvoll', 'Bags\tSäcke', 'Rolls\tWalzen', 'writing open\tSchreiben frei', 'Nothing here\tNichts']; // prettier-ignore
  for (const end of ['\r\n', '\r', '\n']) {
    const found = await read(filled.join(end));
    expect([found.changes.length, found.problems.length, found.unknown]).toEqual([9, 0, 1]);
  }
  // As an old spreadsheet writes it (Windows-1252).
  expect((await read(new Uint8Array(Buffer.from(filled.join('\r\n'), 'latin1')))).changes.find(({ source }) => source === 'RUNS')?.after).toBe(
    'LÄUFT',
  );
  const lost = await read('Text,de\n"{1} bags, state {2}",{1} Säcke\n');
  expect(lost.problems).toEqual([expect.objectContaining({ place: 'row 2, de', message: 'It leaves out {2}.' })]);
  expect((await read('a,b\n1,2\n')).title).toBe('There is no column “Text” in the file.');
  const sheet = XLSX.utils.aoa_to_sheet(filled.map((line) => line.replaceAll('"', '').split('\t')));
  const book = XLSX.write(XLSX.utils.book_new(sheet, 'Texts'), { type: 'array', bookType: 'xlsx' }) as ArrayBuffer;
  expect((await read(new Uint8Array(book))).changes).toHaveLength(9);
}, 60_000);

test('the file is taken in with its differences told first, and one step takes it back', async () => {
  await bench.press('Languages');
  await bench.sees('23 missing'.slice(3), 'dialog[open]');
  const drop = await bench.page.waitForSelector('dialog[open] input[type="file"]');
  const { writeFileSync } = await import('node:fs');
  const file = `${data.folder}/texts.csv`;
  writeFileSync(
    file,
    'Text,de\r\nDrive,Antrieb\r\nRUNS,LÄUFT\r\nSTOPPED,STEHT\r\n"{1} bags, state {2}","Zustand {2}, {1} Säcke"\r\nIt {state} now,Jetzt: {state}\r\nfull,voll\r\nwriting open,Schreiben frei\r\n',
  );
  await (drop as unknown as { uploadFile(path: string): Promise<void> }).uploadFile(file);
  await bench.sees('7 translations would change (German).', 'dialog[open]');
  await bench.press('Take in 7 translations', 'dialog[open]');
  await bench.sees('7 translations taken in', '[data-sonner-toast]');
}, 60_000);

test('a button switches at once, numbers stay, and the controller is told', async () => {
  await write(state, '1');
  await write(count, '7');
  await glass.sees('RUNS');
  await until('told', async () => (await values(told)) === '1');
  await glass.press('German');
  await glass.sees('LÄUFT');
  expect(await texts()).toContain('Zustand 1, voll Säcke');
  expect(await texts()).toContain('Jetzt: LÄUFT');
  expect(await texts()).toContain('Schreiben frei');
  await until('told', async () => (await values(told)) === '2');
  await write(count, '12');
  await glass.page.waitForFunction(() => document.body.innerText.includes('Zustand 1, 12 Säcke'));
}, 60_000);

test('a glass that is opened again speaks as it did; the controller switches it, and a number of no language changes nothing', async () => {
  await glass.page.reload();
  await glass.sees('LÄUFT');
  await write(wanted, '1');
  await glass.sees('RUNS');
  await write(wanted, '9');
  await glass.press('German');
  await glass.sees('LÄUFT');
  await write(wanted, '1');
  await glass.sees('RUNS');
}, 60_000);

test('what is drawn in another language is checked as what it is there', async () => {
  await glass.press('German');
  await glass.sees('LÄUFT');
  const headers = { 'content-type': 'application/json', origin: server.address };
  const answer = await fetch(`${server.address}/api/v1/checks`, {
    method: 'POST',
    headers,
    body: JSON.stringify({ tagId: state, witness: { kind: 'none' } }),
  });
  const { pages } = (await answer.json()) as { pages: { label: string; drawn: string; expected: string; verdict: string }[] };
  expect(pages.filter(({ label }) => label === 'Drive')).toEqual([
    expect.objectContaining({ drawn: 'LÄUFT', expected: 'LÄUFT', verdict: 'consistent' }),
  ]);
  expect([...glass.complaints, ...bench.complaints]).toEqual([]);
}, 60_000);

async function values(tagId: string): Promise<string> {
  const all = (await (await fetch(`${server.address}/api/v1/values`)).json()) as
    { values: { tagId: string; text: string }[] } | { tagId: string; text: string }[];
  const list = Array.isArray(all) ? all : all.values;
  return list.find((one) => one.tagId === tagId)?.text ?? '';
}
