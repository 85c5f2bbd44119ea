/** What an engineer draws of a machine and an operator does with it, each with the mouse and with the keyboard alone. */
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { Browser } from 'puppeteer-core';
import { v7 as uuid } from 'uuid';
import type { Element, Page } from '@/core/project/entities.ts';
import { startKiln, type RunningStandin } from '../tests/support/standin.ts';
import { newTag } from '../tests/support/newTag.ts';
import { freePort, newFolder, startServer, type RunningServer } from '../tests/support/server.ts';
import { until } from '../tests/support/until.ts';
import { openBrowser, Screen } from './browser.ts';
import { keys, mouse, type Hand } from './hands.ts';
import { sendCommand } from './sendCommand.ts';

const data = newFolder();
const kilnId = uuid();
let browser: Browser;
let server: RunningServer;
let kiln: RunningStandin;

const tag = (name: string, address: string, more: object, id: string = uuid()) => ({
  kind: 'tag' as const,
  id,
  set: { ...newTag(kilnId, name, address), ...more },
});
const local = (name: string, type: string, more: object = {}) => tag(name, '', { source: { kind: 'local' }, type, ...more });
const range = { rangeLow: 0, rangeHigh: 100, displayRange: { low: 0, high: 100 } };

beforeAll(async () => {
  [browser, server, kiln] = await Promise.all([openBrowser(), startServer(data.folder, await freePort()), startKiln()]);
  const [link, dwellId] = [uuid(), uuid()];
  await sendCommand(server.address, 'a kiln', [
    { kind: 'link', id: link, set: { name: 'Line', driver: 'modbus-tcp', settings: { host: '127.0.0.1', port: kiln.modbusPort } } },
    { kind: 'device', id: kilnId, set: { linkId: link, name: 'KILN', settings: { unit: 1 }, dialect: {}, witnessUrl: kiln.controlUrl } },
    tag('belt_jog', '00005', { type: 'BOOL' }),
    tag('bed_temp', 'HR17', { type: 'REAL', access: 'read', unit: '°C', decimals: 1, displayRange: { low: 0, high: 150 }, source: { ...(newTag(kilnId, '', 'HR17').source as object), order: 'CDAB' } }), // prettier-ignore
    tag('dwell_preset', '40041', { type: 'LINT', unit: 's', decimals: 3, rangeLow: 0, rangeHigh: 60 }, dwellId),
    { kind: 'scale', id: dwellId, set: { scale: { kind: 'duration', from: 'ns', to: 's' } } },
    ...[1, 2, 3].flatMap((n) => [
      local(`tank_${n}_level`, 'REAL', { ...range, unit: '%', decimals: 0, initial: String(n * 25) }),
      local(`tank_${n}_pump`, 'BOOL', { initial: 'off' }),
      local(`tank_${n}_valve`, 'BOOL', { initial: 'off' }),
    ]),
    local('inputs', 'UINT', { initial: '0' }),
    local('sim_run', 'BOOL', { initial: 'off' }),
    local('sim_level', 'REAL', { ...range, unit: '%', decimals: 0, initial: '10' }),
    local('silo_level', 'REAL', { ...range, unit: '%', decimals: 0, initial: '5' }),
  ]);
  const headers = { 'content-type': 'application/json', origin: server.address };
  const body = { deviceId: kilnId, minutes: 60, who: 'R. Vale', writers: ['panel', 'engineer'] };
  expect((await fetch(`${server.address}/api/v1/guard/unlock`, { method: 'POST', headers, body: JSON.stringify(body) })).status).toBe(200);
});
afterAll(async () => {
  await browser?.close();
  await Promise.all([server?.stop(), kiln?.stop()]);
  data.remove();
});

interface Told {
  readonly pages: readonly Page[];
  readonly elements: readonly Element[];
  readonly tags: readonly { readonly id: string; readonly name: string }[];
}
const project = async (): Promise<Told> => (await fetch(`${server.address}/api/v1/project`)).json() as Promise<Told>;
async function write(name: string, value: string): Promise<void> {
  const id = (await project()).tags.find((one) => one.name === name)?.id;
  const headers = { 'content-type': 'application/json', origin: server.address };
  const body = JSON.stringify({ id: uuid(), value, origin: 'engineer', rounding: 'refuse' });
  expect((await fetch(`${server.address}/api/v1/tags/${id}/write`, { method: 'POST', headers, body })).status).toBe(200);
}
const tile = (label: string): string => `[data-label="${label}"]`;
const box = (label: string): string => `[data-box][aria-label^="${label},"]`;
const TOOLS = '[aria-label="Page tools"]';

