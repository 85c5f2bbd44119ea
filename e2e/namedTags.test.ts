/** A controller with named tags through the interface, from nothing: reached by its route, its tags listed, a structure chosen, read, written, renamed and found. */
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { Browser } from 'puppeteer-core';
import { freePort, newFolder, startServer, type RunningServer } from '../tests/support/server.ts';
import { startStandin, type RunningStandin } from '../tests/support/standin.ts';
import { until } from '../tests/support/until.ts';
import { openBrowser, Screen } from './browser.ts';

let browser: Browser;
let server: RunningServer;
let pack: RunningStandin;
let bench: Screen;
const data = newFolder();

beforeAll(async () => {
  [browser, server, pack] = await Promise.all([openBrowser(), startServer(data.folder, await freePort()), startStandin('pack')]);
  bench = await Screen.open(browser, server.address);
});
afterAll(async () => {
  await browser?.close();
  await Promise.all([server?.stop(), pack?.stop()]);
  data.remove();
});

interface Tag {
  readonly id: string;
  readonly name: string;
  readonly unit: string;
  readonly source: { readonly address: string };
}
interface Project {
  readonly tags: readonly Tag[];
  readonly devices: readonly { readonly id: string }[];
}
const project = async (): Promise<Project> => (await (await fetch(`${server.address}/api/v1/project`)).json()) as Project;
const tagNamed = async (name: string): Promise<Tag | undefined> => (await project()).tags.find((t) => t.name === name);
const unitOf = async (name: string): Promise<string | undefined> => (await tagNamed(name))?.unit;
const shown = async (name: string): Promise<string> => {
  const id = (await tagNamed(name))?.id;
  const { values } = (await (await fetch(`${server.address}/api/v1/values`)).json()) as {
    values: { tagId: string; text: string; quality: string }[];
  };
  const value = values.find((v) => v.tagId === id);
  return value ? `${value.text} ${value.quality}` : 'nothing';
};

