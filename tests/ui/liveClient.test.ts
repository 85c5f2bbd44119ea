import { afterEach, beforeEach, describe, expect, jest, test } from '@jest/globals';
import { BEAT_MS, HOLD_SIGN_MS, SILENCE_MS, type ClientMessage, type LiveSample, type ServerMessage } from '@/core/live/messages.ts';
import type { Snapshot } from '@/core/project/snapshot.ts';
import { GOOD, qualityOf, type Quality } from '@/core/value/quality.ts';
import { ProjectClient } from '@/ui/live/projectClient.ts';
import { uuidOf } from '../support/uuidOf.ts';
import { tagOf } from './project.ts';

/** The server's end of a page's socket. */
class FakeSocket {
  static readonly OPEN = 1;
  static all: FakeSocket[] = [];
  readyState = 1;
  onmessage: ((event: { data: string }) => void) | null = null;
  onclose: (() => void) | null = null;
  readonly got: ClientMessage[] = [];
  constructor(readonly url: string) {
    FakeSocket.all.push(this);
  }
  send(text: string): void {
    this.got.push(JSON.parse(text) as ClientMessage);
  }
  close(): void {
    this.readyState = 3;
    this.onclose?.();
  }
  say(message: ServerMessage): void {
    this.onmessage?.({ data: JSON.stringify(message) });
  }
}

const tag = tagOf(5, { periodMs: 1000 });
let revision = 1;
let projectName = 'first';
let requests = 0;
const snapshot = (): Snapshot => ({
  revision,
  project: { id: uuidOf(0), name: projectName, dialects: [] },
  links: [],
  devices: [],
  groups: [],
  enumerations: [],
  structures: [],
  blocks: [],
  members: [],
  simulations: [],
  copyRules: [],
  sharedScales: [],
  pictures: [],
  stateLists: [],
  subjectLists: [],
  translations: [],
  operators: [],
  alarms: [],
  sources: [],
  tags: [tag],
  scales: [],
  panels: [],
  pages: [],
  elements: [],
  panelWords: [],
  proofs: [],
  drivers: [],
});

let client: ProjectClient;
let changes: number;
const socket = (): FakeSocket => {
  const last = FakeSocket.all.at(-1);
  if (!last) throw new Error('no socket');
  return last;
};
const sample = (n: number, at: number, quality: Quality = GOOD): LiveSample => ({
  tagId: tag.id,
  n,
  at,
  roundTripMs: 1,
  sourceAt: null,
  freshForMs: 3000,
  wire: { kind: 'bytes', hex: '0007' },
  raw: { kind: 'number', value: 7 },
  eng: { kind: 'number', value: 7 },
  text: '7',
  quality,
  broken: null,
});
let batch = 0;
const beat = (serverTime: number, values: readonly LiveSample[] = []): void =>
  socket().say({ kind: 'batch', batch: ++batch, serverTime, values, status: null });
const settle = async (): Promise<void> => {
  for (let i = 0; i < 20; i++) await Promise.resolve();
};

beforeEach(async () => {
  jest.useFakeTimers();
  FakeSocket.all = [];
  revision = 1;
  projectName = 'first';
  requests = 0;
  batch = 0;
  Object.assign(globalThis, {
    WebSocket: FakeSocket,
    location: { protocol: 'http:', host: '127.0.0.1:4780' },
    document: { addEventListener: () => undefined, removeEventListener: () => undefined, visibilityState: 'visible' },
    fetch: async () => {
      requests++;
      return { ok: true, json: async () => snapshot() };
    },
  });
  client = new ProjectClient();
  changes = 0;
  client.start();
  client.onTag(tag.id, () => changes++);
  socket().say({ kind: 'hello', boot: 'a', revision: 1 });
  await settle();
});
afterEach(() => {
  client.stop();
  jest.useRealTimers();
});

