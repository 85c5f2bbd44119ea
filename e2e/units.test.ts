/** Units, ranges and limits, shared scales: as panels show them, as entries go back, as the controller itself tells it. */
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { Browser } from 'puppeteer-core';
import { v7 as uuid } from 'uuid';
import type { WriteRecord } from '@/core/live/writeOutcome.ts';
import type { Snapshot } from '@/core/project/snapshot.ts';
import { newTag } from '../tests/support/newTag.ts';
import { freePort, newFolder, startServer, type RunningServer } from '../tests/support/server.ts';
import { startKiln, type RunningStandin } from '../tests/support/standin.ts';
import { until } from '../tests/support/until.ts';
import { openBrowser, Screen } from './browser.ts';
import { sendCommand } from './sendCommand.ts';

let browser: Browser;
let server: RunningServer;
let standin: RunningStandin;
let bench: Screen;
const data = newFolder();
const kiln = uuid();
const ids = { setPoint: uuid(), dwell: uuid(), fan: uuid(), level: uuid() };
const panels = { celsius: uuid(), fahrenheit: uuid() };
const project = async (): Promise<Snapshot> => (await (await fetch(`${server.address}/api/v1/project`)).json()) as Snapshot;
const lastWrite = async (): Promise<WriteRecord | undefined> =>
  ((await (await fetch(`${server.address}/api/v1/writes?limit=1`)).json()) as WriteRecord[])[0];

const valueOf = async (id: string): Promise<string> => {
  const { values } = (await (await fetch(`${server.address}/api/v1/values`)).json()) as { values: { tagId: string; value: unknown }[] };
  return JSON.stringify(values.find(({ tagId }) => tagId === id)?.value ?? null);
};

const COUNTS = { kind: 'linear', rawA: 0, engA: 0, rawB: 27_648, engB: 150 };
/** Damper position by fan speed: a curve of the plant. */
const CURVE = { kind: 'table', points: [[0, 0], [600, 20], [1200, 70], [1800, 100]], ends: 'none' }; // prettier-ignore

async function unlock(): Promise<void> {
  const unlocked = await fetch(`${server.address}/api/v1/guard/unlock`, {
    method: 'POST',
    headers: { 'content-type': 'application/json', origin: server.address },
    body: JSON.stringify({ deviceId: kiln, minutes: 30, who: 'R. Vale', writers: ['panel'] }),
  });
  expect(unlocked.status).toBe(200);
}

beforeAll(async () => {
  [browser, server, standin] = await Promise.all([openBrowser(), startServer(data.folder, await freePort()), startKiln()]);
  const [link, celsius, fahrenheit] = [uuid(), uuid(), uuid()];
  const tag = (id: string, name: string, address: string, more: object) => ({
    kind: 'tag' as const,
    id,
    set: { ...newTag(kiln, name, address), ...more },
  });
  const element = (pageId: string, tagId: string, kind: string, label: string, x: number, y: number) => ({
    kind: 'element' as const,
    id: uuid(),
    set: { pageId, tagId, kind, label, x: 16 + x * 100, y: 16 + y * 56, w: 240, h: kind === 'bar' ? 96 : 72, settings: {} },
  });
  await sendCommand(server.address, 'a kiln', [
    { kind: 'link', id: link, set: { name: 'Line', driver: 'modbus-tcp', settings: { host: '127.0.0.1', port: standin.modbusPort } } },
    { kind: 'device', id: kiln, set: { linkId: link, name: 'KILN', settings: { unit: 1 }, dialect: {}, witnessUrl: standin.controlUrl } },
    tag(ids.setPoint, 'bed_temp_sp', '40003', { unit: '°C', decimals: 1, rangeLow: 20, rangeHigh: 140 }),
    { kind: 'scale', id: ids.setPoint, set: { scale: COUNTS } },
    tag(ids.dwell, 'dwell_preset', '40041', { type: 'LINT', unit: 's', decimals: 3 }),
    { kind: 'scale', id: ids.dwell, set: { scale: { kind: 'duration', from: 'ns', to: 's' } } },
    tag(ids.fan, 'fan_speed_sp', '40023', { type: 'UINT', unit: '%', decimals: 0 }),
    { kind: 'scale', id: ids.fan, set: { scale: CURVE } },
    tag(ids.level, 'ambient_temp', '30001', { access: 'read', unit: '°C', decimals: 1 }),
    { kind: 'scale', id: ids.level, set: { scale: { kind: 'power', exponent: -1 } } },
    { kind: 'panel', id: panels.celsius, set: { name: 'At the kiln' } },
    { kind: 'panel', id: panels.fahrenheit, set: { name: 'In the office' } },
    { kind: 'page', id: celsius, set: { panelId: panels.celsius, name: 'Bed', position: 0 } },
    { kind: 'page', id: fahrenheit, set: { panelId: panels.fahrenheit, name: 'Bed', position: 0 } },
    ...[celsius, fahrenheit].flatMap((page) => [
      element(page, ids.setPoint, 'entry', 'Set point', 0, 0),
      element(page, ids.level, 'bar', 'Ambient', 4, 0),
      element(page, ids.dwell, 'entry', 'Dwell', 0, 2),
      element(page, ids.fan, 'entry', 'Damper', 4, 2),
    ]),
  ]);
  await unlock();
  await standin.hold(true);
  bench = await Screen.open(browser, `${server.address}/panels`);
  await bench.sees('At the kiln');
});
afterAll(async () => {
  await browser?.close();
  await Promise.all([server?.stop(), standin?.stop()]);
  data.remove();
});

