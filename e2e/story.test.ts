import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { Browser } from 'puppeteer-core';
import { fileURLToPath } from 'node:url';
import { freePort, newFolder, startServer, type RunningServer } from '../tests/support/server.ts';
import { startKiln, type RunningStandin } from '../tests/support/standin.ts';
import { until } from '../tests/support/until.ts';
import { openBrowser, Screen } from './browser.ts';

/**
 * The whole story through the interface: from an empty data folder to a proven tag, and again after a restart.
 * What the panel shows is compared with what the stand-in's control channel says.
 */
let browser: Browser;
let kiln: RunningStandin;
let server: RunningServer;
let port: number;
const data = newFolder();
let bench: Screen;
let panel: Screen;
const list = fileURLToPath(new URL('../demo/kiln-process.csv', import.meta.url));

beforeAll(async () => {
  port = await freePort();
  [browser, kiln, server] = await Promise.all([openBrowser(), startKiln(), startServer(data.folder, port)]);
  bench = await Screen.open(browser, server.address);
});
afterAll(async () => {
  await browser?.close();
  await Promise.all([server?.stop(), kiln?.stop()]);
  data.remove();
});

/** The panel's text for a thing by its label. */
const drawn = (label: string): Promise<string> => panel.text(`[data-label="${label}"] [data-drawn]`);

