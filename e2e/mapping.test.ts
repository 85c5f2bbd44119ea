/** Mapping through the interface: calculations over two protocols, blocks of cells, settings that are inherited, preflight. */
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { Browser } from 'puppeteer-core';
import { v7 as uuid } from 'uuid';
import { freePort, newFolder, startServer, type RunningServer } from '../tests/support/server.ts';
import { newTag } from '../tests/support/newTag.ts';
import { startKiln, startStandin, type RunningStandin } from '../tests/support/standin.ts';
import { until } from '../tests/support/until.ts';
import { openBrowser, Screen } from './browser.ts';
import { sendCommand } from './sendCommand.ts';

let browser: Browser;
let server: RunningServer;
let kiln: RunningStandin;
let pack: RunningStandin;
let bench: Screen;
const data = newFolder();
const ids = { kilnLink: uuid(), kiln: uuid(), packLink: uuid(), pack: uuid(), bed: uuid(), speed: uuid(), stand: uuid() };

interface Tag {
  readonly id: string;
  readonly name: string;
  readonly unit: string;
  readonly source: { readonly address?: string; readonly expression?: string };
}
const tags = async (): Promise<readonly Tag[]> => ((await (await fetch(`${server.address}/api/v1/project`)).json()) as { tags: Tag[] }).tags;
const addressesOf = async (...names: string[]) =>
  (await tags())
    .filter(({ name }) => names.includes(name))
    .map(({ name, source }) => `${name} ${source.address ?? ''}`)
    .sort();
const command = (label: string, changes: readonly object[]): Promise<void> => sendCommand(server.address, label, changes);

beforeAll(async () => {
  [browser, server, kiln, pack] = await Promise.all([openBrowser(), startServer(data.folder, await freePort()), startKiln(), startStandin('pack')]);
  await command('two devices', [
    { kind: 'link', id: ids.kilnLink, set: { name: 'Kiln', driver: 'modbus-tcp', settings: { host: '127.0.0.1', port: kiln.modbusPort } } },
    { kind: 'device', id: ids.kiln, set: { linkId: ids.kilnLink, name: 'KILN', settings: { unit: 1 }, dialect: {}, witnessUrl: '' } },
    { kind: 'link', id: ids.packLink, set: { name: 'Bagging', driver: 'ethernet-ip', settings: { host: '127.0.0.1', port: pack.cipPort } } },
    { kind: 'device', id: ids.pack, set: { linkId: ids.packLink, name: 'PACK', settings: { route: '1,0' }, dialect: {}, witnessUrl: '' } },
    { kind: 'tag', id: ids.bed, set: { ...newTag(ids.kiln, 'bed_temp', '40018', { order: 'CDAB' }), type: 'REAL', unit: '°C' } },
    { kind: 'tag', id: ids.speed, set: { ...newTag(ids.pack, 'line_speed', 'Line_Speed'), type: 'REAL', unit: 'm/min' } },
  ]);
  bench = await Screen.open(browser, `${server.address}/map`);
  await bench.find('[data-tag="bed_temp"]');
});
afterAll(async () => {
  await browser?.close();
  await Promise.all([server?.stop(), kiln?.stop(), pack?.stop()]);
  data.remove();
});

/** Clicks a cell of the grid; with Shift the block reaches to it. */
async function cell(tag: string, column: string, extend = false): Promise<void> {
  const { keyboard } = bench.page;
  if (extend) await keyboard.down('Shift');
  await (await bench.find(`[data-tag="${tag}"] [data-column="${column}"]`)).click();
  if (extend) await keyboard.up('Shift');
  await bench.page.focus('[role="grid"]');
}
async function chord(...keys: string[]): Promise<void> {
  const { keyboard } = bench.page;
  const last = keys.at(-1) ?? '';
  for (const key of keys.slice(0, -1)) await keyboard.down(key as 'Control');
  await keyboard.press(last as 'd');
  for (const key of keys.slice(0, -1).reverse()) await keyboard.up(key as 'Control');
}
/** As a spreadsheet leaves it on the clipboard. */
const pasteText = (text: string): Promise<void> =>
  bench.page.evaluate((cells) => {
    const clipboardData = new DataTransfer();
    clipboardData.setData('text/plain', cells);
    document.querySelector('[role="grid"]')?.dispatchEvent(new ClipboardEvent('paste', { clipboardData, bubbles: true, cancelable: true }));
  }, text);
const valueIn = (name: string): Promise<string> => bench.text(`[data-tag="${name}"] [data-value]`);

