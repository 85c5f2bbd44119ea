/** Panel pages: what a glass may write, keys of the editor, its dialogs, pictures, and what comes in that is bad. */
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { mkdtempSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Browser, ElementHandle } from 'puppeteer-core';
import { v7 as uuid } from 'uuid';
import { newAction } from '@/core/panel/actions.ts';
import type { Element, Page, StateList } from '@/core/project/entities.ts';
import { newTag } from '../tests/support/newTag.ts';
import { freePort, newFolder, startServer, type RunningServer } from '../tests/support/server.ts';
import { until } from '../tests/support/until.ts';
import { axeFinds } from './axe.ts';
import { openBrowser, Screen } from './browser.ts';
import { mouse } from './hands.ts';
import { sendCommand } from './sendCommand.ts';

const data = newFolder();
const files = mkdtempSync(join(tmpdir(), 'mill-latch-panels-'));
const [panelId, overview, inputs] = [uuid(), uuid(), uuid()];
let browser: Browser;
let server: RunningServer;
let bench: Screen;
let glass: Screen;

interface Told {
  readonly panels: readonly { readonly id: string; readonly name: string }[];
  readonly pages: readonly Page[];
  readonly elements: readonly Element[];
  readonly stateLists: readonly StateList[];
  readonly tags: readonly { readonly id: string; readonly name: string }[];
}
const project = async (): Promise<Told> => (await fetch(`${server.address}/api/v1/project`)).json() as Promise<Told>;
const labelled = async (label: string): Promise<Element> => {
  const found = (await project()).elements.find((element) => element.label === label);
  if (!found) throw new Error(`no element ${label}`);
  return found;
};
const tile = (label: string): string => `[data-label="${label}"]`;
const box = (label: string): string => `[data-box][aria-label^="${label},"]`;
const boxes = async (): Promise<number> => (await bench.page.$$('[data-box]')).length;
const TOOLS = '[aria-label="Page tools"]';
const key = async (combination: string): Promise<void> => {
  const [last = '', ...held] = combination.split('+').reverse();
  for (const one of held) await bench.page.keyboard.down(one as 'Control');
  await bench.page.keyboard.press(last as 'a');
  for (const one of held) await bench.page.keyboard.up(one as 'Control');
};
const ids = new Map<string, string>();
const idOf = (name: string): string => ids.get(name) ?? ids.set(name, uuid()).get(name) ?? '';
const local = (name: string, type: string, more: object = {}) => ({
  kind: 'tag' as const,
  id: idOf(name),
  set: { ...newTag('', name, ''), source: { kind: 'local' }, type, ...more },
});
const put = (pageId: string, kind: string, label: string, tag: string | null, at: readonly [number, number], settings: object = {}) => ({
  kind: 'element' as const,
  id: idOf(`element ${label}`),
  set: { pageId, kind, label, tagId: tag === null ? null : idOf(tag), x: at[0], y: at[1], w: 160, h: 64, settings },
});
/** Pages that are not in front draw nothing by themselves: they are asked again and again. */
const glassSays = (text: string, selector: string) =>
  until(`the glass says ${text}`, async () => (await glass.text(selector)).includes(text), 15_000);
const noDialog = () => until('the dialog is gone', async () => (await bench.page.$('dialog')) === null);
const address = () => `${server.address}/panels?panel=${panelId}&page=${overview}`;

beforeAll(async () => {
  [browser, server] = await Promise.all([openBrowser(), startServer(data.folder, await freePort())]);
  await sendCommand(server.address, 'a panel', [
    local('fan_1', 'BOOL', { initial: 'off' }),
    local('fan_2', 'BOOL', { initial: 'on' }),
    local('level_1', 'REAL', { initial: '20' }),
    local('level_2', 'REAL', { initial: '70' }),
    local('word', 'UINT', { initial: '5' }),
    { kind: 'panel', id: panelId, set: { name: 'Kiln glass' } },
    { kind: 'page', id: overview, set: { panelId, name: 'Overview', position: 0 } },
    { kind: 'page', id: inputs, set: { panelId, name: 'Inputs', position: 1 } },
    put(overview, 'button', 'Jog', 'fan_1', [8, 8], { actions: [newAction('hold')] }),
    put(overview, 'dial', 'Level', 'level_1', [200, 8]),
    put(overview, 'lamp', 'Fan', 'fan_1', [400, 8]),
    put(inputs, 'entry', 'Word', 'word', [8, 8]),
    ...Array.from({ length: 16 }, (_, i) => put(inputs, 'lamp', `Input ${i + 1}`, null, [8 + (i % 4) * 168, 80 + (i >> 2) * 72], { of: { by: `(@${idOf('word')} and ${2 ** i}) <> 0` } })), // prettier-ignore
  ]);
  bench = await Screen.open(browser, address());
  await bench.find('[data-canvas]');
  glass = await Screen.open(browser, `${server.address}/panel/${panelId}`);
  await glass.find(tile('Jog'));
  await bench.page.bringToFront();
});
afterAll(async () => {
  await browser?.close();
  await server?.stop();
  data.remove();
  rmSync(files, { recursive: true, force: true });
});

