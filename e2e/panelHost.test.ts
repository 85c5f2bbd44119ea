/** A panel on the machine without the bench: paired, sent, sent again after a change, read back, rolled back, its log fetched. */
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import type { Browser } from 'puppeteer-core';
import { v7 as uuid } from 'uuid';
import { newTag } from '../tests/support/newTag.ts';
import { startStandin, type RunningStandin } from '../tests/support/standin.ts';
import { freePort, newFolder, startServer, type RunningServer } from '../tests/support/server.ts';
import { interruptions } from '../tests/support/interruptions.ts';
import { until } from '../tests/support/until.ts';
import { openBrowser, Screen } from './browser.ts';
import { sendCommand } from './sendCommand.ts';

const data = newFolder();
const hostData = newFolder();
const [linkId, deviceId, panelId, pageId, otherId] = [uuid(), uuid(), uuid(), uuid(), uuid()];
const [gapId, setPointId, keptId, unusedId, personId, entryId] = [uuid(), uuid(), uuid(), uuid(), uuid(), uuid()];
const DIALOG = 'dialog[open]';
let browser: Browser;
let server: RunningServer;
let host: RunningServer;
let hostPort: number;
let rolls: RunningStandin;
let bench: Screen;
let glass: Screen;

const element = (id: string, kind: string, label: string, tagId: string | null, at: readonly [number, number], settings: object = {}) => ({
  kind: 'element' as const,
  id,
  set: { pageId, kind, tagId, label, x: at[0], y: at[1], w: 200, h: 80, settings },
});
const real = async (name: string): Promise<number> => Math.round(((await rolls.value(name)) as number) * 1000);
const shown = (label: string): Promise<string> =>
  glass.page.$eval(`[data-label="${label}"] [data-drawn]`, (e) => e.textContent ?? '').catch(() => '');
const startHost = (): Promise<RunningServer> => startServer(hostData.folder, hostPort, ['--name', 'Panel at the rolls'], 'panelHost.mjs');
const get = async (path: string): Promise<Record<string, unknown>> =>
  (await (await fetch(`${server.address}/api/v1${path}`)).json()) as Record<string, unknown>;

/** As another machine would reach it. */
const LAN = '127.0.0.2';

beforeAll(async () => {
  hostPort = await freePort();
  [browser, server, host, rolls] = await Promise.all([openBrowser(), startServer(data.folder, await freePort()), startHost(), startStandin('rolls')]);
  await sendCommand(server.address, 'set up', [
    { kind: 'link', id: linkId, set: { name: 'Line', driver: 'modbus-gateway', settings: { host: '127.0.0.1', port: rolls.modbusPort, speed: 19200, parity: 'even', gatewayMs: 300 } } }, // prettier-ignore
    { kind: 'device', id: deviceId, set: { linkId, name: 'ROLLS 1', settings: { unit: 1 }, dialect: { countingBase: 0, order32: 'CDAB' }, witnessUrl: '' } }, // prettier-ignore
    { kind: 'tag', id: setPointId, set: { ...newTag(deviceId, 'gap_sp', '40000', { periodMs: 200 }), type: 'UINT', access: 'readWrite' } },
    { kind: 'tag', id: gapId, set: { ...newTag(deviceId, 'gap', '40001', { periodMs: 200 }), type: 'UINT' } },
    { kind: 'tag', id: unusedId, set: { ...newTag(deviceId, 'unused', '40004', { periodMs: 200 }), type: 'UINT' } },
    { kind: 'tag', id: keptId, set: { name: 'batch', source: { kind: 'local' }, type: 'UINT', access: 'readWrite', unit: '', decimals: null, rangeLow: null, rangeHigh: null, comment: '', listId: '', initial: '7' } }, // prettier-ignore
    { kind: 'operator', id: personId, set: { name: 'M. Quill', level: 3 } },
    { kind: 'panel', id: panelId, set: { name: 'Rolls', units: [], width: 800, height: 480 } },
    { kind: 'page', id: pageId, set: { panelId, name: 'Gap', position: 0 } },
    { kind: 'page', id: otherId, set: { panelId, name: 'More', position: 1 } },
    element(uuid(), 'value', 'Gap now', gapId, [8, 8]),
    element(entryId, 'entry', 'Set point', setPointId, [240, 8]),
    element(uuid(), 'entry', 'Batch', keptId, [8, 120]),
  ]);
  const headers = { 'content-type': 'application/json', origin: server.address };
  await fetch(`${server.address}/api/v1/operators/${personId}/pin`, { method: 'POST', headers, body: JSON.stringify({ pin: '4711' }) });
}, 60_000);
afterAll(async () => {
  await browser?.close();
  await Promise.all([server?.stop(), host?.stop(), rolls?.stop()]);
  data.remove();
  hostData.remove();
});

