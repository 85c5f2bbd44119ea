/** Panel pages as an engineer draws them, and as an operator uses them afterwards. */
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { Browser } from 'puppeteer-core';
import { v7 as uuid } from 'uuid';
import type { Element, Page } from '@/core/project/entities.ts';
import { startKiln, type RunningStandin } from '../tests/support/standin.ts';
import { newTag } from '../tests/support/newTag.ts';
import { freePort, newFolder, startServer, type RunningServer } from '../tests/support/server.ts';
import { until } from '../tests/support/until.ts';
import { openBrowser, Screen } from './browser.ts';
import { sendCommand } from './sendCommand.ts';

const data = newFolder();
const kilnId = uuid();
let browser: Browser;
let server: RunningServer;
let kiln: RunningStandin;
let bench: Screen;
let glass: Screen;

interface Told {
  readonly pages: readonly Page[];
  readonly elements: readonly Element[];
  readonly tags: readonly { readonly id: string; readonly name: string }[];
}
const project = async (): Promise<Told> => (await fetch(`${server.address}/api/v1/project`)).json() as Promise<Told>;
const labelled = async (label: string): Promise<Element> => {
  const found = (await project()).elements.find((element) => element.label === label);
  if (!found) throw new Error(`no element ${label}`);
  return found;
};
const tile = (label: string): string => `[data-label="${label}"]`;
const key = async (combination: string): Promise<void> => {
  const [last = '', ...held] = combination.split('+').reverse();
  for (const one of held) await bench.page.keyboard.down(one as 'Control');
  await bench.page.keyboard.press(last as 'a');
  for (const one of held) await bench.page.keyboard.up(one as 'Control');
};

/** Puts an element on the page for a tag, and gives it a label. */
async function put(kind: string, tag: string | null, label: string): Promise<void> {
  await bench.press('Add', '[role=tablist]');
  const count = (await bench.page.$$('[data-box]')).length;
  await bench.press(kind, '[aria-label="Add to the page"]');
  await until(`the ${kind} is there`, async () => (await bench.page.$$('[data-box]')).length === count + 1);
  if (tag !== null) {
    await bench.pickTag('Tag of the element', tag);
    await until(
      'it has its tag',
      async () => (await bench.page.$eval('[aria-label="Tag of the element"]', (field) => (field as HTMLInputElement).value)) === tag,
    );
  }
  await bench.fill('Label', label, '[aria-label="Page tools"]');
  await bench.page.keyboard.press('Enter');
  await until('its label is kept', async () => (await project()).elements.some((element) => element.label === label));
}

async function setExpression(label: string, text: string): Promise<void> {
  await bench.fill(label, text, '[aria-label="Page tools"]');
  await bench.page.keyboard.press('Enter');
}

async function unlock(): Promise<void> {
  const body = { deviceId: kilnId, minutes: 30, who: 'R. Vale', writers: ['panel'] };
  const headers = { 'content-type': 'application/json', origin: server.address };
  expect((await fetch(`${server.address}/api/v1/guard/unlock`, { method: 'POST', headers, body: JSON.stringify(body) })).status).toBe(200);
}

beforeAll(async () => {
  [browser, server, kiln] = await Promise.all([openBrowser(), startServer(data.folder, await freePort()), startKiln()]);
  const [link, dwellId] = [uuid(), uuid()];
  const tag = (name: string, address: string, more: object, id: string = uuid()) => ({
    kind: 'tag' as const,
    id,
    set: { ...newTag(kilnId, name, address), ...more },
  });
  await sendCommand(server.address, 'a kiln', [
    { kind: 'link', id: link, set: { name: 'Line', driver: 'modbus-tcp', settings: { host: '127.0.0.1', port: kiln.modbusPort } } },
    { kind: 'device', id: kilnId, set: { linkId: link, name: 'KILN', settings: { unit: 1 }, dialect: {}, witnessUrl: kiln.controlUrl } },
    tag('belt_jog', '00005', { type: 'BOOL' }),
    tag('bed_temp', 'HR17', { type: 'REAL', access: 'read', unit: '°C', decimals: 1, displayRange: { low: 0, high: 150 }, source: { ...(newTag(kilnId, '', 'HR17').source as object), order: 'CDAB' } }), // prettier-ignore
    tag('dwell_preset', '40041', { type: 'LINT', unit: 's', decimals: 3, rangeLow: 0, rangeHigh: 60 }, dwellId),
    { kind: 'scale', id: dwellId, set: { scale: { kind: 'duration', from: 'ns', to: 's' } } },
  ]);
  bench = await Screen.open(browser, `${server.address}/panels`);
  await bench.press('Make a panel');
  await bench.find('[data-canvas]');
});
afterAll(async () => {
  await browser?.close();
  await Promise.all([server?.stop(), kiln?.stop()]);
  data.remove();
});

