/**
 * Checks over the demo as an engineer makes them: a run that finds the planted mistakes, explains them, cures them and proves all;
 * one typed in on a phone; one that was broken off; proofs that a change ends and undo brings back.
 */
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { join } from 'node:path';
import type { Browser, ElementHandle } from 'puppeteer-core';
import { pointSet } from '../tests/support/pointSet.ts';
import { freePort, newFolder, startServer, type RunningServer } from '../tests/support/server.ts';
import { startKiln, type RunningStandin } from '../tests/support/standin.ts';
import { until } from '../tests/support/until.ts';
import type { Snapshot } from '@/core/project/snapshot.ts';
import { axeFinds } from './axe.ts';
import { openBrowser, Screen } from './browser.ts';
import { sendCommand } from './sendCommand.ts';

let browser: Browser;
let server: RunningServer;
let kiln: RunningStandin;
let bench: Screen;
let port: number;
const data = newFolder();
const demo = (): string[] => ['--demo-kiln', `${kiln.modbusPort},${kiln.controlPort}`];
const project = async (): Promise<Snapshot> => (await (await fetch(`${server.address}/api/v1/project`)).json()) as Snapshot;
const idOf = async (name: string): Promise<string> => (await project()).tags.find((tag) => tag.name === name)?.id ?? '';

beforeAll(async () => {
  [browser, kiln, port] = await Promise.all([openBrowser(), startKiln(), freePort()]);
  server = await startServer(data.folder, port, demo());
  bench = await Screen.open(browser, `${server.address}/check`);
});
afterAll(async () => {
  await browser.close();
  await server.stop();
  await kiln.stop();
  data.remove();
});

const row = (name: string): string => `[data-tag="${name}"]`;
const runId = (): Promise<string> => bench.page.evaluate(() => new URLSearchParams(location.search).get('run') ?? '');

describe('a run over the demo', () => {
  test('finds the planted mistakes and no other', async () => {
    await bench.sees('Begin a run of 59');
    await bench.fill('Checked by', 'R. Vale');
    await bench.choose('Against whom', 'channel');
    await bench.press('Begin a run of 59');
    await bench.sees('59 open', '[data-counts]');
    await bench.press('Run by itself');
    await until('all are looked at', async () => (await bench.text('[data-counts]')).includes(' 0 open'), 60_000);
    await bench.sees('57 agree · 2 differ · 0 open', '[data-counts]');
    await bench.choose('Show', 'failed');
    await until('only they are shown', async () => (await bench.page.$$('[data-in-run="failed"]')).length === 2);
    await bench.find(row('bed_temp_out'));
    await bench.find(row('steam_press'));
    expect(await axeFinds(bench.page)).toEqual([]);
  }, 90_000);

  test.each([
    ['bed_temp_out', 'words swapped (CDAB)', 'Use CDAB'],
    ['steam_press', 'a scale 10 times smaller', 'Use scale × 10^-2'],
  ])('%s is explained by %s, which cures it, and the check is repeated and proves it', async (name, words, button) => {
    await (await bench.find(row(name))).click();
    await bench.sees(words, '[data-explanations] li:first-child');
    await bench.press(button, '[data-explanations] li:first-child');
    await bench.find(`section[aria-label="Check of ${name}"] [data-proof="proven"]`);
    await bench.sees(`Cured: ${words}`, `section[aria-label="Check of ${name}"]`);
  });

  test('then all is proven, and the report says what was found and cured', async () => {
    await bench.choose('Show', 'all');
    await bench.sees('59 agree · 0 differ · 0 open', '[data-counts]');
    const answer = await fetch(`${server.address}/api/v1/checks/runs/${await runId()}/report`);
    const html = await answer.text();
    expect(html).toContain('59 tags: 59 agree, 0 differ');
    expect(html).toContain('Cured: words swapped (CDAB)');
    expect(answer.headers.get('content-security-policy')).toContain("default-src 'none'");
  });
});