describe.each([mouse, keys])('with the $name', (hand: Hand) => {
  const prefix = hand === mouse ? 'm' : 'k';
  let bench: Screen;
  let glass: Screen;

  beforeAll(async () => {
    bench = await Screen.open(browser, `${server.address}/panels`);
    if (hand === mouse) await hand.press(bench, 'Make a panel');
    else {
      await bench.find('[data-canvas]');
      await hand.press(bench, 'New panel', '');
    }
    await until(
      'a panel with an empty page is there',
      async () => (await bench.page.$('[data-canvas]')) !== null && (await bench.page.$('[data-box]')) === null,
    );
    await bench.sees('An empty page', '[data-canvas]');
    glass = await Screen.open(browser, `${server.address}/panel/${await panelId()}`);
  });
  afterAll(() => expect([...bench.complaints, ...glass.complaints]).toEqual([]));

  const panelId = async (): Promise<string> =>
    (await bench.page.$eval('a[href^="/panel/"]', (a) => a.getAttribute('href')))?.split('/')[2]?.split('?')[0] ?? '';
  /** Of the panel that is arranged. */
  const element = async (label: string): Promise<Element | undefined> => {
    const { elements, pages } = await project();
    const panel = await panelId();
    const own = new Set(pages.flatMap((page) => (page.panelId === panel ? page.id : [])));
    return elements.find((one) => one.label === label && own.has(one.pageId));
  };
  const boxes = async (): Promise<number> => (await bench.page.$$('[data-box]')).length;
  const toBench = () => bench.page.bringToFront();
  const toGlass = () => glass.page.bringToFront();
  const noDialog = (screen: Screen) => until('the dialog is gone', async () => (await screen.page.$('dialog')) === null);

  /** Puts an element on the page for a tag, and gives it a label. */
  async function put(kind: string, tagName: string | null, label: string): Promise<void> {
    await hand.press(bench, 'Add', '[role=tablist]');
    const count = await boxes();
    await hand.press(bench, kind, '[aria-label="Add to the page"]');
    await until(`the ${kind} is there`, async () => (await boxes()) === count + 1);
    if (tagName !== null) {
      await hand.fill(bench, 'Tag of the element', tagName);
      await bench.sees(tagName, '[role=option]');
      await bench.page.keyboard.press('Enter');
      await until('it has its tag', async () => (await (await bench.field('Tag of the element')).evaluate(({ value }) => value)) === tagName);
    }
    await set('Label', label);
    await until(`${label} has its label`, async () => (await element(label)) !== undefined);
  }
  async function set(label: string, text: string): Promise<void> {
    await hand.fill(bench, label, text, TOOLS);
    await bench.page.keyboard.press('Enter');
  }
  const setting = (label: string, name: string) =>
    until(`${name} of ${label} is kept`, async () => (await element(label))?.settings[name] !== undefined);
  async function entered(label: string, digits: string): Promise<void> {
    await hand.press(glass, `Enter ${label}`);
    await hand.enter(glass, digits);
    await noDialog(glass);
  }

  test('a motor runs while its button is held; lamp, bar and dial show it, and what is moved stays where it was put', async () => {
    await toBench();
    await put('Button', 'belt_jog', 'Jog');
    await hand.choose(bench, 'Does', 'hold', TOOLS);
    await until('it holds', async () => JSON.stringify((await element('Jog'))?.settings).includes('hold'));
    await put('Lamp', 'belt_jog', 'Creeps');
    await put('Bar or level', 'bed_temp', 'Bed bar');
    await put('Dial', 'bed_temp', 'Bed dial');
    const before = await element('Bed dial');
    await hand.move(bench, box('Bed dial'), { x: 96, y: 40 });
    await until('it lies elsewhere, on the grid', async () => {
      const { x = 0, y = 0 } = (await element('Bed dial')) ?? {};
      return x > (before?.x ?? 0) + 60 && y > (before?.y ?? 0) + 20 && x % 8 === 0 && y % 8 === 0;
    });
    await toGlass();
    await glass.sees('off', tile('Creeps'));
    await hand.hold(glass, `${tile('Jog')} button:not([disabled])`, async () => {
      await until('the controller has it', async () => (await kiln.value('belt_jog')) === true);
      await glass.sees('on', tile('Creeps'));
    });
    await until('it is off again', async () => (await kiln.value('belt_jog')) === false);
    await glass.find(`${tile('Bed dial')} [data-hand]`);
    for (const label of ['Bed bar', 'Bed dial']) expect(await glass.text(`${tile(label)} [data-drawn]`)).toMatch(/^\d+\.\d$/);
  });

  test('two numbers are entered into tags that were made in their place, and their sum follows', async () => {
    await toBench();
    for (const name of [`${prefix}_part_a`, `${prefix}_part_b`]) {
      await put('Entry', null, `Entry ${name}`);
      await hand.fill(bench, 'Tag of the element', name);
      await bench.sees('Make the tag', '[role=option]');
      await bench.page.keyboard.press('Enter');
      await until('the tag is made', async () => (await project()).tags.some((one) => one.name === name));
    }
    await put('Value', null, 'Sum');
    await set('Instead of a tag', `${prefix}_part_a + ${prefix}_part_b`);
    await bench.sees('0', `[data-box] ${tile('Sum')} [data-drawn]`);
    await toGlass();
    await entered(`Entry ${prefix}_part_a`, '2.5');
    await entered(`Entry ${prefix}_part_b`, '40');
    await glass.sees('42.5', `${tile('Sum')} [data-drawn]`);
  });

  test('a preset of a controller that starts at zero takes what lies between its limits, which are told before it is sent', async () => {
    await toBench();
    await put('Entry', 'dwell_preset', 'Dwell');
    await set('At most, s', `${prefix}_part_b`);
    await setting('Dwell', 'most');
    await toGlass();
    await write('dwell_preset', '0');
    await glass.sees('0.000', tile('Dwell'));
    await hand.press(glass, 'Enter Dwell');
    await glass.sees('0 to 40 s', 'dialog');
    await hand.fill(glass, 'New value', '45', 'dialog');
    await glass.sees('outside', 'dialog');
    expect(await glass.page.$eval('dialog [type=submit]', (button) => (button as HTMLButtonElement).disabled)).toBe(true);
    await hand.press(glass, 'Cancel', 'dialog');
    await noDialog(glass);
    await entered('Dwell', '12.5');
    await glass.sees('12.500', tile('Dwell'));
    expect(await kiln.value('dwell_preset')).toBe('12.500000000');
  });

  test('a band tells that a level is low, and is gone once it is filled', async () => {
    await toBench();
    await put('Bar or level', `silo_level`, 'Silo');
    await hand.choose(bench, 'Bands', 'own', TOOLS);
    await setting('Silo', 'bands');
    await set('Low below, %', '20');
    await setting('Silo', 'bandLow');
    await put('Entry', 'silo_level', 'Fill');
    await toGlass();
    await entered('Fill', '5');
    await glass.sees('low', tile('Silo'));
    await entered('Fill', '60');
    await until('it is well', async () => !(await glass.text(tile('Silo'))).includes('low'));
  });

  test('a switch, its lamp, a tank and its slider work on values that live here, and on ones that are made up', async () => {
    await toBench();
    await put('Switch', 'sim_run', 'Run');
    await put('Lamp', 'sim_run', 'Runs');
    await put('Bar or level', 'sim_level', 'Tank');
    await hand.choose(bench, 'Shape', 'tank', TOOLS);
    await setting('Tank', 'shape');
    await put('Slider', 'sim_level', 'Fill it');
    await toGlass();
    const wanted = hand === mouse ? 'on' : 'off';
    await hand.press(glass, 'Run', tile('Run'));
    await glass.sees(wanted, tile('Runs'));
    await hand.slideToMiddle(glass, 'Fill it');
    await until('half full', async () => Math.abs(Number(await glass.text(`${tile('Tank')} [data-drawn]`)) - 50) <= 3);
    await toBench();
    await hand.choose(bench, 'Values', 'made');
    const texts = new Set<string>();
    await until('they move by themselves', async () => texts.add(await bench.text(`[data-box] ${tile('Tank')} [data-drawn]`)).size > 3);
    await hand.choose(bench, 'Values', 'live');
    expect(Math.abs(Number(await glass.text(`${tile('Tank')} [data-drawn]`)) - 50)).toBeLessThanOrEqual(3);
  });

  test('of one tank with a pump and a valve that toggle three are made, each with its own tags', async () => {
    await toBench();
    await hand.press(bench, 'Page', '');
    await until('the new page is empty', async () => (await boxes()) === 0);
    await put('Bar or level', 'tank_1_level', 'Level 1');
    await put('Button', 'tank_1_pump', 'Pump 1');
    await put('Button', 'tank_1_valve', 'Valve 1');
    await put('Symbol', 'tank_1_pump', 'P1');
    await put('Symbol', 'tank_1_valve', 'V1');
    await hand.choose(bench, 'Symbol', 'valve', TOOLS);
    await setting('V1', 'symbol');
    await (await bench.find('[role=application]')).focus();
    await bench.page.keyboard.down('Control');
    await bench.page.keyboard.press('a');
    await bench.page.keyboard.up('Control');
    await hand.press(bench, 'Multiply', '[aria-label="What is chosen"]');
    await hand.fill(bench, 'Rows', '1', 'dialog');
    await hand.fill(bench, 'Columns', '3', 'dialog');
    await bench.page.keyboard.press('Enter');
    await bench.sees('10 elements more', '[data-multiply]');
    await hand.press(bench, 'Make 3', 'dialog');
    await until('three are there', async () => (await boxes()) === 15);
    await noDialog(bench);
    await toGlass();
    await hand.press(glass, 'Page 2', 'nav');
    for (const n of [1, 2, 3]) await glass.sees(String(n * 25), `${tile(`Level ${n}`)} [data-drawn]`);
    const state = (label: string) => glass.page.$eval(`${tile(label)} [data-symbol]`, (one) => (one as HTMLElement).dataset.look);
    await until('pump 3 stands', async () => (await state('P3')) === 'off');
    await hand.press(glass, 'Pump 3');
    await until('pump 3 runs', async () => (await state('P3')) === 'on');
    await hand.press(glass, 'Valve 2');
    await until('valve 2 is open', async () => (await state('V2')) === 'on');
    expect([await state('P1'), await state('P2'), await state('V1'), await state('V3')]).toEqual(['off', 'off', 'off', 'off']);
    await hand.press(glass, 'Pump 3');
    await until('pump 3 stands again', async () => (await state('P3')) === 'off');
    await hand.press(glass, 'Valve 2');
    await until('valve 2 is shut again', async () => (await state('V2')) === 'off');
  });

  test('the sixteen inputs of a word are lamps made from one', async () => {
    await toBench();
    await hand.press(bench, 'Page', '');
    await until('the new page is empty', async () => (await boxes()) === 0);
    await put('Entry', 'inputs', 'Word');
    await put('Lamp', null, 'Input 1');
    await set('Instead of a tag', '(inputs and 16#0001) <> 0');
    await setting('Input 1', 'of');
    await hand.press(bench, 'Multiply', '[aria-label="What is chosen"]');
    await hand.fill(bench, 'Rows', '4', 'dialog');
    await hand.fill(bench, 'Columns', '4', 'dialog');
    await hand.tick(bench, 'Masks are doubled', 'dialog');
    await bench.sees('15 elements more', '[data-multiply]');
    await hand.press(bench, 'Make 16', 'dialog');
    await until('sixteen are there', async () => (await boxes()) === 17);
    await noDialog(bench);
    expect(JSON.stringify((await element('Input 16'))?.settings.of)).toMatch(/and 16#8000/);
    await toGlass();
    await hand.press(glass, 'Page 3', 'nav');
    await entered('Word', '32773');
    // 32773 is 8005h: bits 0, 2 and 15.
    const lit = async (): Promise<string> => (await Promise.all(Array.from({ length: 16 }, (_, i) => glass.text(`${tile(`Input ${i + 1}`)} [data-drawn]`)))).flatMap((text, i) => (text === 'on' ? [i] : [])).join(' '); // prettier-ignore
    await until('three are lit', async () => (await lit()) === '0 2 15');
    await entered('Word', '0');
    await until('none is lit', async () => (await lit()) === '');
  });

  test('on a phone the same elements stand in an order of their own, and some are left out', async () => {
    await toBench();
    await hand.press(bench, 'Overview', '');
    await bench.find(box('Sum'));
    await hand.pick(bench, box('Sum'));
    await hand.press(bench, 'On a phone', TOOLS);
    await set('Place there', '0');
    await until('it comes first', async () => (await element('Sum'))?.phone.place === 0);
    await hand.pick(bench, box('Bed dial'));
    await bench.find('[aria-label="Settings of Bed dial"]');
    if ((await bench.page.$(`${TOOLS} [data-fold="On a phone"][aria-expanded=true]`)) === null) await hand.press(bench, 'On a phone', TOOLS);
    await hand.choose(bench, 'Width there', 'hidden', TOOLS);
    await until('it is left out', async () => (await element('Bed dial'))?.phone.width === 'hidden');
    await toGlass();
    await hand.press(glass, 'Overview', 'nav');
    await glass.page.setViewport({ width: 390, height: 844 });
    await until('the sum comes first', async () => (await glass.page.$('[data-kind]')) !== null && (await glass.page.$eval('[data-kind]', (first) => (first as HTMLElement).dataset.label)) === 'Sum'); // prettier-ignore
    expect(await glass.page.$(tile('Bed dial'))).toBeNull();
    await glass.page.setViewport({ width: 1280, height: 800 });
    await glass.find(tile('Bed dial'));
  });
});