async function openGlass(): Promise<void> {
  const href = await bench.page.$eval('a[href^="/panel/"]', (a) => a.getAttribute('href'));
  glass = await Screen.open(browser, `${server.address}${href}`);
  await glass.find('[data-panel]');
}

describe('a motor: hold to run, lamp, bar and dial', () => {
  test('is put on the page from its tags, and what is dragged stays where it was put', async () => {
    await put('Button', 'belt_jog', 'Jog');
    await bench.choose('Does', 'hold', '[aria-label="Page tools"]');
    await put('Lamp', 'belt_jog', 'Creeps');
    await put('Bar or level', 'bed_temp', 'Bed bar');
    await put('Dial', 'bed_temp', 'Bed dial');
    const before = await labelled('Bed dial');
    const box = await (await bench.find('[data-box][aria-label^="Bed dial"]')).boundingBox();
    if (!box) throw new Error('no box');
    await bench.page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
    await bench.page.mouse.down();
    await bench.page.mouse.move(box.x + box.width / 2 + 90, box.y + box.height / 2 + 40, { steps: 8 });
    await bench.page.mouse.up();
    await until('it lies elsewhere, on the grid', async () => {
      const { x, y } = await labelled('Bed dial');
      return x > before.x + 60 && y > before.y + 20 && x % 8 === 0 && y % 8 === 0;
    });
  });

  test('runs while the button is held and no longer; lamp, bar and dial show it', async () => {
    await openGlass();
    await unlock();
    await glass.sees('off', tile('Creeps'));
    const button = await glass.find(`${tile('Jog')} button:not([disabled])`);
    const box = await button.boundingBox();
    if (!box) throw new Error('no button');
    await glass.page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
    await glass.page.mouse.down();
    await until('the controller has it', async () => (await kiln.value('belt_jog')) === true);
    await glass.sees('on', tile('Creeps'));
    await glass.page.mouse.up();
    await until('it is off again', async () => (await kiln.value('belt_jog')) === false);
    await glass.find(`${tile('Bed dial')} [data-hand]`);
    for (const label of ['Bed bar', 'Bed dial']) expect(await glass.text(`${tile(label)} [data-drawn]`)).toMatch(/^\d+\.\d$/);
  });

  test('the server takes from a panel only what its elements may write', async () => {
    const { panelId, dial, jog } = await (async () => {
      const told = await project();
      return { panelId: told.pages[0]?.panelId ?? '', dial: await labelled('Bed dial'), jog: await labelled('Jog') };
    })();
    const press = async (panel: string, element: string, body: object): Promise<string> => {
      const answer = await fetch(`${server.address}/api/v1/panels/${panel}/elements/${element}/press`, {
        method: 'POST',
        headers: { 'content-type': 'application/json', origin: server.address },
        body: JSON.stringify({ id: uuid(), ...body }),
      });
      return answer.ok ? 'written' : ((await answer.json()) as { code: string }).code;
    };
    expect([
      await press(panelId, dial.id, { value: '80' }),
      await press(panelId, jog.id, {}),
      await press(uuid(), jog.id, {}),
      await press(panelId, uuid(), {}),
    ]).toEqual(['not-here', 'held', 'gone', 'gone']);
  });
});