describe('the proof of a tag', () => {
  const proofOf = async (name: string, state: string): Promise<void> => {
    await bench.find(`${row(name)} [data-proof="${state}"]`);
  };
  test.each([
    ['its type', { type: 'DINT' }],
    ['its order', { order: 'ABCD' }],
    ['its address', { address: 'HR40' }],
    ['its unit', { unit: 'K' }],
    ['its decimals', { decimals: 3 }],
    ['its scale', { scale: { kind: 'power', exponent: -1 } }],
  ])('ends with a change of %s, which is told, and is back on undo', async (_what, change) => {
    const id = await idOf('bed_temp');
    const { tags } = await project();
    const model = { get: () => tags.find((tag) => tag.id === id) ?? null } as unknown as Parameters<typeof pointSet>[0];
    const { order, address, scale, ...plain } = change as { order?: string; address?: string; scale?: object };
    const point =
      order === undefined && address === undefined ? {} : pointSet(model, id, { ...(order ? { order } : {}), ...(address ? { address } : {}) });
    await bench.fill('Find tags to check', 'bed_temp');
    await (await bench.find(row('bed_temp'))).click();
    await proofOf('bed_temp', 'proven');
    await sendCommand(server.address, 'a change', [scale ? { kind: 'scale', id, set: { scale } } : { kind: 'tag', id, set: { ...plain, ...point } }]);
    await proofOf('bed_temp', 'changed');
    await bench.sees('Since then:', '[data-changed]');
    expect((await fetch(`${server.address}/api/v1/undo`, { method: 'POST', headers: { origin: server.address } })).ok).toBe(true);
    await proofOf('bed_temp', 'proven');
  });

  test('is kept where something changes that shows no other number', async () => {
    const id = await idOf('bed_temp');
    await sendCommand(server.address, 'a comment', [{ kind: 'tag', id, set: { comment: 'checked at the kiln', rangeHigh: 135 } }]);
    await until('it is there', async () => (await project()).tags.some((tag) => tag.comment === 'checked at the kiln'));
    await proofOf('bed_temp', 'proven');
  });
});

describe('a run that is typed in', () => {
  test('goes on by itself where it agrees, and stops where it differs', async () => {
    await bench.press('Close', '[data-run]');
    // Set points stand still.
    await bench.fill('Find tags to check', 'set point');
    await bench.choose('Against whom', 'display');
    await bench.press('Begin a run of 3');
    const [first, second] = await bench.page.$$eval('[role=grid] [data-tag]', (rows) => rows.map((r) => r.getAttribute('data-tag') ?? ''));
    await bench.find(`section[aria-label="Check of ${first ?? ''}"]`);
    await bench.fill('What you see at the controller', String(await kiln.value(first ?? '')));
    await bench.page.keyboard.press('Enter');
    await bench.find(`section[aria-label="Check of ${second ?? ''}"]`);
    await bench.fill('What you see at the controller', '123456');
    await bench.page.keyboard.press('Enter');
    await bench.sees('1 agree · 1 differ · 1 open', '[data-counts]');
    await bench.find(`section[aria-label="Check of ${second ?? ''}"]`);
  });

  test('is broken off by the end of the server, and goes on where it was', async () => {
    const id = await runId();
    await server.stop('SIGKILL');
    await bench.sees('The server does not answer');
    server = await startServer(data.folder, port, demo());
    await bench.page.reload({ waitUntil: 'domcontentloaded' });
    await bench.sees('1 agree · 1 differ · 1 open', '[data-counts]');
    expect(await runId()).toBe(id);
    await bench.press('Close', '[data-run]');
    await bench.press('Runs');
    await bench.sees('1 agree · 1 differ · 1 open', 'dialog');
    await bench.press('Go on', 'dialog');
    await bench.sees('1 agree · 1 differ · 1 open', '[data-counts]');
  });

  test('on a phone in front of the panel: what it shows is tapped, something else is typed, a third is skipped', async () => {
    await bench.press('Close', '[data-run]');
    await bench.fill('Find tags to check', 'set point');
    await bench.choose('Against whom', 'panel');
    await bench.press('Begin a run of');
    await bench.sees('open', '[data-counts]');
    const id = await runId();
    const phone = await Screen.open(browser, 'about:blank');
    await phone.page.setViewport({ width: 390, height: 844, isMobile: true, hasTouch: true });
    await phone.page.goto(`${server.address}/run/${id}`, { waitUntil: 'domcontentloaded' });
    await phone.fill('Who looks?', 'T. Orme');
    await phone.press('Begin');
    const tag = (): Promise<string> => phone.text('[data-phone-tag]');
    const choices = '[aria-label="It shows"] button';
    const first = await tag();
    await (await phone.find(choices)).tap();
    await until('the next one', async () => (await tag()) !== first);
    const second = await tag();
    await phone.fill('Something else', '77.77');
    await phone.press('Compare');
    await phone.find('section[aria-live="polite"]');
    // What the camera of the phone would give.
    const photo = join(data.folder, 'seen.png');
    await phone.page.screenshot({ path: photo });
    const field = (await phone.page.$('input[aria-label="Photo of what is seen"]')) as ElementHandle<HTMLInputElement>;
    await field.uploadFile(photo);
    await phone.find('[data-photos] img');
    await phone.press('Next');
    await until('the third', async () => ![first, second].includes(await tag()));
    const wide = await phone.page.evaluate(() => document.documentElement.scrollWidth);
    expect(wide).toBeLessThanOrEqual(390);
    expect(await axeFinds(phone.page)).toEqual([]);
    await phone.press('Skip');
    await bench.page.bringToFront();
    await bench.sees('1 agree · 1 differ · 1 skipped', '[data-counts]');
    const html = await (await fetch(`${server.address}/api/v1/checks/runs/${id}/report`)).text();
    expect(html).toMatch(/<img src="data:image\/jpeg;base64,[A-Za-z0-9+/=]{1000,}"/);
    expect(html).toMatch(/SHA-256 <code>[0-9a-f]{64}</);
    await (await bench.find('[data-counts]')).click();
    await bench.sees('T. Orme', 'dialog [data-part="T. Orme"]');
    expect((await bench.text('dialog [data-part="T. Orme"]')).split(/\s+/).slice(-6)).toEqual(['3', '1', '1', '1', '0', '0']);
    await bench.press('Close', 'dialog');
    expect(phone.complaints).toEqual([]);
    await phone.page.close();
  });
});