test('a host that has nothing says what to do, and a bench is paired by the code that it shows, and by no other', async () => {
  glass = await Screen.open(browser, `${host.address}/`);
  await glass.sees('This panel host has no panel yet', 'main');
  await glass.press('Show a code to pair a bench with');
  const code = await (await glass.find('[data-pairing-code]')).evaluate((e) => e.textContent ?? '');
  bench = await Screen.open(browser, `${server.address}/panels?panel=${panelId}`);
  await bench.press('Panel hosts');
  await bench.fill('Address of the panel host', `127.0.0.1:${hostPort}`, DIALOG);
  await bench.fill('Code that it shows', code.startsWith('1') ? '2222 2222' : '1111 1111', DIALOG);
  await bench.press('Pair', `${DIALOG} form`);
  await bench.sees('That is not the code that the panel host shows.', DIALOG);
  await bench.fill('Code that it shows', code, DIALOG);
  await bench.press('Pair', `${DIALOG} form`);
  await bench.sees('nothing runs yet', DIALOG);
}, 60_000);

test('without a start page it is refused, with the way to choose one; then it is sent, and the host shows it by itself', async () => {
  await bench.sees('Nobody has chosen which page the panel begins with. Choose its start page in Panels', DIALOG);
  await sendCommand(server.address, 'starts with Gap', [{ kind: 'panel', id: panelId, set: { startPageId: pageId } }]);
  await bench.press('Look again', DIALOG);
  // Of four tags it needs three.
  await bench.sees('2 pages, 3 tags, 1 link', DIALOG);
  await bench.press('Send Rolls', DIALOG);
  await bench.sees('What runs there is the same as here.', DIALOG);
  await glass.sees('Gap', 'h1');
  await until('the gap is shown', async () => (await shown('Gap now')) === String(await real('s1_gap')), 15_000);
  expect(await shown('Batch')).toBe('7');
}, 60_000);

test('the bench can end: what the host shows is its own', async () => {
  await bench.page.close();
  await server.stop();
  await glass.page.reload({ waitUntil: 'domcontentloaded' });
  await until('the gap is shown', async () => (await shown('Gap now')) === String(await real('s1_gap')), 15_000);
  const port = await freePort();
  server = await startServer(data.folder, port);
}, 60_000);

test('writing is locked there as everywhere, opened at the host, and its log comes to the bench', async () => {
  await glass.press('Set point', 'main');
  await glass.find(DIALOG);
  await glass.page.keyboard.type('650');
  await glass.page.keyboard.press('Enter');
  await glass.sees('Writing to ROLLS 1 is locked');
  // A pad that still writes does not close.
  await until('the pad has gone', async () => {
    await glass.page.keyboard.press('Escape');
    return (await glass.page.$(DIALOG)) === null;
  });
  const about = await Screen.open(browser, `${host.address}/host`);
  await about.fill('Your name', 'R. Vale', 'section[aria-label="Writing"]');
  await about.press('Open for the panel');
  await about.sees('was opened by R. Vale');
  await about.page.close();
  await glass.page.bringToFront();
  await glass.press('Set point', 'main');
  await glass.find(DIALOG);
  await glass.page.keyboard.type('650');
  await glass.page.keyboard.press('Enter');
  await until('the controller has it', async () => (await real('s1_gap_sp')) === 650);
  bench = await Screen.open(browser, `${server.address}/panels?panel=${panelId}`);
  await bench.press('Panel hosts');
  await bench.press('Fetch its log of writes', DIALOG);
  await bench.sees('1 write fetched into the log');
  const { 0: entry } = (await get('/writes')) as unknown as { host: string; tagName: string; state: string; who: string }[];
  expect(entry).toMatchObject({ host: 'Panel at the rolls', tagName: 'gap_sp', state: 'done', who: 'R. Vale' });
}, 60_000);