test('the server takes from a panel only what its elements may write', async () => {
  const press = async (panel: string, element: string, body: object): Promise<string> => {
    const answer = await fetch(`${server.address}/api/v1/panels/${panel}/elements/${element}/press`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', origin: server.address },
      body: JSON.stringify({ id: uuid(), ...body }),
    });
    return answer.ok ? 'written' : ((await answer.json()) as { code: string }).code;
  };
  const [dial, jog] = [await labelled('Level'), await labelled('Jog')];
  expect([
    await press(panelId, dial.id, { value: '80' }),
    await press(panelId, jog.id, {}),
    await press(uuid(), jog.id, {}),
    await press(panelId, uuid(), {}),
  ]).toEqual(['not-here', 'held', 'gone', 'gone']);
});

describe('by keyboard alone', () => {
  test('elements are walked through, moved, doubled, grouped, locked and removed, and all of it is undone', async () => {
    await bench.press('Inputs', '');
    await (await bench.find(box('Word'))).focus();
    await bench.page.keyboard.press('Enter');
    await until('it alone is chosen', async () => (await bench.page.$$('[data-box][aria-current]')).length === 1);
    const { x, y } = await labelled('Word');
    await key('ArrowRight');
    await until('it moved', async () => (await labelled('Word')).x === x + 8);
    await key('Shift+ArrowDown');
    await until('it moved by one', async () => (await labelled('Word')).y === y + 1);
    const before = await boxes();
    await key('Control+d');
    await until('there are two', async () => (await boxes()) === before + 1);
    await (await bench.find('[role=application]')).focus();
    await key('Delete');
    await until('it is gone', async () => (await boxes()) === before);
    for (let i = 0; i < 4; i++) await key('Control+z');
    await until('all is as before', async () => {
      const now = await labelled('Word');
      return now.x === x && now.y === y && (await boxes()) === before;
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
    await bench.find(box('Jog'));
    const before = await boxes();
    await (await bench.find('[role=application]')).focus();
    await bench.page.evaluate((text) => {
      const held = new DataTransfer();
      held.setData('text/plain', text);
      document.activeElement?.dispatchEvent(new ClipboardEvent('paste', { clipboardData: held, bubbles: true, cancelable: true }));
    }, clip);
    await until('they are on this page', async () => (await boxes()) === before + 17);
    await key('Control+z');
    await until('undone as one', async () => (await boxes()) === before);
  });
});

test('several elements are carried by any one of them, and sized by the frame around them', async () => {
  const all = async () => Promise.all(['Input 1', 'Input 2', 'Input 5'].map(labelled));
  await bench.press('Inputs', '');
  await (await bench.find(box('Input 1'))).click();
  await bench.page.keyboard.down('Shift');
  for (const label of ['Input 2', 'Input 5']) await (await bench.find(box(label))).click();
  await bench.page.keyboard.up('Shift');
  await bench.find('[data-enclosing="3"]');
  const before = await all();
  await mouse.move(bench, box('Input 5'), { x: 60, y: 90 });
  await until('all of them moved alike', async () => {
    const now = await all();
    const ways = new Set(now.map(({ x, y }, i) => `${x - (before[i]?.x ?? 0)} ${y - (before[i]?.y ?? 0)}`));
    return ways.size === 1 && now[0]?.x !== before[0]?.x && now[0]?.y !== before[0]?.y;
  });
  const carried = await all();
  // The handle at the lower right corner.
  await mouse.move(bench, '.moveable-control.moveable-se', { x: 40, y: 40 });
  await until('all of them are larger', async () => (await all()).every(({ w, h }, i) => w > (carried[i]?.w ?? 0) && h > (carried[i]?.h ?? 0)));
  const [first, second] = await all();
  expect([first?.x, first?.y, second?.y]).toEqual([carried[0]?.x, carried[0]?.y, carried[0]?.y]);
  for (let i = 0; i < 2; i++) await key('Control+z');
  const places = (of: readonly Element[]): string => JSON.stringify(of.map(({ x, y, w, h }) => [x, y, w, h]));
  await until('all is as before', async () => places(await all()) === places(before));
  await bench.press('Overview', '');
  await bench.find(box('Jog'));
});

describe('what several elements share', () => {
  test('states of a lamp become a list, whose change shows on the glass; without the list the tag’s own text is shown', async () => {
    await (await bench.find(box('Fan'))).click();
    await bench.press('On and off', TOOLS);
    await until('it has states', async () => (await labelled('Fan')).settings.states !== undefined);
    await bench.press('Share these states', TOOLS);
    await until('there is a list', async () => (await project()).stateLists.length === 1);
    await bench.press('State lists', TOOLS);
    await bench.fill('Text of state 2', 'STANDS', 'dialog');
    await bench.page.keyboard.press('Enter');
    await until('it is kept', async () => (await project()).stateLists[0]?.states[1]?.text === 'STANDS');
    await bench.sees('Used by 1 element.', 'dialog');
    await glassSays('STANDS', `${tile('Fan')} [data-drawn]`);
    // 5 leaves a gap: 2, 3 and 4 would be shown as they are.
    await bench.press('State', 'dialog fieldset');
    await bench.fill('Value of state 3', '5', 'dialog');
    await bench.page.keyboard.press('Enter');
    await bench.sees('2, 3, 4 are none of these', 'dialog');
    await bench.press('Remove the list', 'dialog');
    await until('it is gone', async () => (await project()).stateLists.length === 0);
    await bench.press('Close', 'dialog');
    await noDialog();
    await until('its own text', async () => (await glass.text(`${tile('Fan')} [data-drawn]`)) === 'off');
  });

  test('tags are replaced in all of them, shown before it is done', async () => {
    await bench.press('Replace tags', '');
    await bench.choose('In', 'page', 'dialog');
    await bench.fill('Find in the paths of tags', '_1', 'dialog');
    await bench.fill('Put in its place', '_2', 'dialog');
    await bench.sees('fan_2', '[data-retag]');
    await bench.press('Replace in 3 elements', 'dialog');
    await noDialog();
    await glassSays('on', `${tile('Fan')} [data-drawn]`);
    await glassSays('70', `${tile('Level')} [data-drawn]`);
    await (await bench.find('[role=application]')).focus();
    await key('Control+z');
    await glassSays('20', `${tile('Level')} [data-drawn]`);
  });

  test('a tag that is dropped on an element is bound to it, and on the page the fitting elements are offered', async () => {
    const drop = (selector: string, id: string) =>
      bench.page.$eval(
        selector,
        (on, tag) => {
          const held = new DataTransfer();
          held.setData('application/x-mill-latch-tag', tag);
          const { left, top, width, height } = on.getBoundingClientRect();
          on.dispatchEvent(new DragEvent('drop', { dataTransfer: held, bubbles: true, cancelable: true, clientX: left + width / 2, clientY: top + height / 2 })); // prettier-ignore
        },
        id,
      );
    await drop(box('Level'), idOf('level_2'));
    await glassSays('70', `${tile('Level')} [data-drawn]`);
    const before = await boxes();
    await drop('[role=application]', idOf('level_1'));
    await bench.press('Bar or level', 'dialog');
    await until('it is there', async () => (await boxes()) === before + 1);
    await (await bench.find('[role=application]')).focus();
    await key('Control+z');
    await key('Control+z');
    await glassSays('20', `${tile('Level')} [data-drawn]`);
  });

  test('a page goes into a file and comes back; what it names and is not here is told before', async () => {
    const client = await bench.page.createCDPSession();
    await client.send('Browser.setDownloadBehavior', { behavior: 'allow', downloadPath: files });
    await bench.press('Pages as a file', '');
    await bench.press('Save the page Overview', 'dialog');
    await until('it is saved', async () => readdirSync(files).some((name) => name === 'Overview.pages.json'));
    const saved = join(files, 'Overview.pages.json');
    const told = JSON.parse(readFileSync(saved, 'utf8')) as { pages: unknown[] };
    expect(told.pages).toHaveLength(1);
    const foreign = join(files, 'foreign.pages.json');
    writeFileSync(foreign, readFileSync(saved, 'utf8').replaceAll('level_1', 'level_of_another'));
    const bring = async (file: string) => ((await bench.find('dialog input[type=file]').catch(() => bench.page.$('dialog input[type=file]'))) as ElementHandle<HTMLInputElement>).uploadFile(file); // prettier-ignore
    await bring(foreign);
    await bench.sees('1 tag of it is not here', 'dialog');
    await bench.sees('level_of_another', 'dialog');
    writeFileSync(join(files, 'broken.json'), '{"format":"mill-latch-pages"');
    await bring(join(files, 'broken.json'));
    await bench.sees('it is not JSON', 'dialog');
    await bring(saved);
    await bench.sees('All of its tags are here', 'dialog');
    await bench.press('Bring in', 'dialog');
    await noDialog();
    await until('there is a second panel', async () => (await project()).panels.some(({ name }) => name === 'Kiln glass 2'));
    await bench.sees('3 elements', '[role=toolbar]');
    await bench.page.goto(address(), { waitUntil: 'domcontentloaded' });
    await bench.find(box('Jog'));
  });
});

describe('pictures', () => {
  /** Its address, once the glass has drawn it. */
  async function drawnPicture(): Promise<string> {
    await glass.page.bringToFront();
    const image = await glass.find('[data-kind=picture] img');
    await until('it is drawn', () => image.evaluate((one) => (one as HTMLImageElement).naturalWidth === 120));
    return image.evaluate((one) => (one as HTMLImageElement).src);
  }
  const svg = (inside: string) =>
    `<svg xmlns="http://www.w3.org/2000/svg" width="120" height="60"><rect width="120" height="60" fill="#246"/>${inside}</svg>`;
  const file = (name: string, content: string): string => {
    writeFileSync(join(files, name), content);
    return join(files, name);
  };
  const bring = async (path: string) => ((await bench.page.waitForSelector('input[aria-label="Bring a picture in"]')) as ElementHandle<HTMLInputElement>).uploadFile(path); // prettier-ignore

  test('an SVG is drawn on the glass without what it had beside its drawing, and what it lost is told', async () => {
    const before = await boxes();
    await bench.press('Add', '[role=tablist]');
    await bench.press('Picture', '[aria-label="Add to the page"]');
    await until('it is there', async () => (await boxes()) === before + 1);
    await bench.press('Pictures …', TOOLS);
    await bring(file('drum.svg', svg('<script>document.title="run"</script><image href="http://192.0.2.1/x.png"/>')));
    await bench.sees('Taken out of drum: a script, a picture inside it.');
    await bench.sees('120 × 60 pixels', 'dialog');
    await bench.press('Close', 'dialog');
    await noDialog();
    const source = await drawnPicture();
    const answer = await fetch(source);
    expect(answer.headers.get('content-security-policy')).toContain("default-src 'none'");
    expect(await answer.text()).not.toMatch(/script|192/);
    // Opened by itself it is a document: and does nothing.
    const alone = await browser.newPage();
    await alone.goto(source);
    const title = await alone.title();
    await alone.close();
    expect(title).toBe('');
    await bench.page.bringToFront();
  });

  test('one for each state of a tag changes with it, its state in words below', async () => {
    const picture = (await project()).elements.find(({ kind }) => kind === 'picture');
    await bench.pickTag('Tag of the element', 'fan_1');
    await bench.press('Pictures …', TOOLS);
    await bring(file('fan on.svg', svg('<circle r="20" fill="#fff"/>')));
    await bench.sees('fan on', '[aria-label="Pictures"]');
    await bench.press('Close', 'dialog');
    await noDialog();
    await bench.press('On and off', TOOLS);
    await bench.find('[aria-label="Picture of state 1"]');
    const pictures = await bench.page.$$eval('[aria-label="Picture of state 1"] option', (all) => all.map(({ value, text }) => ({ value, text })));
    const named = (name: string): string => pictures.find(({ text }) => text === name)?.value ?? '';
    await bench.choose('Picture of state 1', named('fan on'));
    await bench.choose('Picture', named('drum'), TOOLS);
    const shown = () => glass.page.$eval('[data-kind=picture] [data-picture]', (one) => (one as HTMLElement).dataset.picture);
    await until('off is the drum', async () => (await shown()) === 'drum');
    await glass.page.bringToFront();
    await sendCommand(server.address, 'it can be pressed', [put(overview, 'button', 'Fan on', 'fan_1', [8, 300], { actions: [newAction('set')] })]);
    await glass.press('Fan on');
    await until('on is the other', async () => (await shown()) === 'fan on');
    await glassSays('on', '[data-kind=picture] [data-drawn]');
    expect((await project()).elements.find(({ id }) => id === picture?.id)?.settings.states).toHaveLength(2);
    await bench.page.bringToFront();
  });

  test('of 100 MB, or no picture at all, are refused, and nothing changes', async () => {
    const before = ((await (await fetch(`${server.address}/api/v1/project`)).json()) as { pictures: unknown[] }).pictures.length;
    const send = async (body: Uint8Array<ArrayBuffer>) => (await fetch(`${server.address}/api/v1/pictures`, { method: 'POST', headers: { 'content-type': 'application/octet-stream', origin: server.address }, body })).status; // prettier-ignore
    expect(await send(new Uint8Array(100_000_000)).catch(() => 413)).toBe(413);
    expect(await send(new TextEncoder().encode('%PDF'))).toBe(422);
    await bench.press('Pictures …', TOOLS);
    await bring(file('huge.png', 'x'.repeat(4_000_000)));
    await bench.sees('huge.png is too large for a picture');
    await bring(file('list.svg', 'Name,Address'));
    await bench.sees('no picture that can be shown');
    await bench.press('Close', 'dialog');
    await noDialog();
    expect(((await (await fetch(`${server.address}/api/v1/project`)).json()) as { pictures: unknown[] }).pictures).toHaveLength(before);
  });
});

describe('what is bad', () => {
  test('5 000 elements on a page are refused, with the number that it holds', async () => {
    const many = Array.from({ length: 5000 }, (_, i) => put(overview, 'lamp', `L${i}`, null, [i % 100, i % 90]));
    await expect(sendCommand(server.address, 'many', many)).rejects.toThrow(/2.?000 elements/);
    await bench.sees('elements', '[role=toolbar]');
    expect(await boxes()).toBeLessThan(20);
  });

  test('an element outside the page, one whose tag is gone, and texts of any script are drawn, and said where they are doubtful', async () => {
    const long = 'Schüttgutwaage '.repeat(27).slice(0, 400).trim();
    await sendCommand(server.address, 'doubtful', [
      put(inputs, 'value', 'Far away', 'level_2', [5000, 100]),
      put(inputs, 'value', 'فرن ١', 'level_2', [700, 100]),
      put(inputs, 'value', '🔥 oven 🧑‍🏭', 'level_2', [700, 200]),
      put(inputs, 'text', 'note', null, [700, 300], { template: long }),
      put(inputs, 'value', 'Orphan', 'level_1', [700, 400]),
    ]);
    await sendCommand(server.address, 'gone', [{ kind: 'tag', id: idOf('level_1'), set: null }]);
    await glass.page.bringToFront();
    await glass.press('Inputs', 'nav');
    await glass.sees('70', `${tile('فرن ١')} [data-drawn]`);
    await glass.sees('70', `${tile('🔥 oven 🧑‍🏭')} [data-drawn]`);
    await glass.sees('no value', tile('Orphan'));
    // What is long is cut, and moves nothing.
    const [wide] = await glass.page.$$eval('[data-panel]', (all) => all.map((one) => one.scrollWidth - one.clientWidth));
    expect(wide).toBeLessThanOrEqual(0);
    await bench.page.bringToFront();
    await bench.page.goto(`${server.address}/map/preflight`, { waitUntil: 'domcontentloaded' });
    await bench.sees('lies outside the page');
    await bench.sees('“Orphan” shows no tag');
    await bench.page.goto(address(), { waitUntil: 'domcontentloaded' });
    await bench.find('[data-canvas]');
  });
});

describe('for everybody', () => {
  test.each(['day', 'night'])('axe finds nothing serious on the glass and in the editor by %s', async (theme) => {
    await sendCommand(server.address, theme, [{ kind: 'panel', id: panelId, set: { theme } }]);
    await glass.page.bringToFront();
    for (const page of [overview, inputs]) {
      await glass.page.goto(`${server.address}/panel/${panelId}?page=${page}`, { waitUntil: 'domcontentloaded' });
      await glass.find('[data-drawn]');
      await until('it has its theme', () => glass.page.evaluate((wanted) => document.documentElement.dataset.theme === wanted, theme === 'day' ? 'oat' : 'kiln')); // prettier-ignore
      expect(await axeFinds(glass.page)).toEqual([]);
    }
    await bench.page.bringToFront();
    await bench.page.evaluate((t) => localStorage.setItem('mill-latch.theme', t), theme === 'day' ? 'oat' : 'kiln');
    await bench.page.goto(address(), { waitUntil: 'domcontentloaded' });
    await (await bench.find(box('Fan'))).click();
    await bench.find('[aria-label="Settings of Fan"]');
    expect(await axeFinds(bench.page)).toEqual([]);
  });
});

test('the pages have complained of nothing', () => {
  expect([...bench.complaints, ...glass.complaints]).toEqual([]);
});
