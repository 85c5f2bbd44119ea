/** Scales through their form: each kind of step, the calculator both ways, the curve, and what is kept. */
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { Browser } from 'puppeteer-core';
import { v7 as uuid } from 'uuid';
import { newTag } from '../tests/support/newTag.ts';
import { freePort, newFolder, startServer, type RunningServer } from '../tests/support/server.ts';
import { startKiln, type RunningStandin } from '../tests/support/standin.ts';
import { until } from '../tests/support/until.ts';
import { openBrowser, Screen } from './browser.ts';
import { sendCommand } from './sendCommand.ts';

let browser: Browser;
let server: RunningServer;
let bench: Screen;
let standin: RunningStandin;
const data = newFolder();
const FORM = 'form[aria-label="Scale"]';
const probe = uuid();
const kept = async (): Promise<unknown> => {
  const { scales } = (await (await fetch(`${server.address}/api/v1/project`)).json()) as { scales: { id: string; scale: unknown }[] };
  return scales.find(({ id }) => id === probe)?.scale ?? null;
};

beforeAll(async () => {
  [browser, server, standin] = await Promise.all([openBrowser(), startServer(data.folder, await freePort()), startKiln()]);
  await sendCommand(server.address, 'a probe', [
    { kind: 'tag', id: probe, set: { ...newTag('', 'probe', ''), source: { kind: 'local' }, type: 'INT', initial: '5000', unit: 'x' } },
  ]);
  bench = await Screen.open(browser, `${server.address}/scale`);
  await bench.sees('no scale: the raw number is the value', FORM);
});
afterAll(async () => {
  await browser?.close();
  await Promise.all([server?.stop(), standin?.stop()]);
  data.remove();
});

interface Built {
  readonly kind: string;
  readonly fields: Readonly<Record<string, string>>;
  readonly decimals: string;
  /** A raw value, what it is, and where that number comes from. */
  readonly raw: string;
  readonly is: string;
  readonly step: object;
  /** The unit that the step leads to, where it says one. */
  readonly unit?: string;
}

/** Numbers by common practice, by the formula worked out by hand, and by the published tables of the sensors. */
const KINDS: readonly Built[] = [
  { kind: 'linear', fields: { 'First raw value': '0', 'Second raw value': '27648' }, decimals: '1', raw: '11248', is: '40.7', step: { kind: 'linear', rawA: 0, engA: 0, rawB: 27_648, engB: 100 } },
  { kind: 'gain', fields: { Gain: '0.01', Offset: '0' }, decimals: '1', raw: '145', is: '1.5', step: { kind: 'gain', gain: 0.01, offset: 0 } },
  { kind: 'power', fields: { 'Power of ten': '-2' }, decimals: '2', raw: '145', is: '1.45', step: { kind: 'power', exponent: -2 } },
  { kind: 'duration', fields: { 'A count is': '10 ms', 'shown in': 's' }, decimals: '2', raw: '150', is: '1.50', step: { kind: 'duration', from: '10 ms', to: 's' }, unit: 's' },
  { kind: 'table', fields: {}, decimals: '1', raw: '250', is: '15.0', step: { kind: 'table', points: [[0, 0], [100, 10], [400, 20]], ends: 'none' } },
  { kind: 'root', fields: { 'Full at': '27648', 'Full flow': '120' }, decimals: '1', raw: '6912', is: '60.0', step: { kind: 'root', zero: 0, span: 27_648, full: 120, cut: 0 } },
  { kind: 'polynomial', fields: { 'Terms': '1 0.5 0.001', 'Meant from': '0', 'to': '1000' }, decimals: '3', raw: '100', is: '61.000', step: { kind: 'polynomial', terms: [1, 0.5, 0.001], from: 0, to: 1000 } },
  { kind: 'current', fields: {}, decimals: '0', raw: '12', is: '12', step: { kind: 'current' }, unit: 'mA' },
  { kind: 'formula', fields: { 'Formula of x': 'x * 2 + 1', 'Way back, of y': '(y - 1) / 2', 'to': '100' }, decimals: '0', raw: '10', is: '21', step: { kind: 'formula', expression: 'x * 2 + 1', back: '(y - 1) / 2', from: 0, to: 100 } },
  { kind: 'thermocouple', fields: {}, decimals: '0', raw: '41', is: '993', step: { kind: 'thermocouple', type: 'K', reference: 0 }, unit: '°C' },
  { kind: 'platinum', fields: {}, decimals: '1', raw: '100', is: '0.0', step: { kind: 'platinum', r0: 100 }, unit: '°C' },
  { kind: 'unit', fields: { From: '°C', to: '°F' }, decimals: '0', raw: '100', is: '212', step: { kind: 'unit', from: '°C', to: '°F' }, unit: '°F' },
  { kind: 'modulus', fields: { 'Divided by': '360', 'Begins at': '-180' }, decimals: '0', raw: '-170', is: '-170', step: { kind: 'modulus', by: 360, from: -180 } },
  { kind: 'texts', fields: { Texts: '0=off; 7=heating' }, decimals: '', raw: '7', is: 'heating', step: { kind: 'texts', names: '0=off; 7=heating' } },
  { kind: 'clamp', fields: { 'Not above': '200' }, decimals: '0', raw: '150', is: '150', step: { kind: 'clamp', low: 0, high: 200 } },
]; // prettier-ignore