describe('a bagging cell with named tags', () => {
  test('is found on the network, and reached by its route; an empty slot is told as one', async () => {
    await bench.go('Links');
    await bench.press('Create the first link');
    await bench.fill('Name', 'Bagging cell', 'dialog');
    await bench.choose('Protocol', 'ethernet-ip', 'dialog');
    await bench.fill('Host', '192.0.2.1', 'dialog');
    await bench.fill('Port', String(pack.cipPort), 'dialog');
    await bench.fill('Network adapter', 'lo', 'dialog');
    await bench.press('Discover on the network', 'dialog');
    await bench.sees('Packing controller, revision 3.011', `[data-party="127.0.0.1:${pack.cipPort}"]`);
    await bench.press(`Use 127.0.0.1:${pack.cipPort}`, 'dialog');
    await bench.fill('Network adapter', '', 'dialog');
    await bench.press('Create link', 'dialog');
    await bench.sees(`127.0.0.1:${pack.cipPort}`, 'section[aria-label="Link Bagging cell"]');
    await bench.press('Device', 'section[aria-label="Link Bagging cell"]');
    await bench.fill('Name', 'PACK', 'dialog');
    await bench.fill('Route to the processor', 'slot 3', 'dialog');
    await bench.press('Create device', 'dialog');
    await bench.sees('Pairs of a port and a slot or address, such as 1,0.', 'dialog');
    await bench.fill('Route to the processor', '1,3', 'dialog');
    await bench.press('Create device', 'dialog');
    await bench.press('Test connection', '[data-device="PACK"]');
    await bench.find('dialog [data-stage="adapter"][data-state="passed"]');
    await bench.find('dialog [data-stage="processor"][data-state="failed"]');
    await bench.sees('the slot may be empty', 'dialog');
    await bench.press('Close', 'dialog');
    await bench.press('Change device PACK', '[data-device="PACK"]');
    await bench.fill('Route to the processor', '1,0', 'dialog');
    await bench.press('Save', 'dialog');
    await bench.press('Test connection', '[data-device="PACK"]');
    await bench.sees('The connection to the device is good.', 'dialog');
    await bench.sees('messages of 4000 bytes are granted', 'dialog [data-stage="connection"]');
    await bench.press('Close', 'dialog');
  });

  test('lists its tags; one structure is chosen by a rule, and its members have values', async () => {
    await pack.hold(true);
    await bench.go('Lists');
    await bench.press('Ask PACK for its tags');
    await bench.sees('rows understood', '[data-preview-count]');
    await bench.press('Selection');
    await bench.fill('Include', 'Bagger[2]* Line_*');
    await bench.page.keyboard.press('Enter');
    await bench.press('Import 13 tags');
    await until('they are in', async () => (await tagNamed('Bagger[2].Weight')) !== undefined);
    expect((await project()).tags.map((t) => t.name).filter((name) => !/^(Bagger\[2\]\.|Line_)/.test(name))).toEqual([]);
    await pack.set('bagger_3_weight', 12.5);
    await until('the value comes', async () => (await shown('Bagger[2].Weight')) === '12.5 good');
    expect([await shown('Bagger[2].Recipe'), await shown('Bagger[2].Running'), await shown('Line_SpeedSP')]).toEqual([
      'Jumbo oats 20 good',
      'on good',
      '12.5 good',
    ]);
    await bench.go('Map');
    await bench.sees('12.5', '[data-tag="Bagger[2].Weight"]');
  });

  test('has its structure said once: a unit of a member is that of its tag, unless the tag has its own', async () => {
    await bench.go('Map');
    await bench.press('Types');
    await bench.sees('1 block: Bagger[2]', 'dialog');
    await bench.fill('Unit of Weight', 'kg', 'dialog');
    await bench.page.keyboard.press('Enter');
    await until('the tag follows', async () => (await unitOf('Bagger[2].Weight')) === 'kg');
    await bench.press('Close', 'dialog');
    await bench.editCell('Bagger[2].Weight', 'unit', 'lb');
    await bench.press('Types');
    await bench.press('Have 1 follow Weight again', 'dialog');
    await until('the tag follows again', async () => (await unitOf('Bagger[2].Weight')) === 'kg');
    await bench.press('Close', 'dialog');
  });

  test('takes writes once writing is unlocked: a number, a text, and one BOOL among others of its byte', async () => {
    const deviceId = (await project()).devices[0]?.id;
    const post = (path: string, body: object) =>
      fetch(`${server.address}/api/v1${path}`, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) });
    const write = async (name: string, value: string): Promise<unknown> =>
      (await post(`/tags/${(await tagNamed(name))?.id}/write`, { id: crypto.randomUUID(), value, origin: 'engineer' })).json();
    for (const name of ['Target', 'Recipe', 'Running']) await bench.editCell(`Bagger[2].${name}`, 'access', 'RW');
    await post('/guard/unlock', { deviceId, minutes: 5, who: 'R. Vale', writers: ['engineer'] });
    expect(await write('Bagger[2].Target', '20.5')).toMatchObject({ state: 'done' });
    expect(await write('Bagger[2].Recipe', 'Pinhead 20')).toMatchObject({ state: 'done' });
    await pack.set('bagger_3_fault', true);
    expect(await write('Bagger[2].Running', 'off')).toMatchObject({ state: 'done' });
    expect([
      await pack.value('bagger_3_target'),
      await pack.value('bagger_3_recipe'),
      await pack.value('bagger_3_running'),
      await pack.value('bagger_3_fault'),
    ]).toEqual([20.5, 'Pinhead 20', false, true]);
  });

  test('goes on being read when its structure is laid out anew, and after it has dropped the connection', async () => {
    await pack.set('relay', true);
    await pack.set('forget', true);
    await pack.set('bagger_3_weight', 7.25);
    await until('the value comes', async () => (await shown('Bagger[2].Weight')) === '7.25 good');
    expect(await shown('Bagger[2].Target')).toBe('20.5 good');
  });

  test('renames a tag: it is bad with its cause until the list is asked for again, where it is found and stays itself', async () => {
    const before = await tagNamed('Line_SpeedSP');
    await pack.set('rename', 'Line_Speed_Set_Point');
    await until('it is bad', async () => (await shown('Line_SpeedSP')).endsWith('bad'));
    await bench.go('Map');
    await (await bench.find('[data-tag="Line_SpeedSP"] [data-column="name"]')).click();
    await bench.sees('The controller has no tag or member of that name', '[aria-label="Signal path"]');
    await bench.go('Lists');
    await bench.press('Ask PACK for its tags');
    await bench.sees('Renamed or moved?\n1', '[role=tablist]');
    await bench.press('Renamed or moved?', '[role=tablist]');
    await (await bench.find('input[aria-label="Line_SpeedSP became Line_Speed_Set_Point"]')).click();
    await bench.press('Import 2 changes');
    await until('it is good again', async () => (await shown('Line_Speed_Set_Point')) === '12.5 good');
    expect((await tagNamed('Line_Speed_Set_Point'))?.id).toBe(before?.id);
    expect(bench.complaints).toEqual([]);
  });
});