const tile = (label: string): string => `[data-label="${label}"]`;
/** A value and its unit stand on one line, in two pieces. */
async function shows(glass: Screen, label: string, text: string): Promise<void> {
  await glass.page.bringToFront();
  await until(`${label} shows ${text}`, async () => (await glass.text(tile(label))).replace(/\s+/g, ' ').includes(text));
}
async function enter(glass: Screen, label: string, value: string): Promise<void> {
  await glass.page.bringToFront();
  // The keypad of the entry before closes when its write is confirmed.
  await until('no keypad is open', async () => (await glass.page.$('dialog')) === null);
  await (await glass.find(`${tile(label)} button`)).click();
  await glass.fill('New value', value, 'dialog');
}

describe('two panels of one tag', () => {
  let [near, far]: Screen[] = [];
  const glass = (which: Screen | undefined): Screen => {
    if (!which) throw new Error('no panel');
    return which;
  };

  test('the one shows °C, the other °F once that is chosen for it, side by side and live', async () => {
    near = await Screen.open(browser, `${server.address}/panel/${panels.celsius}`);
    far = await Screen.open(browser, `${server.address}/panel/${panels.fahrenheit}`);
    await bench.page.bringToFront();
    await bench.choose('Panel', panels.fahrenheit);
    await bench.press('Units');
    await bench.choose('Shown instead of °C', '°F', 'dialog');
    await bench.sees('0 °C is 32 °F, 100 °C is 212 °F', 'dialog');
    await bench.press('Close', 'dialog');
    await standin.set('bed_temp_sp', 100);
    await shows(near, 'Set point', '100.0 °C');
    await shows(far, 'Set point', '212.0 °F');
    await standin.set('ambient_temp', 20.5);
    await shows(far, 'Ambient', '68.9 °F');
  });

  test('an entry in °F is what the controller’s own display says in °C, and the log says both', async () => {
    await enter(glass(far), 'Set point', '203');
    await glass(far).sees('The controller will hold 203.0 °F.', 'dialog');
    await glass(far).press('Write', 'dialog');
    await until('the controller has it', async () => Math.abs(Number(await standin.value('bed_temp_sp')) - 95) < 0.003);
    await shows(glass(far), 'Set point', '203.0 °F');
    await shows(glass(near), 'Set point', '95.0 °C');
    await until('the log is complete', async () => (await lastWrite())?.state === 'done');
    expect(await lastWrite()).toMatchObject({
      asked: { kind: 'number', value: 95 },
      note: expect.stringContaining('Entered as 203 °F.') as unknown as string,
    });
  });

  test('a value outside the range is told in the unit that is shown, before it is sent', async () => {
    await enter(glass(far), 'Set point', '300');
    await glass(far).sees('68 to 284 °F', 'dialog');
    expect(await glass(far).page.$eval('dialog button[type=submit]', (button) => button.disabled)).toBe(true);
    await glass(far).fill('New value', '1e309', 'dialog');
    await glass(far).sees('A number is needed here', 'dialog');
    await glass(far).press('Cancel', 'dialog');
    expect(Number(await standin.value('bed_temp_sp'))).toBeCloseTo(95, 2);
  });

  test('a check compares what the °F page drew with what it should have drawn', async () => {
    await glass(far).page.bringToFront();
    const drawn = async (): Promise<readonly { drawn: string; expected: string; verdict: string }[]> => {
      const checked = await fetch(`${server.address}/api/v1/checks`, {
        method: 'POST',
        headers: { 'content-type': 'application/json', origin: server.address },
        body: JSON.stringify({ tagId: ids.setPoint, witness: { kind: 'none' } }),
      });
      return ((await checked.json()) as { pages: { drawn: string; expected: string; verdict: string }[] }).pages;
    };
    // What it drew last may be older than the samples that are kept from the check on.
    await until('the page has drawn a sample of the check', async () => (await drawn()).some(({ verdict }) => verdict === 'consistent'));
    expect((await drawn()).filter(({ verdict }) => verdict === 'differs')).toEqual([]);
    await until('it is the very text', async () => (await drawn()).some((page) => page.drawn === '203.0' && page.expected === '203.0'));
  });

  test('a duration of 64-bit nanoseconds is shown and entered in seconds, and the controller counts the very nanoseconds', async () => {
    await shows(glass(near), 'Dwell', '2.500 s');
    await enter(glass(near), 'Dwell', '3.000000001');
    await glass(near).press('Write', 'dialog');
    await until('it is in its memory', async () => Math.abs(Number(await standin.value('dwell_preset')) - 3.000000001) < 1e-12);
    await until('it is read back, every digit of it', async () => (await valueOf(ids.dwell)).includes('3.000000001'));
    await enter(glass(near), 'Dwell', '12.345');
    await glass(near).press('Write', 'dialog');
    await shows(glass(near), 'Dwell', '12.345 s');
  });

  test('an entry goes back along a curve, as the controller’s own display sees it', async () => {
    await enter(glass(near), 'Damper', '45');
    await glass(near).press('Write', 'dialog');
    // Between 600 rpm, 20 %, and 1200 rpm, 70 %: half of the way.
    await until('the controller has it', async () => (await standin.value('fan_speed_sp')) === 900);
    await shows(glass(near), 'Damper', '45 %');
    await enter(glass(near), 'Damper', '101');
    await glass(near).sees('the table ends there', 'dialog');
    await glass(near).press('Cancel', 'dialog');
  });
});

