/** However small an element is, no number on it is cut where it could be read as another one. */
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import type { Browser } from 'puppeteer-core';
import { v7 as uuid } from 'uuid';
import { newTag } from '../tests/support/newTag.ts';
import { freePort, newFolder, startServer, type RunningServer } from '../tests/support/server.ts';
import { openBrowser, Screen } from './browser.ts';
import { sendCommand } from './sendCommand.ts';

const data = newFolder();
const [panelId, tight] = [uuid(), uuid()];
const TAGS = { flow: uuid(), mode: uuid() };
let browser: Browser;
let server: RunningServer;

beforeAll(async () => {
  [browser, server] = await Promise.all([openBrowser(), startServer(data.folder, await freePort())]);
});
afterAll(async () => {
  await browser?.close();
  await server?.stop();
  data.remove();
});

const local = (name: keyof typeof TAGS, type: string, more: object) => ({
  kind: 'tag' as const,
  id: TAGS[name],
  set: { ...newTag('', name, ''), source: { kind: 'local' }, type, ...more },
});
const put = (
  kind: string,
  label: string,
  tag: keyof typeof TAGS | null,
  [x, y]: readonly [number, number],
  [w, h]: readonly [number, number],
  settings: object = {},
) => ({
  kind: 'element' as const,
  id: uuid(),
  set: { pageId: tight, kind, label, tagId: tag === null ? null : TAGS[tag], x, y, w, h, settings },
});

test('no number ends before its last digit, however small its element is', async () => {
  const kinds = ['value', 'entry', 'bar', 'dial', 'slider', 'lamp', 'switch', 'pick', 'choice', 'button', 'symbol'];
  const widths = [24, 40, 56, 72, 96, 128, 160, 220];
  await sendCommand(server.address, 'tight', [
    local('flow', 'LREAL', { initial: '-1234567.891', decimals: 3, unit: 'kg/h' }),
    local('mode', 'UINT', { initial: '2', names: [{ value: 2, name: 'Waiting for baggers' }] }),
    { kind: 'panel', id: panelId, set: { name: 'Tight glass' } },
    { kind: 'page', id: tight, set: { panelId, name: 'Tight', position: 0 } },
    ...kinds.flatMap((kind, k) =>
      widths.flatMap((w, i) =>
        [30, 64, 120].flatMap((h, j) =>
          (['flow', 'mode'] as const).map((tag, t) =>
            put(kind, `${kind} ${w} ${h} ${tag}`, tag, [(i * 131 + t * 40) % 900, (k * 40 + j * 90) % 600], [w, h]),
          ),
        ),
      ),
    ),
  ]);
  const tables = [60, 120, 200, 300, 640].map((w, i) => {
    return put('table', `table ${w}`, null, [i * 60, 500], [w, 300], { cells: Array.from({ length: 6 }, () => TAGS.flow), columns: 3, columnNames: 'Now|Least|Most', rowNames: 'Oven|Mill' }); // prettier-ignore
  });
  await sendCommand(server.address, 'tables', tables);
  const glass = await Screen.open(browser, `${server.address}/panel/${panelId}`);
  await glass.sees('-1234567.891', '[data-label="value 220 64 flow"]');
  await glass.page.evaluate(() => document.fonts.ready);
  // One that is just being replaced stands in no element for a moment.
  await glass.page.waitForFunction(() => [...document.querySelectorAll('[data-drawn]')].every((one) => one.closest('[data-label]')));
  // Asked for and measured in one turn of the page: nothing is replaced between.
  const drawn = await glass.page.evaluate(() =>
    [...document.querySelectorAll<HTMLElement>('[data-drawn]')].map((one) => {
      const box = one.closest('[data-label]') as HTMLElement;
      const [mine, its] = [one.getBoundingClientRect(), box.getBoundingClientRect()];
      const isCut = one.scrollWidth > one.clientWidth || mine.right > its.right + 0.5 || mine.left < its.left - 0.5;
      return { label: box.dataset.label ?? '', text: one.textContent ?? '', isCut };
    }),
  );
  expect(drawn.length).toBeGreaterThan(400);
  // Where there is room for two lines a label has the whole of its own.
  const labels = await glass.page.$$eval('[data-kind] [title].truncate', (all) =>
    all.flatMap((one) => ((one.closest('[data-kind]')?.clientHeight ?? 0) >= 64 && one.clientHeight < one.scrollHeight ? one.textContent : [])),
  );
  expect(labels).toEqual([]);
  expect(drawn.filter(({ text, isCut }) => isCut && /\d/.test(text))).toEqual([]);
  expect(drawn.filter(({ text }) => /\d/.test(text) && text !== '-1234567.891')).toEqual([]);
  const flows = drawn.filter(({ label }) => label.endsWith('flow'));
  expect(flows.filter(({ text }) => text === '✕ no room').length).toBeGreaterThan(20);
  expect(flows.filter(({ text }) => text === '-1234567.891').length).toBeGreaterThan(60);
  // Columns for which a table is too narrow stand one under another.
  const cells = await glass.page.$$eval('[data-kind=table] td.num, [data-kind=table] dd', (all) =>
    all.map((one) => {
      const [mine, its] = [one.getBoundingClientRect(), (one.closest('[data-kind]') as HTMLElement).getBoundingClientRect()];
      return { kind: one.tagName, text: one.textContent ?? '', isCut: mine.left < its.left - 0.5 || mine.right > its.right + 0.5 || one.scrollWidth > one.clientWidth }; // prettier-ignore
    }),
  );
  expect(cells.filter(({ isCut }) => isCut)).toEqual([]);
  expect(new Set(cells.map(({ kind, text }) => `${kind} ${text}`))).toEqual(new Set(['TD -1234567.891 kg/h', 'DD -1234567.891 kg/h']));
});
