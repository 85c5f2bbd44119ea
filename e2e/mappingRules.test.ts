/** Mapping through the interface, from nothing: how a controller lays out memory is learnt, structures are made of cells, types follow the list, values are copied. */
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { Browser } from 'puppeteer-core';
import { v7 as uuid } from 'uuid';
import { newTag } from '../tests/support/newTag.ts';
import { freePort, newFolder, startServer, type RunningServer } from '../tests/support/server.ts';
import { startStandin, type RunningStandin } from '../tests/support/standin.ts';
import { until } from '../tests/support/until.ts';
import { openBrowser, Screen } from './browser.ts';
import { sendCommand } from './sendCommand.ts';

let browser: Browser;
let server: RunningServer;
let scratch: RunningStandin;
let pack: RunningStandin;
let bench: Screen;
const data = newFolder();
const ids = { scratchLink: uuid(), scratch: uuid(), packLink: uuid(), pack: uuid() };

interface Tag {
  readonly id: string;
  readonly name: string;
  readonly type: string;
  readonly unit: string;
  readonly source: { readonly address?: string };
}
interface Project {
  readonly tags: readonly Tag[];
  readonly devices: readonly { readonly name: string; readonly dialect: Record<string, unknown> }[];
}
const project = async (): Promise<Project> => (await (await fetch(`${server.address}/api/v1/project`)).json()) as Project;
const tagNamed = async (name: string): Promise<Tag | undefined> => (await project()).tags.find((tag) => tag.name === name);
const command = (label: string, changes: readonly object[]): Promise<void> => sendCommand(server.address, label, changes);

beforeAll(async () => {
  [browser, server, scratch, pack] = await Promise.all([
    openBrowser(),
    startServer(data.folder, await freePort()),
    startStandin('scratch'),
    startStandin('pack'),
  ]);
  await command('two devices', [
    { kind: 'link', id: ids.scratchLink, set: { name: 'Rolls', driver: 'modbus-tcp', settings: { host: '127.0.0.1', port: scratch.modbusPort } } },
    { kind: 'device', id: ids.scratch, set: { linkId: ids.scratchLink, name: 'ROLLS', settings: { unit: 1 }, dialect: {}, witnessUrl: '' } },
    { kind: 'link', id: ids.packLink, set: { name: 'Bagging', driver: 'ethernet-ip', settings: { host: '127.0.0.1', port: pack.cipPort } } },
    { kind: 'device', id: ids.pack, set: { linkId: ids.packLink, name: 'PACK', settings: { route: '1,0' }, dialect: {}, witnessUrl: '' } },
  ]);
  bench = await Screen.open(browser, `${server.address}/links`);
  await bench.sees('ROLLS');
});
afterAll(async () => {
  await browser?.close();
  await Promise.all([server?.stop(), scratch?.stop(), pack?.stop()]);
  data.remove();
});

describe('how a controller lays out memory', () => {
  test('is learnt from the program that it runs: shown with its bytes, and set by one press', async () => {
    await scratch.order({
      set: {
        layout: {
          firstRegister: 4,
          order32: 'CDAB',
          order64: 'GHEFCDAB',
          orderText: 'BA',
          structures: 'aligned',
          flags: 'bytes',
          texts: 'length-word',
          bitFrom: 'most',
        },
      },
    });
    await bench.press('Learn how ROLLS lays out memory');
    await bench.fill('First word of the block', '300', 'dialog');
    await bench.press('Read the block', 'dialog');
    await bench.sees('The block is not there', 'dialog');
    // The engineer puts the program into the controller.
    const text = await bench.page.evaluate(() => document.querySelector('dialog pre')?.textContent ?? '');
    expect(text).toContain('Block AT %MW300 : MillLatchBlock;');
    await scratch.set('program', text);
    await bench.press('Read the block', 'dialog');
    await bench.sees('CDAB, words swapped', '[data-evidence="Order of 32-bit values"]');
    await bench.sees('B5 C7 91 A3', '[data-evidence="Order of 32-bit values"]');
    await bench.sees('counted from the most significant', '[data-evidence="Bits of a word"]');
    await bench.sees('have their length in a word in front', '[data-evidence="Texts"]');
    await bench.sees('each at a multiple of its own size', '[data-evidence="Members of structures"]');
    await bench.press('Set these protocol options', 'dialog');
    await bench.sees('The protocol options are set', 'dialog');
    const rolls = (await project()).devices.find(({ name }) => name === 'ROLLS');
    expect(rolls?.dialect).toMatchObject({
      memoryStart: 4,
      order32: 'CDAB',
      orderText: 'BA',
      bitFrom: 'most',
      textLayout: 'length-word',
      structures: 'aligned',
    });
    await bench.press('Close', 'dialog');
  });
});