describe('a scale of one step', () => {
  test.each(KINDS)('$kind: raw $raw is $is, and back; the curve shows it; it is kept', async ({ kind, fields, decimals, raw, is, step, unit }) => {
    await bench.choose('Rule', kind, FORM);
    if (kind === 'table') {
      const area = await bench.find(`${FORM} textarea`);
      await area.click();
      await bench.page.keyboard.type('0 0\n100 10\n400 20');
    }
    for (const [label, value] of Object.entries(fields)) await bench.fill(label, value, FORM);
    if (unit === undefined) await bench.fill('Unit', 'x', FORM);
    await bench.fill('Decimals', decimals, FORM);
    await bench.fill('Raw value', raw);
    await bench.sees(`${is} ${unit ?? 'x'}`, '[data-calculated="eng"]');
    await bench.fill('Engineering value', is);
    await until('it comes back', async () => Math.abs(Number(await bench.text('[data-calculated="raw"]')) - Number(raw)) <= (kind === 'linear' ? 15 : kind === 'gain' ? 5 : 0));
    await bench.press('Apply scale');
    await until('it is kept', async () => ((await kept()) as { kind?: string } | null)?.kind === kind);
    expect(await kept()).toEqual(step);
    expect(await bench.page.$$eval('[aria-label="The line drawn"] path.recharts-line-curve', (paths) => paths.length)).toBe(1);
  }); // prettier-ignore
});

describe('beside the rule', () => {
  test('test values are listed as the tag shows them, to be taken along', async () => {
    await bench.choose('Rule', 'linear', FORM);
    await bench.choose('Raw span of the card', '0', FORM);
    await bench.fill('Decimals', '1', FORM);
    await (await bench.find('[data-test-values] summary')).click();
    await bench.sees('50 % of the raw span', '[data-test-values]');
    await bench.sees('50.0 x', '[data-test-values]');
    await (await bench.find('[data-test-values] summary')).click();
  });

  test('a transmitter and its card give the finished chain', async () => {
    await (await bench.find('[data-transmitter] summary')).click();
    await bench.fill('to', '10', '[data-transmitter]');
    await bench.press('Use these steps', '[data-transmitter]');
    await bench.sees('a loop of 4–20 mA that tells faults', FORM);
    await bench.fill('Raw value', '5530');
    await bench.sees('0.0 x', '[data-calculated="eng"]');
    await bench.fill('Raw value', '0');
    await bench.sees('0 mA, and a loop has more than 3.6 mA', '[aria-label="Calculator"]');
    await bench.press('Discard changes');
    await (await bench.find('[data-transmitter] summary')).click();
  });

  test('readings give a gain and an offset, name the one that does not fit, and become the scale', async () => {
    await (await bench.find('[data-readings] summary')).click();
    await (await bench.find('[data-readings] textarea')).click();
    await bench.page.keyboard.type('0 0.1\n1000 10\n2000 19.9\n3000 37\n4000 40.1');
    await bench.sees('does not fit the others', '[data-readings]');
    await bench.page.keyboard.press('Home');
    const area = await bench.find('[data-readings] textarea');
    await area.click({ count: 3 });
    await bench.page.keyboard.down('Control');
    await bench.page.keyboard.press('a');
    await bench.page.keyboard.up('Control');
    await bench.page.keyboard.type('0 -40\n1000 60');
    await bench.sees('Gain 0.1, offset -40', '[data-readings]');
    await bench.press('Use as the scale', '[data-readings]');
    await bench.fill('Raw value', '400');
    await bench.sees('0 x', '[data-calculated="eng"]');
    await bench.press('Apply scale');
    await until('it is kept', async () => ((await kept()) as { gain?: number } | null)?.gain === 0.1);
  });
});