describe('the past', () => {
  test('is decoded anew with the mapping that was put right since, beside what was shown then', async () => {
    await bench.press('Close', '[data-run]');
    await bench.fill('Find tags to check', 'bed_temp');
    await bench.press('Past');
    await bench.sees('Nothing is recorded', 'dialog');
    await (await bench.find('dialog input[type=checkbox]')).click();
    await bench.sees('59 tags recorded', 'dialog');
    const id = await idOf('bed_temp');
    const { tags } = await project();
    const model = { get: () => tags.find((tag) => tag.id === id) ?? null } as unknown as Parameters<typeof pointSet>[0];
    await sendCommand(server.address, 'words the wrong way round', [{ kind: 'tag', id, set: pointSet(model, id, { order: 'ABCD' }) }]);
    await new Promise((resolve) => setTimeout(resolve, 2500));
    const moment = await bench.page.evaluate(() => {
      const field = document.querySelector<HTMLInputElement>('dialog input[type=datetime-local]');
      const now = new Date(Date.now() - new Date().getTimezoneOffset() * 60_000).toISOString().slice(0, 19);
      Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value')?.set?.call(field, now);
      field?.dispatchEvent(new Event('input', { bubbles: true }));
      return now;
    });
    expect(moment).toMatch(/^\d{4}-/);
    expect((await fetch(`${server.address}/api/v1/undo`, { method: 'POST', headers: { origin: server.address } })).ok).toBe(true);
    await new Promise((resolve) => setTimeout(resolve, 1500));
    await bench.press('Look at', 'dialog');
    await bench.find('[data-past="bed_temp"]');
    const cells = await bench.page.$$eval('[data-past="bed_temp"] td', (all) => all.map((cell) => cell.textContent ?? ''));
    const truth = Number(await kiln.value('bed_temp'));
    expect(Math.abs(parseFloat(cells[2] ?? '') - truth)).toBeLessThan(5);
    expect(Math.abs(parseFloat(cells[1] ?? '') - truth)).toBeGreaterThan(5);
    await bench.press('Close', 'dialog');
  });
});

describe('watched tags', () => {
  test('show how far they went, and what has changed since a snapshot', async () => {
    await bench.press('Watch');
    await bench.find('[data-watched="bed_temp"]');
    await bench.press('Snapshot');
    await bench.sees('= ', '[data-watched="bed_temp_sp"]');
    await until('it has moved', async () => (await bench.text('[data-watched="bed_temp_in"]')).includes('≠'));
    expect(await axeFinds(bench.page)).toEqual([]);
    await bench.press('Watch bed_temp no more');
    await until('it is gone', async () => (await bench.page.$('[data-watched="bed_temp"]')) === null);
    await bench.page.reload({ waitUntil: 'domcontentloaded' });
    await bench.find('[data-watched="bed_temp_in"]');
  });
});

test('nothing went wrong on the way', () => {
  expect(bench.complaints.filter((each) => !each.includes('ERR_CONNECTION_REFUSED'))).toEqual([]);
});
