/** OPC UA through the interface, from nothing: a certificate accepted by hand, browsed, chosen, read, written, and found again after a restart. */
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { Browser } from 'puppeteer-core';
import { freePort, newFolder, startServer, type RunningServer } from '../tests/support/server.ts';
import { startStandin, type RunningStandin } from '../tests/support/standin.ts';
import { until } from '../tests/support/until.ts';
import { openBrowser, Screen } from './browser.ts';

let browser: Browser;
let server: RunningServer;
let weigh: RunningStandin;
let bench: Screen;
const data = newFolder();

beforeAll(async () => {
  [browser, server, weigh] = await Promise.all([openBrowser(), startServer(data.folder, await freePort()), startStandin('weigh')]);
  bench = await Screen.open(browser, server.address);
});
afterAll(async () => {
  await browser?.close();
  await Promise.all([server?.stop(), weigh?.stop()]);
  data.remove();
});

interface Tag {
  readonly id: string;
  readonly name: string;
  readonly source: { readonly address: string };
}
const tags = async (): Promise<readonly Tag[]> => ((await (await fetch(`${server.address}/api/v1/project`)).json()) as { tags: Tag[] }).tags;
const shown = async (name: string): Promise<string> => {
  const id = (await tags()).find((t) => t.name === name)?.id;
  const { values } = (await (await fetch(`${server.address}/api/v1/values`)).json()) as {
    values: { tagId: string; text: string; quality: string }[];
  };
  const value = values.find((v) => v.tagId === id);
  return value ? `${value.text} ${value.quality}` : 'nothing';
};

describe('a weigher with a server of OPC UA', () => {
  test('is reached once its certificate is accepted, which a person has compared', async () => {
    await bench.go('Links');
    await bench.press('Create the first link');
    await bench.fill('Name', 'Weigher', 'dialog');
    await bench.choose('Protocol', 'opc-ua', 'dialog');
    await bench.fill('Address of the server', 'http://127.0.0.1', 'dialog');
    await bench.press('Create link', 'dialog');
    await bench.sees('An address such as opc.tcp://192.0.2.20:4840.', 'dialog');
    await bench.fill('Address of the server', `opc.tcp://127.0.0.1:${weigh.uaPort}`, 'dialog');
    await bench.press('Create link', 'dialog');
    await bench.sees('has not been accepted yet', 'section[aria-label="Link Weigher"]');
    await bench.press('Device', 'section[aria-label="Link Weigher"]');
    await bench.fill('Name', 'WEIGH', 'dialog');
    await bench.press('Create device', 'dialog');
    await bench.press('Test connection', '[data-device="WEIGH"]');
    await bench.find('dialog [data-stage="security"][data-state="failed"]');
    const told = (await bench.text('dialog [data-stage="security"]')).replaceAll(' ', '');
    expect(told).toContain(weigh.fingerprint);
    await bench.press('Accept this certificate', 'dialog');
    await bench.find('dialog [data-stage="session"][data-state="passed"]');
    await bench.sees('The connection to the device is good.', 'dialog');
    await bench.press('Close', 'dialog');
    await bench.sees('connected', 'section[aria-label="Link Weigher"]');
  });

  test('lists its variables; some are chosen by a rule, and their values come', async () => {
    await bench.go('Lists');
    await bench.press('Ask WEIGH for its tags');
    await bench.sees('rows understood', '[data-preview-count]');
    await bench.press('Selection');
    await bench.fill('Exclude', '*Milligrams');
    await bench.page.keyboard.press('Enter');
    await bench.sees('1 excluded', '[data-preview-count]');
    await bench.press('Import 10 tags');
    await until('they are in', async () => (await tags()).some((t) => t.name === 'Hopper.Weight'));
    const all = await tags();
    expect(all.find((t) => t.name === 'Hopper.Weight')?.source.address).toBe('nsu=urn:quern-hollow:weigh;s=Hopper.Weight');
    expect(all.map((t) => t.name)).toEqual(expect.arrayContaining(['Hopper.Gates.Open[0]', 'Hopper.Gates.Open[2]', 'Hopper.State']));
    await until('values come', async () => (await shown('Hopper.Weight')).endsWith('good'));
    await weigh.hold(true);
    await weigh.set('weight', 101.25);
    await until('the change comes', async () => (await shown('Hopper.Weight')) === '101.25 good');
    await bench.go('Map');
    await bench.sees('101.25', '[data-tag="Hopper.Weight"]');
    await bench.sees('kg', '[data-tag="Hopper.Weight"]');
    expect(await shown('Hopper.State')).toMatch(/^(Filling|Settling|Discharging) good$/);
    await bench.sees((await shown('Hopper.State')).replace(' good', ''), '[data-tag="Hopper.State"]');
  });

  test('takes a set point once writing is unlocked', async () => {
    const [device] = ((await (await fetch(`${server.address}/api/v1/project`)).json()) as { devices: { id: string }[] }).devices;
    const post = (path: string, body: object) =>
      fetch(`${server.address}/api/v1${path}`, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) });
    const id = (await tags()).find((t) => t.name === 'Hopper.WeightSetPoint')?.id ?? '';
    const write = () => post(`/tags/${id}/write`, { id: crypto.randomUUID(), value: '95.5', origin: 'engineer' });
    expect((await write()).status).toBeGreaterThanOrEqual(400);
    await post('/guard/unlock', { deviceId: device?.id, minutes: 5, who: 'R. Vale', writers: ['engineer'] });
    expect(await (await write()).json()).toMatchObject({ state: 'done' });
    expect(await weigh.value('weight_sp')).toBe(95.5);
  });

  test('is found again by itself after a restart with other numbers of its namespaces; until then no value is good', async () => {
    await weigh.set('renumber', 3);
    await until('its values are bad', async () => (await shown('Hopper.Weight')).endsWith('bad'));
    await until('they are good again', async () => (await shown('Hopper.Weight')) === '101.25 good', 60_000);
    expect((await tags()).find((t) => t.name === 'Hopper.Weight')?.source.address).toBe('nsu=urn:quern-hollow:weigh;s=Hopper.Weight');
    expect(bench.complaints).toEqual([]);
  });
});