describe('two numbers and their sum', () => {
  test('are entries whose tags are made in their place, and a value that is an expression', async () => {
    await bench.page.bringToFront();
    for (const name of ['part_a', 'part_b']) {
      await put('Entry', null, `Entry ${name}`);
      await (await bench.field('Tag of the element')).click();
      await bench.page.keyboard.type(name);
      await bench.sees('Make the tag', '[role=option]');
      await bench.page.keyboard.press('Enter');
      await until('the tag is made', async () => (await project()).tags.some((tag) => tag.name === name));
    }
    await put('Value', null, 'Sum');
    await setExpression('Instead of a tag', 'part_a + part_b');
    await bench.sees('0', `[data-box] ${tile('Sum')} [data-drawn]`);
  });

  test('are entered by the keys on the glass, and the sum follows', async () => {
    await glass.page.bringToFront();
    for (const [label, keys] of [
      ['Entry part_a', '2.5'],
      ['Entry part_b', '40'],
    ] as const) {
      await glass.press(`Enter ${label}`);
      for (const one of keys) await (await glass.find(`dialog [aria-label="${one === '.' ? 'Point' : one}"]`)).click();
      await glass.press('Write', 'dialog');
      await until('the keys are gone', async () => (await glass.page.$('dialog')) === null);
    }
    await glass.sees('42.5', `${tile('Sum')} [data-drawn]`);
  });

  test('a preset that starts at zero is entered between its limits, which are told before it is sent', async () => {
    await bench.page.bringToFront();
    await put('Entry', 'dwell_preset', 'Dwell');
    await setExpression('At most, s', 'part_b');
    await until('it is kept', async () => (await labelled('Dwell')).settings.most !== undefined);
    await glass.page.bringToFront();
    await glass.press('Enter Dwell');
    await glass.sees('0 to 40 s', 'dialog');
    await glass.fill('New value', '45', 'dialog');
    await glass.sees('outside', 'dialog');
    expect(await glass.page.$eval('dialog [type=submit]', (button) => (button as HTMLButtonElement).disabled)).toBe(true);
    await glass.page.keyboard.press('Escape');
    await until('the keys are gone', async () => (await glass.page.$('dialog')) === null);
  });
});