describe('a page and its server', () => {
  test('each batch is acknowledged, and only tags that are shown are subscribed to', () => {
    beat(1000, [sample(1, 1000)]);
    expect(socket().got).toContainEqual({ kind: 'ack', batch: 1 });
    expect(socket().got).toContainEqual({ kind: 'subscribe', tags: [tag.id] });
    expect(client.view(tag.id)).toMatchObject({ level: 'good', text: '7' });
    beat(1100, [{ ...sample(2, 1100), tagId: uuidOf(77) }]);
    expect(client.view(uuidOf(77)).level).toBe('bad');
  });
  test('silence is news: without a batch every value turns bad by itself, in the promised time', () => {
    beat(1000, [sample(1, 1000)]);
    jest.advanceTimersByTime(SILENCE_MS - BEAT_MS / 2);
    expect(client.view(tag.id).level).toBe('good');
    jest.advanceTimersByTime(BEAT_MS + 1);
    expect(client.view(tag.id)).toMatchObject({ level: 'bad', text: '–', why: 'the Mill Latch server does not answer' });
    expect(client.state).toBe('silent');
    beat(4000, [sample(2, 4000)]);
    expect(client.view(tag.id)).toMatchObject({ level: 'good', text: '7' });
  });
  test('an old value does not come back as good when the server wakes before it has read anew', () => {
    beat(1000, [sample(1, 1000)]);
    jest.advanceTimersByTime(10_000);
    beat(11_000);
    expect(client.state).toBe('live');
    expect(client.view(tag.id)).toMatchObject({ level: 'bad', text: '–' });
  });
  test('a value grows old though batches come: two periods and the time-outs, and no longer', () => {
    beat(1000, [sample(1, 1000)]);
    for (let t = 500; t <= 4000; t += 500) {
      jest.advanceTimersByTime(500);
      beat(1000 + t);
    }
    expect(client.view(tag.id).level).toBe('good');
    for (let t = 4500; t <= 6000; t += 500) {
      jest.advanceTimersByTime(500);
      beat(1000 + t);
    }
    expect(client.view(tag.id)).toMatchObject({ level: 'bad', text: '–' });
    expect(client.view(tag.id).why).toMatch(/^no fresh reading: the last one is \d s old$/);
  });
  test('a bad sample is never shown as a number, an uncertain one is, with its reason', () => {
    beat(1000, [sample(1, 1000, qualityOf('silent', 'No reply.'))]);
    expect(client.view(tag.id)).toMatchObject({ level: 'bad', text: '–', why: 'the device does not answer: No reply.' });
    beat(1100, [sample(2, 1100, qualityOf('stopped', 'its heartbeat stands still'))]);
    expect(client.view(tag.id)).toMatchObject({ level: 'uncertain', text: '7' });
  });
  test('a channel that ends is opened again by itself, and what is shown is subscribed to again', async () => {
    beat(1000, [sample(1, 1000)]);
    socket().close();
    expect(client.view(tag.id).level).toBe('bad');
    jest.advanceTimersByTime(1000);
    expect(FakeSocket.all).toHaveLength(2);
    socket().say({ kind: 'hello', boot: 'a', revision: 1 });
    await settle();
    expect(socket().got).toContainEqual({ kind: 'subscribe', tags: [tag.id] });
    expect(requests).toBe(1);
  });
});

