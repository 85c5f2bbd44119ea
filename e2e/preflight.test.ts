/** Preflight in the browser: nothing in a clean project, and each of the mistakes that are planted in it. */
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import type { Browser } from 'puppeteer-core';
import { v7 as uuid } from 'uuid';
import { newTag } from '../tests/support/newTag.ts';
import { freePort, newFolder, startServer, type RunningServer } from '../tests/support/server.ts';
import { until } from '../tests/support/until.ts';
import { openBrowser, Screen } from './browser.ts';
import { sendCommand } from './sendCommand.ts';

let browser: Browser;
let server: RunningServer;
let bench: Screen;
const data = newFolder();
const ids = { link: uuid(), device: uuid(), panel: uuid(), page: uuid(), bed: uuid(), fan: uuid() };
const RANGE = { rangeLow: 0, rangeHigh: 100 };
const read = (name: string, address: string, more: object = {}) => ({
  kind: 'tag' as const,
  id: uuid(),
  set: { ...newTag(ids.device, name, address), access: 'read', ...more },
});
const written = (name: string, address: string, more: object = {}) => read(name, address, { access: 'readWrite', ...more });
const shown = (tagId: string, y: number) => ({
  kind: 'element' as const,
  id: uuid(),
  set: { pageId: ids.page, tagId, kind: 'value', label: 'shown', x: 0, y: y * 70, w: 200, h: 64, settings: {} },
});
const command = (changes: readonly object[]): Promise<void> => sendCommand(server.address, 'planted', changes);
const found = (): Promise<string[]> =>
  bench.page.evaluate(() => [...document.querySelectorAll<HTMLElement>('[data-doubt]')].map((e) => e.dataset.doubt ?? ''));

beforeAll(async () => {
  [browser, server] = await Promise.all([openBrowser(), startServer(data.folder, await freePort())]);
  await command([
    { kind: 'link', id: ids.link, set: { name: 'Line', driver: 'modbus-tcp', settings: { host: '127.0.0.1', port: 9 } } },
    {
      kind: 'device',
      id: ids.device,
      set: { linkId: ids.link, name: 'KILN', settings: { unit: 1 }, dialect: { bitWrites: 'mask' }, witnessUrl: '' },
    },
    { ...read('bed_temp', '40011', { type: 'REAL', unit: '°C', ...RANGE }), id: ids.bed },
    { ...written('fan_cmd', '00020', { type: 'BOOL' }), id: ids.fan },
    { kind: 'panel', id: ids.panel, set: { name: 'Kiln' } },
    { kind: 'page', id: ids.page, set: { panelId: ids.panel, name: 'Bed', position: 0 } },
    shown(ids.bed, 0),
    shown(ids.fan, 1),
  ]);
  bench = await Screen.open(browser, `${server.address}/map/preflight`);
});
afterAll(async () => {
  await browser?.close();
  await server?.stop();
  data.remove();
});

test('a clean project has none; each of sixteen planted mistakes is found, and gone when it is put right', async () => {
  await bench.sees('nothing doubtful', '[role="status"]');
  const command_word = written('command', '40200', { type: 'WORD', ...RANGE });
  const planted: readonly (readonly [code: string, changes: readonly object[]])[] = [
    ['overlap', [read('over', '40012')]],
    ['two-types', [read('twin', '40011', { type: 'DINT' })]],
    ['two-meanings', [read('other_unit', '40011', { type: 'REAL', unit: '°F' })]],
    ['written-twice', [written('fan_too', '00020', { type: 'BOOL' })]],
    ['bit-of-written-word', [command_word, written('start', '40200.3', { type: 'BOOL' })]],
    ['read-only-place', [written('input_sp', '30050', RANGE)]],
    ['no-range', [written('free_sp', '40060')]],
    ['range-beyond-type', [read('far', '40070', { rangeLow: 0, rangeHigh: 100_000 })]],
    ['no-scale', [read('press', '40080', { unit: 'bar' })]],
    ['type-disagrees', [read('dwell', '40090', { type: 'UDINT', listType: 'TIME', listName: 'dwell' })]],
    ['alike-names', [{ kind: 'group', id: uuid(), set: { name: 'Bed', parentId: null, deviceId: ids.device } }]],
    [
      'calculation',
      [
        {
          ...read('sum', ''),
          set: { ...newTag('', 'sum'), access: 'read', type: 'LREAL', source: { kind: 'calculated', expression: `@${ids.bed} + 1` }, unit: 'bar' },
        },
      ],
    ],
    ['unused', [read('lonely', '40100')]],
    ['same-party', [{ kind: 'device', id: uuid(), set: { linkId: ids.link, name: 'KILN 2', settings: { unit: 1 }, dialect: {}, witnessUrl: '' } }]],
    ['no-devices', [{ kind: 'link', id: uuid(), set: { name: 'Spare', driver: 'modbus-tcp', settings: { host: '127.0.0.1', port: 10 } } }]],
    ['empty-page', [{ kind: 'page', id: uuid(), set: { panelId: ids.panel, name: 'Nothing', position: 1 } }]],
  ];
  for (const [code, changes] of planted) {
    const made = changes as readonly { readonly kind: string; readonly id: string; readonly set: Record<string, unknown> }[];
    const group = made.find(({ kind }) => kind === 'group');
    const more = group ? [read('Bed-Temp', '40110', { groupId: group.id })] : [];
    await command([...made, ...more]);
    await until(`${code} is found`, async () => (await found()).includes(code));
    await command([...more, ...made].reverse().map(({ kind, id }) => ({ kind, id, set: null })));
    await until(`${code} is gone`, async () => (await found()).length === 0);
  }
  await bench.sees('nothing doubtful', '[role="status"]');
  expect(planted.length).toBeGreaterThanOrEqual(15);
  expect(bench.complaints).toEqual([]);
});