describe('a device mapped on its memory from nothing', () => {
  test('a structure is said once and laid out eight times, each next address told before', async () => {
    await bench.page.goto(`${server.address}/map/memory`, { waitUntil: 'domcontentloaded' });
    await bench.press('New structure');
    await bench.fill('Name', 'Stand', 'dialog');
    await bench.fill('Members', 'gap UINT mm\ncurrent REAL A\nrunning BOOL', 'dialog');
    await bench.sees('word 2', 'dialog [aria-label="Places of members"]');
    await bench.press('Make structure', 'dialog');
    await until('the dialog is gone', async () => (await bench.page.$('dialog')) === null);
    await (await bench.find('[data-cell="20"]')).click();
    const form = 'form[aria-label="Make tags"]';
    await bench.fill('Name', 'stand_1', form);
    await bench.fill('Count', '8', form);
    await bench.fill('Cells from one to the next', '20', form);
    await bench.sees('40021, 40041, 40061', form);
    await bench.press('Make 8 blocks', form);
    await bench.find('[data-piece="stand_1.gap"]');
    const tags = (await project()).tags;
    expect(tags).toHaveLength(24);
    // Aligned to their size: the REAL at the second double word, the BOOL behind it.
    const parsed = async (name: string): Promise<string> => (await tagNamed(name))?.source.address ?? '';
    expect([await parsed('stand_1.gap'), await parsed('stand_1.current'), await parsed('stand_8.current')]).toEqual(['HR20', 'HR22', 'HR162']);
  });

  test('its cells are shown live, with the requests that read them', async () => {
    await (await bench.field('Live cells')).click();
    await bench.fill('Go to address', '40305');
    await bench.page.keyboard.press('Enter');
    // The first mark of the block of known values: word 300, with memory from register 4 on.
    await bench.sees('4D4C', '[data-cell="304"]');
    await bench.fill('Go to address', '40021');
    await bench.page.keyboard.press('Enter');
    await bench.find('[data-request^="20-"]');
    await (await bench.field('Live cells')).click();
  });

  test('a change of the structure changes all eight: a unit, and a member more', async () => {
    await bench.page.goto(`${server.address}/map`, { waitUntil: 'domcontentloaded' });
    await bench.press('Types', 'main');
    await bench.fill('Unit of gap', 'µm', 'dialog');
    await bench.page.keyboard.press('Enter');
    await until(
      'all eight have the unit',
      async () => (await project()).tags.filter(({ name, unit }) => name.endsWith('.gap') && unit === 'µm').length === 8,
    );
    await bench.fill('New member', 'hours UDINT h', 'dialog');
    await bench.press('Add member', 'dialog');
    await until('all eight have it', async () => (await project()).tags.filter(({ name }) => name.endsWith('.hours')).length === 8);
    const { tags } = await project();
    expect(tags.filter(({ name, unit }) => name.endsWith('.gap') && unit === 'µm')).toHaveLength(8);
    expect(tags.find(({ name }) => name === 'stand_8.hours')?.source.address).toBe('HR166');
    await bench.press('Close', 'dialog');
  });
});

describe('a tag of another type than its list says', () => {
  test('is marked, found by the filter, explained, and read as the list says by one press', async () => {
    const id = uuid();
    const set = { ...newTag(ids.scratch, 'dwell', '40501'), type: 'UDINT', listType: 'TIME', listName: 'dwell' };
    await command('a tag', [{ kind: 'tag', id, set }]);
    await bench.choose('State', 'disagreeing', 'main');
    await bench.find('[data-tag="dwell"] [aria-label="Its list says another type."]');
    await until('only that one is shown', async () => (await bench.text('main [role="status"]')).startsWith('1 of'));
    await bench.press('Preflight', 'main');
    await bench.sees('It is a duration, and shown as a plain count.', '[data-doubt="type-disagrees"]');
    await bench.press('Read as TIME', '[data-doubt="type-disagrees"]');
    await until('it is a duration', async () => (await tagNamed('dwell'))?.type === 'TIME');
    await until('it is no longer doubtful', async () => (await bench.text('[data-doubt="type-disagrees"]')) === '');
  });
});

describe('a copy rule', () => {
  test('brings a value from a controller of registers to one of named tags, once it is armed and the device is open for rules', async () => {
    const [from, to] = [uuid(), uuid()];
    await command('two tags', [
      {
        kind: 'tag',
        id: from,
        set: { ...newTag(ids.scratch, 'target_rate', '40601'), type: 'UINT', access: 'readWrite', rangeLow: 0, rangeHigh: 100 },
      },
      { kind: 'tag', id: to, set: { ...newTag(ids.pack, 'speed_sp', 'Line_SpeedSP'), type: 'REAL', rangeLow: 0, rangeHigh: 60 } },
    ]);
    await bench.page.goto(`${server.address}/map/copies`, { waitUntil: 'domcontentloaded' });
    await bench.press('Make a copy rule');
    await bench.pickTag('From tag', 'target_rate');
    await bench.pickTag('To tag', 'target_rate');
    await bench.sees('It would feed itself', 'form');
    await bench.pickTag('To tag', 'speed_sp');
    await bench.choose('At most every', '200', 'form');
    await bench.press('Make rule', 'form');
    await bench.fill('Your name', 'R. Vale', 'main');
    await bench.press('Arm', '[data-rule="to speed_sp"]');
    await bench.sees('PACK is locked', '[data-rule="to speed_sp"]');
    await unlock(ids.pack, ['rule']);
    await unlock(ids.scratch, ['engineer']);
    await write(from, '37');
    await bench.sees('1 ×', '[data-rule="to speed_sp"]');
    // Its belt follows: told by its control channel.
    await until('the belt is faster', async () => Number(await pack.value('line_speed')) > 30);
    // Above the range of where it goes.
    await write(from, '80');
    await bench.sees('held back', '[data-rule="to speed_sp"]');
    await bench.sees('outside the tag', '[data-rule="to speed_sp"]');
    expect(Number(await pack.value('line_speed'))).toBeLessThan(40);
    await bench.press('Disarm', '[data-rule="to speed_sp"]');
    await bench.sees('not armed', '[data-rule="to speed_sp"]');
  });
});