describe('the project on a page', () => {
  const change = (to: number): ServerMessage => ({
    kind: 'change',
    revision: to,
    label: 'x',
    changes: [{ kind: 'project', id: uuidOf(0), after: { id: uuidOf(0), name: `name ${to}`, dialects: [] } }],
    parts: 0,
  });
  test('takes a large change whose parts all came, and is loaded anew when one is missing', async () => {
    const named = (name: string) => [{ kind: 'project' as const, id: uuidOf(0), after: { id: uuidOf(0), name } as never }];
    socket().say({ kind: 'part', revision: 2, changes: named('first part') });
    expect(client.project?.project.name).not.toBe('first part');
    socket().say({ kind: 'change', revision: 2, label: 'x', changes: named('the last'), parts: 1 });
    await settle();
    expect([client.project?.project.name, requests]).toEqual(['the last', 1]);
    revision = 3;
    projectName = 'whole';
    socket().say({ kind: 'part', revision: 3, changes: named('half') });
    socket().say({ kind: 'change', revision: 3, label: 'x', changes: named('half'), parts: 2 });
    await settle();
    expect([client.project?.project.name, requests]).toEqual(['whole', 2]);
  });
  test('follows changes one by one, and is not loaded for them', () => {
    socket().say(change(2));
    expect(client.project?.project.name).toBe('name 2');
    expect(requests).toBe(1);
  });
  test('is loaded again when a change was missed, when the server was started anew, and not for a change it knows', async () => {
    socket().say(change(1));
    expect(requests).toBe(1);
    revision = 5;
    projectName = 'whole';
    socket().say(change(5));
    await settle();
    expect([client.project?.project.name, client.project?.revision, requests]).toEqual(['whole', 5, 2]);
    socket().say({ kind: 'hello', boot: 'b', revision: 5 });
    await settle();
    expect(requests).toBe(3);
  });
  test('where there are thousands of tags it is shown without them first, says how many come, and follows changes meanwhile', async () => {
    client.stop();
    let answer: (value: unknown) => void = () => undefined;
    const slow = new Promise((resolve) => (answer = resolve));
    const asked: string[] = [];
    Object.assign(globalThis, {
      fetch: async (url: string) => {
        asked.push(url);
        if (url.includes('first=1'))
          return { ok: true, json: async () => ({ ...snapshot(), tags: [], coming: { count: 100_000, on: { [uuidOf(9)]: 70 } } }) };
        await slow;
        return { ok: true, json: async () => snapshot() };
      },
    });
    client = new ProjectClient();
    client.start();
    socket().say({ kind: 'hello', boot: 'a', revision: 1 });
    await settle();
    expect([client.project?.isWhole, client.project?.tagCount, client.project?.tagCountOn(uuidOf(9)), client.project?.tagCountOn(uuidOf(8))]).toEqual(
      [false, 100_000, 70, 0],
    );
    socket().say(change(2));
    await settle();
    expect([client.project?.isWhole, client.project?.tagCount, client.project?.revision]).toEqual([false, 100_000, 2]);
    [revision, projectName] = [2, 'newer'];
    answer(null);
    await settle();
    expect([client.project?.isWhole, client.project?.tagCount, client.project?.revision, client.project?.project.name]).toEqual([
      true,
      1,
      2,
      'newer',
    ]);
    expect(asked.filter((url) => url.includes('first=1'))).toHaveLength(1);
  });
  test('what changes while it is being loaded is not lost', async () => {
    let answer: (value: unknown) => void = () => undefined;
    const slow = new Promise((resolve) => (answer = resolve));
    const old = snapshot();
    let first = true;
    Object.assign(globalThis, {
      fetch: async () => {
        requests++;
        if (!first) return { ok: true, json: async () => snapshot() };
        first = false;
        await slow;
        return { ok: true, json: async () => ({ ...old, revision: 7 }) };
      },
    });
    socket().say({ kind: 'hello', boot: 'c', revision: 7 });
    socket().say(change(8));
    revision = 8;
    projectName = 'newest';
    answer(null);
    await settle();
    expect([client.project?.project.name, client.project?.revision]).toEqual(['newest', 8]);
  });
});

describe('a button that is held', () => {
  const [PANEL_ID, ELEMENT_ID] = ['a panel', 'a button'];
  const signs = (): number => socket().got.filter((m) => m.kind === 'hold').length;
  test('says so again and again until it is let go', () => {
    beat(1000);
    const letGo = client.hold({ panelId: PANEL_ID, elementId: ELEMENT_ID }, () => undefined);
    jest.advanceTimersByTime(HOLD_SIGN_MS * 5);
    expect(signs()).toBe(6);
    expect(socket().got.at(-1)).toMatchObject({ kind: 'hold', panelId: PANEL_ID, elementId: ELEMENT_ID });
    letGo();
    expect(socket().got.at(-1)).toMatchObject({ kind: 'release' });
    jest.advanceTimersByTime(1000);
    expect(signs()).toBe(6);
  });
  test('stops saying so when it is refused, and when the channel ends', () => {
    beat(1000);
    const told: string[] = [];
    client.hold({ panelId: PANEL_ID, elementId: ELEMENT_ID }, (held) => told.push(held.phase));
    const { hold } = socket().got.find((m) => m.kind === 'hold') as { hold: string };
    socket().say({ kind: 'held', hold, phase: 'refused', sentence: 'locked' });
    jest.advanceTimersByTime(500);
    expect([told, signs()]).toEqual([['refused'], 1]);
    client.hold({ panelId: PANEL_ID, elementId: ELEMENT_ID }, (held) => told.push(held.phase));
    const before = signs();
    const old = socket();
    old.close();
    jest.advanceTimersByTime(500);
    expect(told).toEqual(['refused', 'off']);
    expect(old.got.filter((m) => m.kind === 'hold')).toHaveLength(before);
  });
  test('is refused while the server is silent: nothing begins that nobody could end', () => {
    beat(1000);
    jest.advanceTimersByTime(SILENCE_MS + BEAT_MS);
    const told: string[] = [];
    client.hold({ panelId: PANEL_ID, elementId: ELEMENT_ID }, (held) => told.push(held.phase));
    expect([told, signs()]).toEqual([['refused'], 0]);
  });
});