describe('ranges and limits of a tag', () => {
  const FORM = 'form[aria-label="Scale"]';

  test('are given in engineering units or raw, each beside the other, and kept', async () => {
    await bench.page.bringToFront();
    await bench.go('Scale');
    await bench.pickTag('Tag to scale', 'ambient_temp');
    await bench.sees('30001');
    await bench.fill('Display from', '-10', FORM);
    await bench.fill('Display to', '40', FORM);
    await bench.fill('high', '25', FORM);
    await until('its raw value stands beside it', async () => (await (await bench.field('high, raw', FORM)).evaluate((i) => i.value)) === '250');
    await bench.fill('high-high, raw', '305', FORM);
    await until('its value stands beside it', async () => (await (await bench.field('high-high', FORM)).evaluate((i) => i.value)) === '30.5');
    await bench.fill('Hysteresis', '2', FORM);
    await bench.press('Apply scale');
    await until('they are kept', async () => (await project()).tags.find(({ id }) => id === ids.level)?.limits !== null);
    expect((await project()).tags.find(({ id }) => id === ids.level)).toMatchObject({
      displayRange: { low: -10, high: 40 },
      limits: { lowLow: null, low: null, high: 25, highHigh: 30.5, hysteresis: 2, delayMs: 0 },
    });
    expect(await bench.text('[aria-label="The line drawn"]')).toContain('high-high');
  });

  test('in the wrong order are refused at their place', async () => {
    await bench.fill('high-high', '20', FORM);
    await bench.sees('high-high must be above high, which is 25.', FORM);
    await bench.press('Discard changes');
  });

  test('panels take ends and limits by themselves, each in its unit, and say when one is passed', async () => {
    const far = await Screen.open(browser, `${server.address}/panel/${panels.fahrenheit}`);
    await standin.set('ambient_temp', 26);
    await shows(far, 'Ambient', '78.8 °F');
    await shows(far, 'Ambient', 'high');
    // −10 °C to 40 °C.
    await until('the ends are converted', async () => /14\s+104/.test((await far.text(tile('Ambient'))).replaceAll('\n', ' ')));
    expect(await far.page.$$eval(`${tile('Ambient')} [data-limit-mark]`, (marks) => marks.length)).toBe(2);
    await standin.set('ambient_temp', 31);
    await shows(far, 'Ambient', 'high-high');
    await standin.set('ambient_temp', 24);
    // Inside the limit, and not yet by the hysteresis.
    await shows(far, 'Ambient', '75.2 °F');
    await shows(far, 'Ambient', 'high');
    await standin.set('ambient_temp', 22);
    await shows(far, 'Ambient', '71.6 °F');
    await until('nothing is marked', async () => !(await far.text(tile('Ambient'))).includes('high'));
    await far.page.close();
  });
});

