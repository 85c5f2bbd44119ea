import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { chmodSync, existsSync, readFileSync, symlinkSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { v7 as uuid } from 'uuid';
import { WebSocket } from 'ws';
import type { Peer } from '@/core/live/network.ts';
import type { ServerMessage } from '@/core/live/messages.ts';
import { claimFolder } from '@/server/folderClaim.ts';
import { lockFolder } from '@/server/folderLock.ts';
import { refuse } from '@/server/requestGuard.ts';
import { freePort, newFolder } from '../support/server.ts';
import { newTag } from '../support/newTag.ts';
import { openBench, smallProject, type Bench } from '../support/services.ts';
import { LiveChannel } from '@/server/liveChannel.ts';
import { createServer } from 'node:http';
import { newAction } from '@/core/panel/actions.ts';
import { watchHolds } from '../support/holds.ts';
import { until } from '../support/until.ts';
import { startKiln } from '../support/standin.ts';

describe('the data folder', () => {
  test('is held by one process: a second one is told who holds it', () => {
    const { folder, remove } = newFolder();
    const first = lockFolder(folder);
    expect(first.ok).toBe(true);
    expect(lockFolder(folder)).toMatchObject({
      ok: false,
      problem: { code: 'folder-held', message: expect.stringContaining(`process ${process.pid}`) as unknown as string },
    });
    if (first.ok) first.value.release();
    const again = lockFolder(folder);
    expect(again.ok).toBe(true);
    remove();
  });
  test.each([
    ['a process that has ended', JSON.stringify({ pid: 4_000_000, began: '1', since: 'long ago' })],
    ['another process that has the number now', JSON.stringify({ pid: process.pid, began: '1', since: 'long ago' })],
    ['a file cut short by a crash', '{"pid": 12'],
  ])('is taken over from %s', (_whose, left) => {
    const { folder, remove } = newFolder();
    writeFileSync(join(folder, 'server.lock'), left);
    const lock = lockFolder(folder);
    expect(lock.ok).toBe(true);
    expect(JSON.parse(readFileSync(join(folder, 'server.lock'), 'utf8'))).toMatchObject({ pid: process.pid });
    if (lock.ok) lock.value.release();
    expect(existsSync(join(folder, 'server.lock'))).toBe(false);
    remove();
  });
  test('is held without its lock file too, under whatever name it is reached, until its process lets go', async () => {
    const { folder, remove } = newFolder();
    const first = await claimFolder(folder);
    if (!first.ok) throw new Error(first.problem.message);
    const other = newFolder();
    symlinkSync(folder, join(other.folder, 'link'));
    for (const path of [folder, join(other.folder, 'link'), `${folder}/../${folder.split('/').at(-1) ?? ''}`])
      expect(await claimFolder(path)).toMatchObject({ ok: false, problem: { code: 'folder-held' } });
    expect((await claimFolder(other.folder)).ok).toBe(true);
    await new Promise((resolve) => first.value?.close(resolve));
    expect((await claimFolder(folder)).ok).toBe(true);
    remove();
    other.remove();
  });
  test('that cannot be written is told with what to try', () => {
    const { folder, remove } = newFolder();
    const file = join(folder, 'plain-file');
    writeFileSync(file, '');
    chmodSync(file, 0o600);
    expect(lockFolder(join(file, 'inside'))).toMatchObject({
      ok: false,
      problem: { code: 'folder', remedy: expect.stringContaining('--data') as unknown as string },
    });
    remove();
  });
});

const HOSTS = ['127.0.0.1:4780', 'localhost:4780', '[::1]:4780'];

// OWASP ASVS 4.0, V13.2.3 and V14.5.3 (from memory): cross-site requests and untrusted origins are refused.
describe('who may talk to the server', () => {
  const ask = (headers: Record<string, string>, method = 'GET', url = '/map'): string | null =>
    refuse({ headers: { host: '127.0.0.1:4780', ...headers }, method, url }, HOSTS);
  test('its own pages, under its own local names', () => {
    for (const host of ['127.0.0.1:4780', 'localhost:4780', '[::1]:4780']) expect(ask({ host, origin: `http://${host}` }, 'POST')).toBeNull();
    expect(ask({ 'sec-fetch-site': 'cross-site', 'sec-fetch-mode': 'navigate', 'sec-fetch-dest': 'document' })).toBeNull();
  });
  test.each([
    ['a name bent to this machine', { host: 'mill.example:4780' }, 'GET'],
    ['another port of this machine', { origin: 'http://127.0.0.1:9999' }, 'POST'],
    ['a page of another server', { origin: 'https://example.org' }, 'POST'],
    ['a sandboxed page', { origin: 'null' }, 'POST'],
    ['a form of another page', { 'sec-fetch-site': 'cross-site', 'sec-fetch-mode': 'navigate' }, 'POST'],
    ['an image of another page', { 'sec-fetch-site': 'cross-site', 'sec-fetch-mode': 'no-cors' }, 'GET'],
  ])('not %s', (_who, headers, method) => {
    expect(ask(headers, method)).not.toBeNull();
  });
  test.each([
    ['an image', { 'sec-fetch-site': 'cross-site', 'sec-fetch-mode': 'no-cors', 'sec-fetch-dest': 'image' }],
    ['a frame', { 'sec-fetch-site': 'cross-site', 'sec-fetch-mode': 'navigate', 'sec-fetch-dest': 'iframe' }],
    ['a link', { 'sec-fetch-site': 'cross-site', 'sec-fetch-mode': 'navigate', 'sec-fetch-dest': 'document' }],
    ['another port of this machine', { 'sec-fetch-site': 'same-site', 'sec-fetch-mode': 'navigate', 'sec-fetch-dest': 'document' }],
  ])('%s of another page starts no export; the own page and a person do', (_what, headers) => {
    expect(ask(headers, 'GET', '/api/v1/project-file')).not.toBeNull();
    for (const site of ['same-origin', 'none'])
      expect(ask({ 'sec-fetch-site': site, 'sec-fetch-mode': 'navigate', 'sec-fetch-dest': 'document' }, 'GET', '/api/v1/project-file')).toBeNull();
  });
  test('not a request without Host', () => {
    expect(refuse({ headers: {}, method: 'GET' }, HOSTS)).not.toBeNull();
  });
});

describe('the live channel', () => {
  type Opened = { socket: WebSocket; messages: ServerMessage[]; say: (message: unknown) => void };
  let url = '';
  let closeAll: () => Promise<void> = async () => undefined;
  let tagId = '';
  let kilnHold: (on: boolean) => Promise<void>;
  let dropPeer: (id: string | null) => void;
  let coil = '';
  const [panelId, elementId] = [uuid(), uuid()];
  let bench: Bench;
  let kilnValue: (name: string) => Promise<unknown>;
  /** Who asks is in the address here; the product takes it from the session. */
  let askPages: LiveChannel['askPages'];
  let waitingBytes: () => number;
  const peerOf = (path = '/'): Peer | null =>
    path === '/reader' || path === '/writer'
      ? { id: path, name: path, rights: path === '/writer' ? 'write' : 'read', joinedAt: '', seenAt: '' }
      : null;

  beforeAll(async () => {
    const kiln = await startKiln();
    kilnHold = (on) => kiln.hold(on);
    kilnValue = (name) => kiln.value(name);
    bench = await openBench();
    ({ tagId } = await smallProject(bench, kiln.modbusPort, { name: 'free_count', address: 'HR78', type: 'UINT', access: 'read' }));
    coil = uuid();
    await bench.change('jog', [
      { kind: 'tag', id: coil, set: { ...newTag(bench.services.model.all('device')[0]?.id ?? '', 'belt_jog', 'CO4'), type: 'BOOL' } },
    ]);
    // Phones and panels press what panels show.
    const pageId = uuid();
    await bench.change('panel', [
      { kind: 'panel', id: panelId, set: { name: 'Kiln panel', units: [] } },
      { kind: 'page', id: pageId, set: { panelId, name: 'Belt', position: 0 } },
      {
        kind: 'element',
        id: elementId,
        set: { pageId, kind: 'button', tagId: coil, label: '', x: 0, y: 0, w: 160, h: 64, settings: { actions: [newAction('hold')] } },
      },
    ]);
    const channel = new LiveChannel();
    channel.begin(bench.services);
    askPages = (id) => channel.askPages(id);
    waitingBytes = () => channel.waitingBytes;
    const port = await freePort();
    const server = createServer();
    server.on('upgrade', (r, s, h) => channel.accept(r, s, h, peerOf(r.url)));
    dropPeer = (id) => channel.dropPeer(id);
    await new Promise<void>((resolve) => server.listen(port, '127.0.0.1', resolve));
    url = `ws://127.0.0.1:${port}`;
    closeAll = async () => {
      channel.close();
      server.close();
      await bench.close();
      await kiln.stop();
    };
  });
  afterAll(() => closeAll());

  async function open(acknowledge: boolean, path = '/'): Promise<Opened> {
    const socket = new WebSocket(`${url}${path}`);
    const messages: ServerMessage[] = [];
    const say = (message: unknown): void => socket.send(JSON.stringify(message));
    socket.on('message', (data: Buffer) => {
      const message = JSON.parse(data.toString()) as ServerMessage;
      messages.push(message);
      if (message.kind === 'batch' && acknowledge) say({ kind: 'ack', batch: message.batch });
    });
    await new Promise((resolve) => socket.once('open', resolve));
    return { socket, messages, say };
  }
  const batches = (opened: Opened) => opened.messages.flatMap((m) => (m.kind === 'batch' ? [m] : []));

  test('sends only what was subscribed to, and beats when nothing changes', async () => {
    await kilnHold(true);
    const opened = await open(true);
    await until('three beats came', () => batches(opened).length >= 3);
    expect(batches(opened).flatMap((b) => b.values)).toEqual([]);
    opened.say({ kind: 'subscribe', tags: [tagId] });
    await until('the value came', () => batches(opened).some((b) => b.values[0]?.tagId === tagId));
    opened.socket.close();
    await kilnHold(false);
  });
  test('gives a page that does not acknowledge no backlog, and the newest value when it wakes', async () => {
    await until('it is read', () => bench.services.engine.live.get(tagId)?.quality.level === 'good');
    const opened = await open(false);
    opened.say({ kind: 'subscribe', tags: [tagId] });
    await new Promise((resolve) => setTimeout(resolve, 1500));
    expect(batches(opened)).toHaveLength(2);
    const valuesIn = (from: number) => batches(opened).slice(from).flatMap(({ values }) => values); // prettier-ignore
    const before = Number(valuesIn(0).at(-1)?.eng?.value ?? 0);
    opened.say({ kind: 'ack', batch: 2 });
    await until('the newest came', () => valuesIn(2).length > 0);
    expect(Number(valuesIn(2)[0]?.eng?.value)).toBeGreaterThan(before + 5);
    opened.socket.close();
  });
  test('keeps no values waiting for a page that acknowledges and never reads', async () => {
    const opened = await open(false);
    opened.say({ kind: 'subscribe', tags: [tagId] });
    await until('the value came', () => batches(opened).length > 0);
    opened.socket.pause();
    // Batches are acknowledged before they are read; changes of the project fill what the system keeps for the socket.
    const acks = setInterval(() => opened.say({ kind: 'ack', batch: Number.MAX_SAFE_INTEGER }), 10);
    const panelId = uuid();
    await bench.change('panel', [{ kind: 'panel', id: panelId, set: { name: 'P' } }]);
    for (let i = 0; i < 400; i++) await bench.change('note', [{ kind: 'panel', id: panelId, set: { name: 'P'.repeat(60) + String(i) } }]);
    await new Promise((resolve) => setTimeout(resolve, 500));
    clearInterval(acks);
    expect(waitingBytes()).toBeLessThan(1_300_000);
    opened.socket.terminate();
  });
  test('what a page has drawn counts from the page that was asked, and from no other', async () => {
    const [asked, other] = await Promise.all([open(true), open(true)]);
    asked.say({ kind: 'subscribe', tags: [tagId] });
    await until('it shows the tag', () => batches(asked).some((b) => b.values.length > 0));
    const told = askPages(tagId);
    await until('it is asked', () => asked.messages.some((m) => m.kind === 'ask'));
    const request = asked.messages.flatMap((m) => (m.kind === 'ask' ? [m.request] : []))[0] ?? 0;
    const drawn = (text: string) => ({ kind: 'drawn', request, items: [{ elementId: 'e', text, sample: 1, visibility: 'visible', language: null }] });
    for (let i = 0; i < 20; i++) other.say({ ...drawn('forged'), request: request + i - 10 });
    await new Promise((resolve) => setTimeout(resolve, 100));
    asked.say(drawn('5'));
    expect(await told).toEqual([expect.objectContaining({ text: '5' })]);
    asked.socket.close();
    other.socket.close();
  });
  test('a page that sends thousands of messages at once is taken a portion at a time', async () => {
    const opened = await open(true);
    const at: number[] = [];
    opened.socket.on('message', (data: Buffer) => data.includes('"held"') && at.push(performance.now()));
    for (let i = 0; i < 12_000; i++) opened.say({ kind: 'hold', hold: `flood ${i}`, panelId, elementId: 'none' });
    await until('all were answered', () => at.length === 12_000, 15_000);
    // What one reading of the socket brings is taken together; the rest waits for the next batch, 50 ms later.
    const pauses = at.filter((time, i) => i > 0 && time - (at[i - 1] ?? 0) > 15).length;
    expect(pauses).toBeGreaterThan(4);
    opened.socket.close();
  });
  test('a button held by a page that may write is on until its channel ends, and no longer', async () => {
    bench.services.guard.unlock(bench.services.model.all('device')[0]?.id ?? '', 'R. Vale', 5);
    const opened = await open(true, '/writer');
    const signs = setInterval(() => opened.socket.readyState === WebSocket.OPEN && opened.say({ kind: 'hold', hold: 'h1', panelId, elementId }), 60);
    const holds = watchHolds();
    try {
      await until('it is on', async () => (await kilnValue('belt_jog')) === true);
      await until('the page is told', () => opened.messages.some((m) => m.kind === 'held' && m.phase === 'on'));
      await new Promise((resolve) => setTimeout(resolve, 700));
      // Also where the machine held us up: the server hears what waits in its sockets before it judges.
      expect(await kilnValue('belt_jog')).toBe(true);
      const cut = bench.services.engine.clock.now();
      holds.totalMs();
      opened.socket.terminate();
      await until('it is off', async () => (await kilnValue('belt_jog')) === false);
      const heldUp = holds.totalMs();
      // Measured where it happens, by the log: what passed while this process did not run is none of the server's time.
      const released = (await bench.services.writes.log({ limit: 5 })).find((w) => w.note.startsWith('Released'));
      expect(Date.parse(released?.at ?? '') - cut - heldUp).toBeLessThan(500);
    } finally {
      holds.stop();
      clearInterval(signs);
      opened.socket.terminate();
    }
  });
  test('a button pressed by one that may only read is refused, and nothing is written', async () => {
    const opened = await open(true, '/reader');
    opened.say({ kind: 'hold', hold: 'h2', panelId, elementId });
    await until('it is refused', () => opened.messages.some((m) => m.kind === 'held' && m.phase === 'refused' && m.sentence.includes('only read')));
    expect(await kilnValue('belt_jog')).toBe(false);
    opened.socket.close();
  });
  test('one whose rights have changed is cut off, and the others are not', async () => {
    const [reader, writer, bench1] = await Promise.all([open(true, '/reader'), open(true, '/writer'), open(true)]);
    const gone = new Promise((resolve) => reader.socket.once('close', resolve));
    dropPeer('/reader');
    await gone;
    expect([writer.socket.readyState, bench1.socket.readyState]).toEqual([WebSocket.OPEN, WebSocket.OPEN]);
    dropPeer(null);
    await until('all peers are gone', () => writer.socket.readyState === WebSocket.CLOSED);
    expect(bench1.socket.readyState).toBe(WebSocket.OPEN);
    bench1.socket.close();
  });
  test.each([
    ['no JSON', 'x'],
    ['another kind', '{"kind":"shutdown"}'],
    ['a field of the wrong type', '{"kind":"subscribe","tags":"all"}'],
    ['a name from the prototype', '{"kind":"constructor"}'],
  ])('%s closes the channel', async (_what, text) => {
    const opened = await open(true);
    const closed = new Promise((resolve) => opened.socket.once('close', resolve));
    opened.socket.send(text);
    expect(await closed).toBe(1008);
  });
});