describe('a calculated tag over two devices and protocols', () => {
  test('is typed with short names, told what is wrong, and shows what it comes to', async () => {
    await bench.press('Tag', 'main');
    await bench.fill('Name', 'bed per metre', 'form[aria-label="New tag"]');
    await bench.choose('Source', 'calculated', 'form[aria-label="New tag"]');
    await (await bench.find('[data-expression] .cm-content')).click();
    await bench.page.keyboard.type('bed_temp / PACK.line_spead');
    await bench.page.keyboard.press('Escape');
    await bench.sees('There is no tag “PACK.line_spead”.');
    for (let i = 0; i < 3; i++) await bench.page.keyboard.press('Backspace');
    await bench.page.keyboard.type('eed');
    await bench.page.keyboard.press('Escape');
    await bench.sees('Gives a number, now');
    await bench.press('Make tag', 'form[aria-label="New tag"]');
    await bench.find('[data-tag="bed per metre"]');
    const made = (await tags()).find(({ name }) => name === 'bed per metre');
    expect(made?.source.expression).toBe(`@${ids.bed} / @${ids.speed}`);
    await bench.press('Close', 'form[aria-label="New tag"]');
    await until('it has a value', async () => Number(await valueIn('bed per metre')) > 0);
    const { value: bed } = (await (await fetch(`${kiln.controlUrl}/values/bed_temp`)).json()) as { value: number };
    const speed = Number(await valueIn('line_speed'));
    expect(Math.abs(Number(await valueIn('bed per metre')) * speed - bed)).toBeLessThan(bed * 0.1);
  });

  test('turns bad with the name of what is missing, and is good again by itself', async () => {
    const port = kiln.modbusPort;
    await kiln.stop();
    await until('it is bad', async () => (await valueIn('bed per metre')) === '–');
    await cell('bed per metre', 'name');
    await bench.sees('KILN.bed_temp', '[data-strip]');
    kiln = await startKiln(port);
    await until('it is good', async () => Number(await valueIn('bed per metre')) > 0, 30_000);
  });
});

describe('blocks of cells', () => {
  test('rows are pasted as new tags; what does not fit is shown, and only the rest is kept', async () => {
    await command('a stand', [{ kind: 'tag', id: ids.stand, set: { ...newTag(ids.kiln, 's1_gap', '40100', { periodMs: null }), type: 'UINT' } }]);
    await bench.fill('Find tags', 's1_');
    await cell('s1_gap', 'name');
    const row = (name: string, address: string, type: string): string => [name, '', '', address, type].join('\t');
    await pasteText(
      [row('s1_gap', '40100', 'UINT'), row('s1_force', '40101', 'REAL'), row('s1_wrong', '99999', 'INT'), row('s1_state', '40103', 'WORD')].join(
        '\n',
      ),
    );
    await bench.sees('Some of it does not fit', 'dialog');
    await bench.find('dialog [data-unfit]');
    expect(await addressesOf('s1_force')).toEqual([]);
    await bench.press('that fit', 'dialog');
    await bench.find('[data-tag="s1_state"]');
    expect(await addressesOf('s1_gap', 's1_force', 's1_wrong', 's1_state')).toEqual(['s1_force 40101', 's1_gap 40100', 's1_state 40103']);
  });

  test('a unit is filled down and undone by key', async () => {
    await command('unit', [{ kind: 'tag', id: ids.stand, set: { unit: 'mm' } }]);
    await bench.sees('mm', '[data-tag="s1_gap"]');
    const units = async (): Promise<string> =>
      (await tags())
        .filter(({ name }) => name.startsWith('s1_'))
        .map(({ unit }) => unit)
        .join();
    const shown = await bench.page.$$eval('[role="grid"] [data-tag]', (rows) => rows.map((row) => row.getAttribute('data-tag') ?? ''));
    const others = shown.filter((name) => name !== 's1_gap');
    await cell('s1_gap', 'unit');
    await cell(others.at(-1) ?? '', 'unit', true);
    await chord('Control', 'd');
    await until('it is filled', async () => (await units()).split(',').filter((unit) => unit === 'mm').length >= 2);
    await chord('Control', 'z');
    await until('it is undone', async () => (await units()).split(',').filter((unit) => unit === 'mm').length === 1);
  });

  test('a stand is duplicated to seven more, each 100 words on, in one step that is undone as one', async () => {
    await cell('s1_force', 'name');
    await bench.page.focus('[role="grid"]');
    await bench.page.keyboard.press('Home');
    await chord('Shift', 'End');
    await bench.press('Duplicate', '[aria-label="Selected tags"]');
    await bench.fill('Copies', '7', 'dialog');
    await bench.fill('Addresses apart', '100', 'dialog');
    await bench.press('Make 21 tags', 'dialog');
    await until('they are made', async () => (await tags()).filter(({ name }) => /^s\d_/.test(name)).length === 24);
    expect(await addressesOf('s8_gap', 's8_force', 's8_state')).toEqual(['s8_force 40801', 's8_gap 40800', 's8_state 40803']);
    await chord('Control', 'z');
    await until('they are gone', async () => (await tags()).filter(({ name }) => /^s\d_/.test(name)).length === 3);
  });
});