describe('from a register to the glass', () => {
  test('a link and a device are made; a bad host, port and unit are told at their fields', async () => {
    await bench.sees('No link yet');
    await bench.find('[data-guide="link"]');
    await bench.press('Create the first link');
    await bench.fill('Name', 'Kiln cabinet', 'dialog');
    await bench.fill('Host', '127.0.0.999', 'dialog');
    await bench.fill('Port', '70000', 'dialog');
    await bench.press('Create link', 'dialog');
    await bench.sees('An IPv4 address has four numbers from 0 to 255.', 'dialog');
    await bench.sees('The port is a whole number from 1 to 65535.', 'dialog');
    await bench.fill('Host', '127.0.0.1', 'dialog');
    await bench.fill('Port', String(kiln.modbusPort), 'dialog');
    await bench.press('Create link', 'dialog');
    await bench.sees('connected');
    await bench.press('Device', 'main section');
    await bench.fill('Name', 'KILN', 'dialog');
    await bench.fill('Unit', '250', 'dialog');
    await bench.press('Create device', 'dialog');
    await bench.sees('Units are 1 to 247', 'dialog');
    await bench.fill('Unit', '1', 'dialog');
    await bench.fill('Control channel', kiln.controlUrl, 'dialog');
    await bench.press('Create device', 'dialog');
    await bench.find('[data-device="KILN"]');
    await bench.find('[data-guide="tags"]');
  });

  test('the connection is tested in stages', async () => {
    await bench.press('Test connection');
    await bench.find('[data-stage="times"][data-state="passed"]');
    expect(
      await bench.page.$$eval('dialog [data-stage]', (all) => all.map((e) => `${e.getAttribute('data-stage')} ${e.getAttribute('data-state')}`)),
    ).toEqual(['settings passed', 'host passed', 'protocol passed', 'unit passed', 'identification passed', 'times passed']);
    await bench.press('Close', 'dialog');
  });

  test('the list is imported from a CSV file, and its tags show live values', async () => {
    await bench.go('Lists');
    const input = (await bench.field('Tag list file')) as unknown as { uploadFile(path: string): Promise<void> };
    await input.uploadFile(list);
    await bench.sees('59 rows understood', '[data-preview-count]');
    await bench.press('Import 59 tags');
    await bench.sees('kiln-process.csv', 'table');
    await bench.go('Map');
    await bench.fill('Find tags', 'bed_temp');
    await bench.find('[data-guide="the first right value"]');
    await until('the outlet is read', async () => /\d/.test(await bench.cell('bed_temp_out', 'value')));
  });

  test('a wrong word order is seen, named and corrected by keyboard', async () => {
    const said = Number(await bench.cell('bed_temp', 'value'));
    expect(Math.abs(said - Number(await kiln.value('bed_temp')))).toBeGreaterThan(100);
    await (await bench.find('[data-tag="bed_temp"] [data-column="name"]')).click();
    await bench.sees('words swapped (CDAB) would give', '[data-finding]');
    await bench.editCell('bed_temp', 'order', 'cdab');
    await until('the value is right', async () => Math.abs(Number(await bench.cell('bed_temp', 'value')) - Number(await kiln.value('bed_temp'))) < 1);
    expect(await bench.cell('bed_temp', 'order')).toBe('CDAB');
  });

  test('a bad edit is refused with its reason and changes nothing', async () => {
    await bench.editCell('bed_temp_sp', 'address', '50003');
    await bench.sees('is not a Modbus address');
    await until('the address stands', async () => (await bench.cell('bed_temp_sp', 'address')) === '40003');
  });

  test('a scale from raw counts to °C is set through two points', async () => {
    await bench.go('Scale');
    await bench.pickTag('Tag to scale', 'bed_temp_sp');
    await bench.choose('Rule', 'linear', 'form');
    await bench.fill('First raw value', '0', 'form');
    await bench.fill('Second raw value', '0', 'form');
    await bench.sees('Both raw points are the same', 'form');
    await bench.fill('Second raw value', '27648', 'form');
    const second = await bench.page.$$('form[aria-label="Scale"] input');
    await second[3]?.click({ count: 3 });
    await bench.page.keyboard.type('150');
    await bench.fill('Decimals', '1', 'form');
    await bench.fill('Expected from', '40', 'form');
    await bench.fill('Expected to', '130', 'form');
    await bench.fill('Raw value', '11248');
    // Common practice: raw 0…27648 to 0…150, 11248 (2BF0h) is 61.0.
    await bench.sees('61.0 °C', '[data-calculated="eng"]');
    await bench.press('Apply scale');
    await until('the strip shows the set point', async () => (await bench.text('[data-strip="bed_temp_sp"] [data-stage="4"]')).includes('104.0 °C'));
  });

  test('the tag is put on a panel page', async () => {
    await bench.go('Panels');
    await bench.press('Make a panel');
    await bench.press('Entry', '[aria-label="Add to the page"]');
    await bench.sees('104.0', '[data-kind="entry"]');
    await bench.press('Add', '[aria-label="Page tools"]');
    await bench.press('Value', '[aria-label="Add to the page"]');
    await bench.page.waitForFunction(
      () => document.querySelector<HTMLElement>('[role=group][aria-label^="Settings of"] strong')?.innerText === 'Value',
    );
    await bench.pickTag('Tag of the element', 'bed_temp');
    await until('both stand on the page', async () => (await bench.page.$$('[data-drawn]')).length === 2);
  });

  test('the panel shows the same value at its own address', async () => {
    const href = await bench.page.$eval('a[href^="/panel/"]', (a) => a.getAttribute('href'));
    panel = await Screen.open(browser, `${server.address}${href}`);
    await panel.find('[data-drawn]');
    await kiln.hold(true);
    await until('the panel is at rest', async () => Math.abs(Number(await drawn('bed_temp_sp')) - Number(await kiln.value('bed_temp_sp'))) <= 0.05);
  });

  test('writing is locked until it is unlocked for a stated time by a named person', async () => {
    await panel.press('Enter bed_temp_sp');
    await panel.fill('New value', '88', 'dialog');
    await panel.press('Write', 'dialog');
    await panel.sees('is locked', 'dialog');
    expect(await kiln.value('bed_temp_sp')).toBe(104);
    await panel.press('Cancel', 'dialog');
    await bench.page.bringToFront();
    await bench.press('writing locked');
    await bench.fill('Your name', 'R. Vale', 'dialog');
    await bench.press('Unlock writing', 'dialog');
    await bench.sees('writing open: KILN');
  });

  test('a set point entered on the panel is taken by the controller', async () => {
    await panel.page.bringToFront();
    await panel.press('Enter bed_temp_sp');
    await panel.fill('New value', '131', 'dialog');
    await panel.sees('outside the tag', 'dialog');
    await panel.fill('New value', '88,5', 'dialog');
    await panel.sees('A comma can mean decimals or thousands', 'dialog');
    await panel.fill('New value', '88.5', 'dialog');
    await panel.sees('The controller will hold 88.5 °C.', '[data-will-hold]');
    await panel.press('Write', 'dialog');
    await until('the controller has it', async () => Math.abs(Number(await kiln.value('bed_temp_sp')) - 88.5) < 150 / 27648);
    await until('the panel shows it', async () => (await drawn('bed_temp_sp')) === '88.5');
    const log = (await (await fetch(`${server.address}/api/v1/writes`)).json()) as {
      tagName: string;
      who: string;
      origin: string;
      state: string;
      old: { value: number };
      asked: { value: number };
      held: { value: number };
    }[];
    expect(log).toHaveLength(1);
    expect(log[0]).toMatchObject({ tagName: 'bed_temp_sp', who: 'R. Vale', origin: 'panel', state: 'done' });
    expect([log[0]?.old.value, log[0]?.asked.value, log[0]?.held.value].map((v) => Number(v).toFixed(1))).toEqual(['104.0', '88.5', '88.5']);
    await kiln.hold(false);
  });

  test('the tag is proven against the control channel, the page text compared with its own sample', async () => {
    await bench.page.bringToFront();
    await bench.go('Check');
    await bench.fill('Find tags to check', 'bed_temp');
    await (await bench.find('[data-tag="bed_temp_sp"]')).click();
    // The page must really be drawn before it can be compared.
    await until(
      'the preview draws',
      async () =>
        (
          await bench.page
            .frames()
            .find((f) => f.url().includes('embedded'))
            ?.$$('[data-drawn]')
        )?.length === 2,
    );
    await new Promise((resolve) => setTimeout(resolve, 1500));
    await bench.press('Ask the control channel');
    await bench.sees('The witness says 88.5 °C', '[data-outcome]');
    await bench.sees('consistent', '[data-outcome]');
    await bench.find('[data-tag="bed_temp_sp"] [data-proof="proven"]');
    expect(await bench.page.$('[data-guide]')).toBeNull();
    await (await bench.find('[data-tag="bed_temp"]')).click();
    await bench.fill('What you see at the controller', '12.5');
    await bench.press('Compare');
    await bench.find('[data-tag="bed_temp"] [data-proof="failed"]');
  });

  test('a change on the signal path ends the proof, and undoing it brings the proof back', async () => {
    await bench.go('Map');
    await bench.fill('Find tags', 'bed_temp_sp');
    await bench.editCell('bed_temp_sp', 'unit', 'K');
    await bench.find('[data-tag="bed_temp_sp"] [data-proof="changed"]');
    await bench.page.keyboard.down('Control');
    await bench.page.keyboard.press('z');
    await bench.page.keyboard.up('Control');
    await bench.find('[data-tag="bed_temp_sp"] [data-proof="proven"]');
  });

  test('everything survives a restart, but writing is locked again', async () => {
    await server.stop('SIGKILL');
    await bench.sees('The server does not answer');
    await until('the panel marks its values', async () => (await drawn('bed_temp_sp')) === '–');
    server = await startServer(data.folder, port);
    // Nothing is clicked and nothing reloaded: both pages come back by themselves.
    await bench.sees('1 of 1 link online');
    await until('the panel is back', async () => (await drawn('bed_temp_sp')) === '88.5');
    expect(Number(await kiln.value('bed_temp_sp'))).toBeCloseTo(88.5, 1);
    await bench.find('[data-tag="bed_temp_sp"] [data-proof="proven"]');
    await bench.sees('writing locked');
    expect(await bench.cell('bed_temp_sp', 'unit')).toBe('°C');
    expect(bench.complaints).toEqual([]);
    expect(panel.complaints).toEqual([]);
  });
});