test('a change is told as a difference, sent by one press, and what was kept there stays', async () => {
  await glass.page.bringToFront();
  await glass.press('Batch', 'main');
  await glass.find(DIALOG);
  await glass.page.keyboard.type('41');
  await glass.page.keyboard.press('Enter');
  await until('it is kept', async () => (await shown('Batch')) === '41');
  await sendCommand(server.address, 'said better', [{ kind: 'element', id: entryId, set: { label: 'Wanted gap' } }]);
  await bench.page.bringToFront();
  await bench.press('Look again', DIALOG);
  const row = await bench.find(`${DIALOG} [data-differs="element"]`);
  expect(await row.evaluate((e) => e.textContent)).toContain('Wanted gap (label)');
  await bench.press('Close', DIALOG);
  await bench.press('To Panel at the rolls');
  await glass.page.bringToFront();
  await glass.find('[data-label="Wanted gap"]');
  await until('what was kept is shown', async () => (await shown('Batch')) === '41', 15_000);
  // A new project is a new start: nothing is open for writing any more.
  await glass.sees('writing locked', 'header');
}, 60_000);

test('what runs there is read back as a project file that the bench itself could bring in', async () => {
  const { hosts } = (await get('/hosts')) as unknown as { hosts: { id: string }[] };
  const file = await fetch(`${server.address}/api/v1/hosts/${hosts[0]?.id ?? ''}/project-file`);
  const headers = { 'content-type': 'application/zip', origin: server.address };
  const seen = await fetch(`${server.address}/api/v1/project-file/preview`, { method: 'POST', headers, body: await file.arrayBuffer() });
  const { differences } = (await seen.json()) as { differences: { kind: string; removed: { count: number }; added: { count: number } }[] };
  // Only the tag that the panel does not need is not in it.
  expect(differences.find(({ kind }) => kind === 'tag')).toMatchObject({ removed: { count: 1, first: ['unused'] }, added: { count: 0 } });
  expect(differences.find(({ kind }) => kind === 'element')).toMatchObject({ removed: { count: 0 }, added: { count: 0 }, changed: { count: 0 } });
}, 60_000);

test('people sign in there with the PIN that they have at the bench', async () => {
  const headers = { 'content-type': 'application/json', origin: host.address };
  const signIn = (pin: string) =>
    fetch(`${host.address}/api/v1/panels/${panelId}/sign-in`, { method: 'POST', headers, body: JSON.stringify({ operatorId: personId, pin }) });
  expect((await signIn('1234')).status).toBeGreaterThanOrEqual(400);
  expect(await (await signIn('4711')).json()).toMatchObject({ name: 'M. Quill', level: 3 });
}, 60_000);

test('a host that is frozen leaves no value looking live, is told of at the bench, and comes back by itself', async () => {
  await glass.page.bringToFront();
  host.process.kill('SIGSTOP');
  try {
    await glass.sees('The server does not answer: values are not live');
    await until(
      'the value is marked',
      async () => (await glass.page.$eval('[data-label="Gap now"]', (e) => e.textContent ?? '')).includes('no value'),
      5000,
    );
    const { hosts } = (await get('/hosts')) as unknown as { hosts: { id: string }[] };
    const state = await fetch(`${server.address}/api/v1/hosts/${hosts[0]?.id ?? ''}`);
    expect(await state.json()).toMatchObject({ code: 'silent', title: expect.stringContaining('did not answer within 8 s') });
  } finally {
    host.process.kill('SIGCONT');
  }
  await until('the gap is shown', async () => (await shown('Gap now')) === String(await real('s1_gap')), 15_000);
  await glass.sees('writing locked', 'header');
}, 60_000);