describe('one scale for forty tags', () => {
  const inputs = Array.from({ length: 40 }, (_, i) => ({ id: uuid(), name: `input_${String(i + 1).padStart(2, '0')}` }));
  const scales = async (): Promise<readonly { sharedId: string | null; scale: { engB?: number } }[]> => {
    const wanted = new Set(inputs.map(({ id }) => id));
    return (await project()).scales.filter(({ id }) => wanted.has(id)) as never;
  };

  test('is made, given to all of them at once, and its unit comes with it', async () => {
    await sendCommand(
      server.address,
      'inputs',
      inputs.map(({ id, name }, i) => ({ kind: 'tag' as const, id, set: { ...newTag(kiln, name, String(30_001 + (i % 3))), access: 'read' } })),
    );
    await bench.page.bringToFront();
    await bench.go('Scale');
    await bench.press('Shared scales');
    await bench.press('Make a shared scale');
    await bench.fill('Name', 'Card of 0–20 mA', 'form[aria-label="Shared scale"]');
    await bench.choose('Rule', 'linear', 'form[aria-label="Shared scale"]');
    await bench.choose('Raw span of the card', '0', 'form[aria-label="Shared scale"]');
    await bench.fill('Unit', 'mA', 'form[aria-label="Shared scale"]');
    await bench.fill('Decimals', '2', 'form[aria-label="Shared scale"]');
    await bench.press('Apply', 'form[aria-label="Shared scale"]');
    await bench.sees('Card of 0–20 mA', '[data-shared]');
    await bench.fill('Tags to give it to', 'input_');
    await bench.press('Give to 40 tags');
    await bench.sees('40 tags go by it');
    expect(new Set((await scales()).map(({ sharedId }) => sharedId)).size).toBe(1);
    expect((await scales()).length).toBe(40);
    expect((await project()).tags.filter(({ name, unit, decimals }) => name.startsWith('input_') && unit === 'mA' && decimals === 2)).toHaveLength(
      40,
    );
  });

  test('shows what a change would make of each value, is followed by all, and undone as one', async () => {
    await standin.set('ambient_temp', 20);
    await bench.sees('200', '[data-scaled="input_01"]');
    const fields = await bench.page.$$('form[aria-label="Shared scale"] input');
    const second = fields[4];
    if (!second) throw new Error('no second point');
    await second.click({ count: 3 });
    await second.type('50');
    await bench.sees('40 tags would follow');
    // 200 of 27648 counts: 0.72 of 100, and 0.36 of 50.
    await bench.sees('0.72 mA', '[data-scaled="input_01"] [data-now]');
    await bench.sees('0.36 mA', '[data-scaled="input_01"] [data-then]');
    await bench.press('Apply to 40 tags');
    await until('all have followed', async () => (await scales()).every(({ scale }) => scale.engB === 50));
    await bench.sees('0.36 mA', '[data-scaled="input_01"] [data-now]');
    await bench.page.keyboard.down('Control');
    await bench.page.keyboard.press('z');
    await bench.page.keyboard.up('Control');
    await until('all have gone back', async () => (await scales()).every(({ scale }) => scale.engB === 100));
  });

  test('one of them takes a scale of its own, and the others go on', async () => {
    await bench.press('A scale of its own for input_40');
    await bench.sees('39 tags go by it');
    expect((await scales()).filter(({ sharedId }) => sharedId === null)).toHaveLength(1);
    expect((await scales()).length).toBe(40);
  });

  test('is found at the scale of a tag, which cannot change it alone', async () => {
    await bench.press('Scales of tags');
    await bench.pickTag('Tag to scale', 'input_07');
    await bench.sees('It is shared by 39 tags.');
    expect(await bench.page.$eval('form[aria-label="Scale"] fieldset', (set) => set.disabled)).toBe(true);
    await bench.choose('Shared scale', '', 'form[aria-label="Scale"]');
    await bench.fill('Decimals', '1', 'form[aria-label="Scale"]');
    await bench.press('Apply scale');
    await until('it is its own', async () => (await scales()).filter(({ sharedId }) => sharedId === null).length === 2);
  });
});

describe('without a machine at either end', () => {
  test('a duration in nanoseconds is shown and entered in seconds all the same', async () => {
    const devices = (await project()).devices.map(({ id }) => ({ kind: 'device' as const, id, set: { isSimulated: true } }));
    await sendCommand(server.address, 'without the machine', devices);
    const near = await Screen.open(browser, `${server.address}/panel/${panels.celsius}`);
    await near.sees('All values are simulated', 'header');
    await until('the simulated device answers', async () => (await valueOf(ids.dwell)) !== 'null');
    await unlock();
    await near.find(`${tile('Dwell')} button:not([disabled])`);
    await enter(near, 'Dwell', '4.500000002');
    await near.press('Write', 'dialog');
    await until('it is held to the last nanosecond', async () => (await valueOf(ids.dwell)).includes('4.500000002'));
    await shows(near, 'Dwell', '4.500 s');
  });
});

test('the pages have complained of nothing', () => {
  expect(bench.complaints).toEqual([]);
});