describe('an address taken from another tag', () => {
  test('is said where the address is typed, leads where the index says, and to nothing while the index is in doubt', async () => {
    const bagger = uuid();
    await command('a bagger by its number', [
      {
        kind: 'tag',
        id: bagger,
        set: { ...newTag('', 'bagger_no', ''), source: { kind: 'local' }, type: 'INT', initial: '1', rangeLow: 1, rangeHigh: 4 },
      },
      { kind: 'tag', id: uuid(), set: { ...newTag(ids.pack, 'target', 'Bagger[0].Target'), type: 'REAL' } },
      ...[1, 2, 3, 4].map((n) => ({ kind: 'tag', id: uuid(), set: { ...newTag(ids.pack, `target_${n}`, `Bagger[${n - 1}].Target`), type: 'REAL' } })),
    ]);
    await bench.page.goto(`${server.address}/map`, { waitUntil: 'domcontentloaded' });
    await bench.fill('Find tags', 'target');
    await (await bench.find('[data-tag="target"] [data-column="address"]')).click();
    await bench.page.keyboard.press('Enter');
    await bench.press('Move it by an index');
    // The field has the focus: whoever looks at the keys has not to look for it.
    await bench.sees('elements of the first array in the address', 'dialog');
    await bench.page.keyboard.type('bagger_no - 1');
    await bench.page.keyboard.press('Escape');
    await bench.sees('now 0: tag Bagger[0].Target', 'dialog');
    await bench.press('Keep', 'dialog');
    await until('the cell says so', async () => (await bench.cell('target', 'address')) === 'Bagger[0].Target [bagger_no - 1]');
    await bench.sees('Bagger[0].Target', '[data-stage="1"]');
    await unlock(ids.pack, ['engineer']);
    const target = (await tagNamed('target'))?.id ?? '';
    await write(bagger, '3');
    await bench.sees('Bagger[2].Target', '[data-stage="1"]');
    await write(target, '31.5');
    expect(await pack.value('bagger_3_target')).toBe(31.5);
    await until('the tag that stays shows it too', async () => (await bench.text('[data-tag="target_3"] [data-value]')) === '31.5');
    await command('a smaller range', [{ kind: 'tag', id: bagger, set: { rangeHigh: 2 } }]);
    await until('it has no value', async () => (await bench.text('[data-tag="target"] [data-value]')) === '–');
    await bench.sees('Its index has no good value: bagger_no', 'footer, section');
  });
});

describe('the columns of the map', () => {
  test('are made wider and narrower by key, and keep that', async () => {
    await (await bench.find('[data-tag="target_1"] [data-column="address"]')).click();
    const width = (): Promise<number> =>
      bench.page.evaluate(() => document.querySelector('[data-tag="target_1"] [data-column="address"]')?.getBoundingClientRect().width ?? 0);
    const before = await width();
    await bench.page.keyboard.down('Alt');
    for (let i = 0; i < 3; i++) await bench.page.keyboard.press('ArrowRight');
    await bench.page.keyboard.up('Alt');
    await until('it is wider', async () => (await width()) > before + 10);
    const wide = await width();
    await bench.page.reload({ waitUntil: 'domcontentloaded' });
    await bench.find('[data-tag="target_1"] [data-column="address"]');
    expect(Math.abs((await width()) - wide)).toBeLessThan(2);
  });
});

async function unlock(deviceId: string, writers: readonly string[]): Promise<void> {
  await post('/guard/unlock', { deviceId, who: 'R. Vale', minutes: 5, writers });
}
const write = (tagId: string, value: string): Promise<void> => post(`/tags/${tagId}/write`, { id: uuid(), value, origin: 'engineer' });
async function post(path: string, body: object): Promise<void> {
  const answer = await fetch(`${server.address}/api/v1${path}`, {
    method: 'POST',
    headers: { 'content-type': 'application/json', origin: server.address },
    body: JSON.stringify(body),
  });
  if (!answer.ok) throw new Error(await answer.text());
}

test('the pages have complained of nothing', () => {
  expect(bench.complaints).toEqual([]);
});