test('other machines get the panel once they have joined, and never the page of the host itself', async () => {
  const headers = { 'content-type': 'application/json', origin: host.address };
  const post = (path: string, body?: object) =>
    fetch(`${host.address}/api/v1${path}`, { method: 'POST', headers, ...(body ? { body: JSON.stringify(body) } : {}) });
  expect((await post('/network', { open: true, address: LAN, names: [] })).status).toBe(200);
  const afar = `http://${LAN}:${hostPort}`;
  expect((await fetch(`${afar}/`, { redirect: 'manual' })).headers.get('location')).toBe('/join');
  for (const path of ['/api/v1/host/at-hand', '/api/v1/status', `/api/v1/panels/${panelId}`]) expect((await fetch(afar + path)).status).toBe(401);
  expect((await fetch(`${afar}/api/v1/host/code`, { method: 'POST' })).status).toBe(401);
  const { code } = (await (await post('/network/code')).json()) as { code: string };
  // A browser of its own, as a phone has.
  const own = await browser.createBrowserContext();
  const phone = Screen.of(await own.newPage());
  await phone.page.goto(`${afar}/join`);
  await phone.fill('Code', code);
  await phone.fill('Name of the phone or panel', 'phone of R. Vale');
  await phone.press('Join');
  await phone.sees('Gap', 'h1');
  expect((await phone.page.goto(`${afar}/host`))?.url()).toBe(`${afar}/panel`);
  // A bench reaches it there too, and shows by its seal that it may.
  const hello = await fetch(`${afar}/api/v1/host/hello`, { method: 'POST', headers: { 'content-type': 'application/json' }, body: '{}' });
  expect(await hello.json()).toMatchObject({ name: 'Panel at the rolls', isPairing: false });
  await own.close();
  expect((await post('/network', { open: false, address: LAN, names: [] })).status).toBe(200);
}, 60_000);

test('one that breaks down soon after it was taken over gives way to the one before', async () => {
  await sendCommand(server.address, 'worse', [{ kind: 'element', id: entryId, set: { label: 'Worse' } }]);
  await bench.page.bringToFront();
  await bench.press('To Panel at the rolls');
  await glass.page.bringToFront();
  await glass.find('[data-label="Worse"]');
  for (let crash = 0; crash < 2; crash++) {
    await host.stop('SIGKILL');
    host = await startHost();
  }
  await glass.find('[data-label="Wanted gap"]');
  await until('what was kept is shown', async () => (await shown('Batch')) === '41', 15_000);
  await bench.page.bringToFront();
  await bench.press('Panel hosts');
  await bench.sees('was given up: It was started 2 times, and did not run for 10 s.', DIALOG);
  expect(bench.complaints).toEqual([]);
  expect(glass.complaints).toEqual([]);
}, 90_000);

test('interrupted at random moments, by a kill or by a sender that goes, it runs the old or the new', async () => {
  await host.stop();
  const more = ['--name', 'Panel at the rolls', '--steady', '0.2'];
  const restart = async (): Promise<RunningServer> => (host = await startServer(hostData.folder, hostPort, more, 'panelHost.mjs'));
  await restart();
  const { hosts } = (await get('/hosts')) as unknown as { hosts: { id: string }[] };
  const change = (n: number): Promise<void> =>
    sendCommand(server.address, 'another', [{ kind: 'element', id: entryId, set: { label: `Sent ${n}` } }]);
  const how = { server, host, panelId, hostId: hosts[0]?.id ?? '', typicalMs: 300, change, restart };
  const { old, isNew, neither } = await interruptions(how, 8, 20_261_201);
  expect([old + isNew, neither]).toEqual([8, 0]);
}, 120_000);