describe('settings of a group', () => {
  test('hold for its tags, are shown as inherited, and give way to those of a tag', async () => {
    await cell('s1_gap', 'group');
    await bench.page.keyboard.type('Stand 1');
    await bench.page.keyboard.press('Enter');
    await bench.sees('Stand 1', '[data-tag="s1_gap"] [data-column="group"]');
    await bench.press('Groups', 'main');
    await bench.choose('Period of Stand 1', '5000', 'dialog');
    await bench.fill('Not available, below Stand 1', '16#FFFF', 'dialog');
    await bench.page.keyboard.press('Tab');
    await bench.press('Close', 'dialog');
    await bench.sees('5 s', '[data-tag="s1_gap"] [data-column="period"] em');
    await cell('s1_gap', 'period');
    await bench.page.keyboard.press('Enter');
    await bench.page.keyboard.type('200 ms');
    await bench.page.keyboard.press('Enter');
    await bench.sees('200 ms', '[data-tag="s1_gap"] [data-column="period"]');
    expect(await bench.text('[data-tag="s1_gap"] [data-column="period"] em')).toBe('');
  });
});

describe('the memory of a device', () => {
  test('five texts of five words each from word 2 are made of free cells, and each next address is told before', async () => {
    await bench.press('Memory', 'main');
    await bench.choose('Area', 'IR', 'main');
    await (await bench.find('[data-cell="2"]')).click();
    await bench.fill('Name', 'label_1', 'form[aria-label="Make tags"]');
    await bench.fill('Type', 'STRING(10)', 'form[aria-label="Make tags"]');
    await bench.fill('Count', '5', 'form[aria-label="Make tags"]');
    // Strings of five words each from word 2: common practice. Counted from 1 here.
    await bench.sees('30003, 30008, 30013, 30018, 30023', 'form[aria-label="Make tags"]');
    await bench.press('Make 5 tags', 'form[aria-label="Make tags"]');
    await bench.find('[data-piece="label_5"]');
    expect(await addressesOf('label_1', 'label_2', 'label_5')).toEqual(['label_1 30003', 'label_2 30008', 'label_5 30023']);
    await (await bench.find('[data-cell="0"]')).click();
    await bench.press('Next free place', 'form[aria-label="Make tags"]');
    await bench.sees('30028', 'form[aria-label="Make tags"] strong');
    await bench.go('Map');
    await bench.page.goto(`${server.address}/map`, { waitUntil: 'domcontentloaded' });
    await bench.find('[data-tag="bed_temp"]');
  });
});

describe('preflight', () => {
  test('names what overlaps and what is written where it cannot be, and puts right what is certain', async () => {
    const [over, input] = [uuid(), uuid()];
    await command('two mistakes', [
      { kind: 'tag', id: over, set: { ...newTag(ids.kiln, 'over', '40019'), type: 'INT' } },
      { kind: 'tag', id: input, set: { ...newTag(ids.kiln, 'input_sp', '30050'), type: 'INT', access: 'readWrite', rangeLow: 0, rangeHigh: 5 } },
    ]);
    await bench.press('Preflight', 'main');
    await bench.sees('over (INT) overlaps bed_temp', '[data-doubt="overlap"]');
    await bench.sees('KILN.input_sp is set to be written', '[data-doubt="read-only-place"]');
    await bench.press('Only read it', '[data-doubt="read-only-place"]');
    await until('it is put right', async () => (await bench.text('[data-doubt="read-only-place"]')) === '');
    await bench.press('Go there', '[data-doubt="overlap"]');
    await bench.find('[data-strip="over"]');
    await bench.go('Map');
  });
});

test('the pages have complained of nothing', () => {
  expect(bench.complaints).toEqual([]);
});