describe('a chain', () => {
  test('is built step after step, says what it is, and is taken apart again', async () => {
    await bench.choose('Rule', 'linear', FORM);
    await bench.choose('Raw span of the card', '0', FORM);
    await bench.choose('Then', 'thermocouple', FORM);
    await bench.sees('type K measures -270 to 1372 °C', FORM);
    await bench.fill('Decimals', '1', FORM);
    // 27648 counts are 100 mV, so 11324 are 40.958 mV; type K: 991.9 °C at 40.958 mV (NIST ITS-90 table, by interpolation).
    await bench.fill('Raw value', '11324');
    await until('it is what the tables say', async () => Math.abs(parseFloat(await bench.text('[data-calculated="eng"]')) - 991.9) < 0.3);
    await bench.fill('Raw value', '27000');
    await bench.sees('The scale has no value for it', '[aria-label="Calculator"]');
    await bench.press('Apply scale');
    await until('it is kept', async () => ((await kept()) as { kind?: string } | null)?.kind === 'chain');
    await bench.choose('Then', 'none', FORM);
    await bench.press('Apply scale');
    await until('one step is left', async () => ((await kept()) as { kind?: string } | null)?.kind === 'linear');
    await bench.choose('Rule', 'none', FORM);
    await bench.press('Apply scale');
    await until('none is left', async () => (await kept()) === null);
  });

  test('a step that makes no function is refused at its field', async () => {
    await bench.choose('Rule', 'gain', FORM);
    await bench.fill('Gain', '0', FORM);
    await bench.sees('A gain of 0 makes one value of all', FORM);
    expect(await bench.page.$eval(`${FORM} button[type=submit]`, (button) => button.disabled)).toBe(true);
    await bench.press('Discard changes');
  });
});

describe('a loop of 4 to 20 mA', () => {
  test('shows the level that its device knows, and a broken wire as one, in the map and on the panel', async () => {
    const [link, kiln, level, panel, page] = [uuid(), uuid(), uuid(), uuid(), uuid()];
    const steps = [
      { kind: 'linear', rawA: 0, engA: 0, rawB: 27_648, engB: 20 },
      { kind: 'current' },
      { kind: 'linear', rawA: 4, engA: 0, rawB: 20, engB: 100 },
    ];
    await sendCommand(server.address, 'a bin', [
      { kind: 'link', id: link, set: { name: 'Line', driver: 'modbus-tcp', settings: { host: '127.0.0.1', port: standin.modbusPort } } },
      { kind: 'device', id: kiln, set: { linkId: link, name: 'KILN', settings: { unit: 1 }, dialect: {}, witnessUrl: '' } },
      { kind: 'tag', id: level, set: { ...newTag(kiln, 'bin_level', '30004'), type: 'INT', access: 'read', unit: '%', decimals: 1 } },
      { kind: 'scale', id: level, set: { scale: { kind: 'chain', steps } } },
      { kind: 'panel', id: panel, set: { name: 'Kiln' } },
      { kind: 'page', id: page, set: { panelId: panel, name: 'Bin', position: 0 } },
      { kind: 'element', id: uuid(), set: { pageId: page, tagId: level, kind: 'value', label: 'Bin', x: 0, y: 0, w: 200, h: 64, settings: {} } },
    ]);
    await standin.hold(true);
    const truth = Number(await standin.value('bin_level')).toFixed(1);
    const glass = await Screen.open(browser, `${server.address}/panel/${panel}`);
    await glass.sees(truth, '[data-kind="value"]');
    await bench.page.bringToFront();
    await bench.go('Map');
    await until('the map shows it', async () => (await bench.text('[data-tag="bin_level"] [data-value]')) === truth);
    await standin.set('bin_wire_broken', true);
    await until('the map shows no number', async () => (await bench.text('[data-tag="bin_level"] [data-value]')) === '–');
    await bench.sees('broken wire', '[data-tag="bin_level"]');
    await glass.page.bringToFront();
    await until('the panel shows no number', async () => !(await glass.text('[data-kind="value"]')).includes(truth));
    await glass.sees('–', '[data-kind="value"]');
    await standin.set('bin_wire_broken', false);
    await glass.sees(truth, '[data-kind="value"]');
  });
});

test('the pages have complained of nothing', () => {
  expect(bench.complaints).toEqual([]);
});