describe('the inputs of a word', () => {
  test('are sixteen lamps made from one, which is one step that is undone', async () => {
    await bench.page.bringToFront();
    await sendCommand(server.address, 'a word', [
      { kind: 'tag', id: uuid(), set: { ...newTag('', 'inputs'), source: { kind: 'local' }, type: 'UINT', initial: '0' } },
    ]);
    await bench.press('Page', '');
    await until('there is a second page', async () => (await project()).pages.length === 2);
    await until('which is empty', async () => (await bench.page.$$('[data-box]')).length === 0);
    await put('Entry', 'inputs', 'Word');
    await put('Lamp', null, 'Input 1');
    await setExpression('Instead of a tag', '(inputs and 16#0001) <> 0');
    await until('it is kept', async () => (await labelled('Input 1')).settings.of !== undefined);
    await bench.press('Multiply', '[aria-label="What is chosen"]');
    await bench.fill('Rows', '4', 'dialog');
    await bench.fill('Columns', '4', 'dialog');
    await (await bench.field('Masks are doubled', 'dialog')).click();
    await bench.sees('15 elements more', '[data-multiply]');
    await bench.press('Make 16', 'dialog');
    await until('sixteen are there', async () => (await bench.page.$$('[data-box]')).length === 17);
    const last = await labelled('Input 16');
    expect(JSON.stringify(last.settings.of)).toMatch(/and 16#8000/);
    await bench.page.keyboard.press('Escape');
    await (await bench.find('[role=application]')).focus();
    await key('Control+z');
    await until('one is left', async () => (await bench.page.$$('[data-box]')).length === 2);
    await key('Control+Shift+z');
    await until('sixteen are there again', async () => (await bench.page.$$('[data-box]')).length === 17);
  });

  test('show the bits that are set, on a page that is gone to without loading anything', async () => {
    await glass.page.bringToFront();
    await glass.page.evaluate(() => ((window as unknown as { stays: boolean }).stays = true));
    await glass.press('Page 2', 'nav');
    await glass.press('Enter Word');
    await glass.fill('New value', '32773', 'dialog');
    await glass.press('Write', 'dialog');
    // 32773 is 8005h: bits 0, 2 and 15.
    for (const [label, text] of [
      ['Input 1', 'on'],
      ['Input 2', 'off'],
      ['Input 3', 'on'],
      ['Input 16', 'on'],
    ] as const)
      await until(`${label} is ${text}`, async () => (await glass.text(`${tile(label)} [data-drawn]`)) === text);
    expect(await glass.page.evaluate(() => (window as unknown as { stays?: boolean }).stays)).toBe(true);
    await until('the keys are gone', async () => (await glass.page.$('dialog')) === null);
  });
});

describe('by keyboard alone', () => {
  test('elements are walked through, moved, doubled, grouped, locked and removed, and all of it is undone', async () => {
    await bench.page.bringToFront();
    const count = async (): Promise<number> => (await bench.page.$$('[data-box]')).length;
    await (await bench.find('[data-box][aria-label^="Word"]')).focus();
    await bench.page.keyboard.press('Enter');
    await until('it alone is chosen', async () => (await bench.page.$$('[data-box][aria-current]')).length === 1);
    const { x, y } = await labelled('Word');
    await key('ArrowRight');
    await until('it moved', async () => (await labelled('Word')).x === x + 8);
    await key('Shift+ArrowDown');
    await until('it moved by one', async () => (await labelled('Word')).y === y + 1);
    const before = await count();
    await key('Control+d');
    await until('there are two', async () => (await count()) === before + 1);
    await (await bench.find('[role=application]')).focus();
    await key('Delete');
    await until('it is gone', async () => (await count()) === before);
    for (let i = 0; i < 4; i++) await key('Control+z');
    await until('all is as before', async () => {
      const now = await labelled('Word');
      return now.x === x && now.y === y && (await count()) === before;
    });
  });

  test('elements are copied to another page by the usual keys', async () => {
    await (await bench.find('[role=application]')).focus();
    await key('Control+a');
    await until('all are chosen', async () => (await bench.page.$$('[data-box][aria-current]')).length === 17);
    const clip = await bench.page.evaluate(() => {
      const held = new DataTransfer();
      document.activeElement?.dispatchEvent(new ClipboardEvent('copy', { clipboardData: held, bubbles: true, cancelable: true }));
      return held.getData('text/plain');
    });
    await bench.press('Overview', '');
    await bench.page.waitForSelector('[data-box][aria-label^="Jog"]');
    const before = (await bench.page.$$('[data-box]')).length;
    await (await bench.find('[role=application]')).focus();
    await bench.page.evaluate((text) => {
      const held = new DataTransfer();
      held.setData('text/plain', text);
      document.activeElement?.dispatchEvent(new ClipboardEvent('paste', { clipboardData: held, bubbles: true, cancelable: true }));
    }, clip);
    await until('they are on this page', async () => (await bench.page.$$('[data-box]')).length === before + 17);
    await key('Control+z');
    await until('undone as one', async () => (await bench.page.$$('[data-box]')).length === before);
  });
});

describe('a band that colours below a limit', () => {
  test('says low in a word while the value is below it, and is well when it is above', async () => {
    const bar = await labelled('Bed bar');
    const partA = (await project()).tags.find((tag) => tag.name === 'part_a');
    await sendCommand(server.address, 'a band', [
      { kind: 'element', id: bar.id, set: { tagId: partA?.id, settings: { low: 0, high: 100, bands: 'own', bandLow: 20 } } },
    ]);
    await glass.page.bringToFront();
    await glass.press('Overview', 'nav');
    await glass.sees('low', tile('Bed bar'));
    await glass.press('Enter Entry part_a');
    await glass.fill('New value', '60', 'dialog');
    await glass.press('Write', 'dialog');
    await until('it is well', async () => !(await glass.text(tile('Bed bar'))).includes('low'));
    await until('the keys are gone', async () => (await glass.page.$('dialog')) === null);
  });
});

describe('on a phone', () => {
  test('the same elements stand in an order of their own, and some are left out', async () => {
    const [dial, sum] = [await labelled('Bed dial'), await labelled('Sum')];
    await sendCommand(server.address, 'for phones', [
      { kind: 'element', id: sum.id, set: { phone: { place: 0, width: 'full' } } },
      { kind: 'element', id: dial.id, set: { phone: { place: null, width: 'hidden' } } },
    ]);
    await glass.page.setViewport({ width: 390, height: 844 });
    await until(
      'the sum comes first',
      async () => (await glass.page.$eval('[data-kind]', (first) => (first as HTMLElement).dataset.label)) === 'Sum',
    );
    expect(await glass.page.$(tile('Bed dial'))).toBeNull();
    await glass.page.setViewport({ width: 1280, height: 800 });
    await glass.find(tile('Bed dial'));
  });
});

test('the pages have complained of nothing', () => {
  expect([...bench.complaints, ...glass.complaints]).toEqual([]);
});
