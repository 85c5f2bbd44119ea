import { afterEach, beforeEach, describe, expect, jest, test } from '@jest/globals';
import { newPoint } from '@/core/project/tagSource.ts';
import { pointSet } from '../support/pointSet.ts';
import { FaultyServer, ownAddresses } from '../support/faultyServer.ts';
import { v7 as uuid } from 'uuid';
import { newTag } from '../support/newTag.ts';
import { openBench, smallProject, type Bench, type SmallProject } from '../support/services.ts';
import { until } from '../support/until.ts';

let bench: Bench;
let server: FaultyServer;
let small: SmallProject;
let held = 1000;
/** What the controller does with a write: takes it, keeps its own, or says nothing. */
let manner: 'takes' | 'keeps' | 'silent' | 'refuses' = 'takes';

beforeEach(async () => {
  held = 1000;
  manner = 'takes';
  server = await FaultyServer.start();
  server.onRequest = (asked) => {
    if (asked.pdu[0] === 3) return asked.answer([3, 2, held >> 8, held & 255]);
    if (manner === 'silent') return;
    if (manner === 'refuses') return asked.answer([0x86, 4]);
    if (manner === 'takes') held = asked.pdu.readUInt16BE(3);
    asked.answer(asked.pdu);
  };
  bench = await openBench();
  small = await smallProject(bench, server.port, { unit: '°C', rangeLow: 0, rangeHigh: 150, decimals: 1 });
  await bench.change('scale', [{ kind: 'scale', id: small.tagId, set: { scale: { kind: 'power', exponent: -1 } } }]);
  await until('the tag is read', () => bench.services.engine.live.get(small.tagId)?.text === '100.0');
});
afterEach(async () => {
  await bench.close();
  await server.stop();
});

const write = (value: string) => bench.services.writes.write({ id: uuid(), tagId: small.tagId, value, writer: 'engineer' });
const sent = (): number => server.requests.filter((r) => r.pdu[0] === 6).length;

describe('writing to a machine', () => {
  test('is locked by default: nothing is sent and nothing is logged', async () => {
    expect(await write('90')).toMatchObject({ ok: false, problem: { code: 'locked' } });
    expect(sent()).toBe(0);
    expect(await bench.services.writes.log({ limit: 10 })).toEqual([]);
  });
  test('unlocked, is sent once, read back, and logged with who, old, asked and held', async () => {
    bench.services.guard.unlock(small.deviceId, 'R. Vale', 5);
    expect(await write('90')).toMatchObject({ ok: true, value: { state: 'done', heldText: '90.0' } });
    expect(held).toBe(900);
    expect(sent()).toBe(1);
    const [entry] = await bench.services.writes.log({ limit: 10 });
    expect(entry).toMatchObject({
      who: 'R. Vale',
      state: 'done',
      old: { value: '100.0' },
      asked: { value: '90' },
      sent: { value: '90.0' },
      held: { value: '90.0' },
    });
  });
  test.each([
    ['beyond the range of the tag', '151', 'out-of-range'],
    ['no number', 'warm', 'unfit-value'],
    ['a decimal comma', '90,5', 'decimal-comma'],
  ])('%s is refused before it is sent', async (_what, value, code) => {
    bench.services.guard.unlock(small.deviceId, 'R. Vale', 5);
    expect(await write(value)).toMatchObject({ ok: false, problem: { code, place: 'value' } });
    expect(sent()).toBe(0);
  });
  test('a tag that is only read is not written', async () => {
    bench.services.guard.unlock(small.deviceId, 'R. Vale', 5);
    await bench.change('read only', [{ kind: 'tag', id: small.tagId, set: { access: 'read' } }]);
    expect(await write('90')).toMatchObject({ ok: false, problem: { code: 'read-only' } });
  });
  test('a controller that keeps its own value is told on', async () => {
    bench.services.guard.unlock(small.deviceId, 'R. Vale', 5);
    manner = 'keeps';
    expect(await write('90')).toMatchObject({ ok: true, value: { state: 'differs', sentence: 'The controller took 90.0 °C and holds 100.0 °C.' } });
  });
  test('without a reply nobody knows: it is said, logged, and never sent again', async () => {
    bench.services.guard.unlock(small.deviceId, 'R. Vale', 5);
    manner = 'silent';
    expect(await write('90')).toMatchObject({
      ok: true,
      value: { state: 'unknown', sentence: expect.stringContaining('Unknown whether it was done') as unknown as string },
    });
    await new Promise((resolve) => setTimeout(resolve, 500));
    expect(sent()).toBe(1);
    expect((await bench.services.writes.log({ limit: 1 }))[0]?.state).toBe('unknown');
  });
  test('a refusal by the controller is named', async () => {
    bench.services.guard.unlock(small.deviceId, 'R. Vale', 5);
    manner = 'refuses';
    expect(await write('90')).toMatchObject({
      ok: true,
      value: { state: 'refused', sentence: expect.stringContaining('device failure') as unknown as string },
    });
  });
  test('the lock closes when its time is over, by hand, and with a restart', async () => {
    const { guard } = bench.services;
    guard.unlock(small.deviceId, 'R. Vale', 0.0005);
    await new Promise((resolve) => setTimeout(resolve, 60));
    expect(guard.unlockedBy(small.deviceId)).toBeNull();
    guard.unlock(small.deviceId, 'R. Vale', 5);
    guard.lock(small.deviceId);
    expect(await write('90')).toMatchObject({ ok: false, problem: { code: 'locked' } });
    guard.unlock(small.deviceId, 'R. Vale', 5);
    bench = await bench.reopen();
    expect(bench.services.guard.all()).toEqual([]);
  });
});

describe('who may write', () => {
  test('each kind of writer has a permission of its own', async () => {
    bench.services.guard.unlock(small.deviceId, 'R. Vale', 5, ['panel']);
    expect(await write('90')).toMatchObject({
      ok: false,
      problem: { code: 'locked', message: 'Writing to KILN is not open for the bench.', remedy: 'Unlock it again, for the bench too.' },
    });
    expect(await bench.services.writes.write({ id: uuid(), tagId: small.tagId, value: '90', writer: 'rule' })).toMatchObject({
      ok: false,
      problem: { code: 'locked' },
    });
    expect(await bench.services.writes.write({ id: uuid(), tagId: small.tagId, value: '90', writer: 'panel' })).toMatchObject({
      ok: true,
      value: { state: 'done' },
    });
    expect((await bench.services.writes.log({ limit: 5 })).map((w) => w.origin)).toEqual(['panel']);
  });
  test('a device that says it is another machine, or says nothing, is not opened', async () => {
    const request = { deviceId: small.deviceId, who: 'R. Vale', minutes: 5 };
    await bench.change('identity', [{ kind: 'device', id: small.deviceId, set: { identityTagId: small.tagId, identity: '77.7' } }]);
    expect(await bench.services.guards.unlock(request)).toMatchObject({
      ok: false,
      problem: { code: 'identity', message: 'KILN says “100.0”, “77.7” is expected: this may be another machine.' },
    });
    expect(bench.services.guard.all()).toEqual([]);
    held = 777;
    expect((await bench.services.guards.unlock(request)).ok).toBe(true);
    bench.services.guard.lock();
    server.onRequest = () => undefined;
    expect(await bench.services.guards.unlock(request)).toMatchObject({ ok: false, problem: { code: 'identity-unread' } });
  });
  test('a change of address, dialect or link closes the device again; a change elsewhere does not', async () => {
    const open = async (): Promise<void> => void (await bench.services.guards.unlock({ deviceId: small.deviceId, who: 'R. Vale', minutes: 5 }));
    const isOpen = (): boolean => bench.services.guard.unlockedBy(small.deviceId) !== null;
    await open();
    await bench.change('comment', [{ kind: 'tag', id: small.tagId, set: { comment: 'no part of it' } }]);
    expect(isOpen()).toBe(true);
    await bench.change('unit', [{ kind: 'device', id: small.deviceId, set: { settings: { unit: 2 } } }]);
    expect(isOpen()).toBe(false);
    await open();
    await bench.change('host', [{ kind: 'link', id: small.linkId, set: { settings: { host: 'localhost', port: server.port } } }]);
    expect(isOpen()).toBe(false);
  });
  test('a tag that was changed after the value was planned is not written, at the old place or the new one', async () => {
    const openIt = (): unknown => bench.services.guard.unlock(small.deviceId, 'R. Vale', 5);
    openIt();
    // The machine keeps the first write waiting, and the second waits for its turn meanwhile.
    let answerFirst: () => void = () => undefined;
    server.onRequest = (asked) => {
      if (asked.pdu[0] === 3) return asked.answer([3, 2, held >> 8, held & 255]);
      answerFirst = () => asked.answer(asked.pdu);
    };
    await bench.change('patience', [{ kind: 'device', id: small.deviceId, set: { dialect: { timeoutMs: 4000, depth: 4 } } }]);
    await until('it is read', () => bench.services.engine.live.get(small.tagId)?.quality.level === 'good');
    openIt();
    const [first, second] = [write('80'), write('90')];
    await until('the first was sent', () => sent() === 1);
    await bench.change('moved', [{ kind: 'tag', id: small.tagId, set: pointSet(bench.services.model, small.tagId, { address: 'HR9' }) }]);
    openIt();
    answerFirst();
    await first;
    expect(await second).toMatchObject({
      ok: true,
      value: { state: 'refused', sentence: expect.stringContaining('were changed before') as unknown as string },
    });
    expect(server.requests.filter((r) => r.pdu[0] === 6).map((r) => [r.pdu.readUInt16BE(1), r.pdu.readUInt16BE(3)])).toEqual([[2, 800]]);
  });
});

describe('a value that the controller cannot hold', () => {
  beforeEach(() => void bench.services.guard.unlock(small.deviceId, 'R. Vale', 5));
  test('is refused with the nearest that it can, and nothing is sent', async () => {
    expect(await write('90.04')).toMatchObject({ ok: false, problem: { code: 'not-held', place: 'value', instead: ['90.0', '90.1'] } });
    expect(sent()).toBe(0);
  });
  test('is taken by choice, and the log keeps what was asked, what was sent and what is held', async () => {
    const request = { id: uuid(), tagId: small.tagId, value: '90.04', writer: 'engineer', rounding: 'nearest' } as const;
    expect(await bench.services.writes.write(request)).toMatchObject({ ok: true, value: { state: 'done', heldText: '90.0' } });
    expect((await bench.services.writes.log({ limit: 1 }))[0]).toMatchObject({
      asked: { value: '90.04' },
      sent: { value: '90.0' },
      held: { value: '90.0' },
    });
  });
});

describe('a write that is asked for twice', () => {
  const request = (value = '90', id = uuid()) => ({ id, tagId: small.tagId, value, writer: 'engineer' }) as const;
  beforeEach(() => void bench.services.guard.unlock(small.deviceId, 'R. Vale', 5));
  test('under one id is done once, at the same time or afterwards, and answered the same', async () => {
    const asked = request();
    const answers = await Promise.all([bench.services.writes.write(asked), bench.services.writes.write({ ...asked })]);
    answers.push(await bench.services.writes.write({ ...asked }));
    expect(new Set(answers.map((a) => JSON.stringify(a))).size).toBe(1);
    expect(sent()).toBe(1);
    expect(await bench.services.writes.log({ limit: 10 })).toHaveLength(1);
  });
  test('is not done again after a restart either, and is told what came of it', async () => {
    const asked = request();
    await bench.services.writes.write(asked);
    bench = await bench.reopen();
    bench.services.guard.unlock(small.deviceId, 'R. Vale', 5);
    await until('it is read', () => bench.services.engine.live.get(small.tagId)?.quality.level === 'good');
    expect(await bench.services.writes.write(asked)).toMatchObject({ ok: true, value: { state: 'done', held: { value: '90.0' } } });
    expect(sent()).toBe(1);
  });
  test('with another value under the same id is refused', async () => {
    const asked = request();
    await bench.services.writes.write(asked);
    expect(await bench.services.writes.write(request('80', asked.id))).toMatchObject({ ok: false, problem: { code: 'id-used' } });
    expect(sent()).toBe(1);
  });
});

describe('what a page shows after a write', () => {
  test('is what was read back, at once, though the tag is read seldom', async () => {
    await bench.change('seldom', [{ kind: 'tag', id: small.tagId, set: { source: newPoint(small.deviceId, 'HR2', { periodMs: 60_000 }) } }]);
    bench.services.guard.unlock(small.deviceId, 'R. Vale', 5);
    const done = await write('90');
    expect(done).toMatchObject({ ok: true, value: { sample: { text: '90.0', quality: { level: 'good' } } } });
    expect(bench.services.engine.live.get(small.tagId)?.text).toBe('90.0');
  });
});

describe('how a write is confirmed', () => {
  const confirm = (set: unknown): Promise<void> => bench.change('confirm', [{ kind: 'tag', id: small.tagId, set: { confirm: set } }]);
  beforeEach(async () => void (await bench.services.guards.unlock({ deviceId: small.deviceId, who: 'R. Vale', minutes: 5 })));
  test('a command that clears itself is not read back', async () => {
    await confirm({ kind: 'none' });
    manner = 'keeps';
    expect(await write('90')).toMatchObject({ ok: true, value: { state: 'done', held: null } });
  });
  test('a controller that rounds is within its tolerance, or not', async () => {
    await confirm({ kind: 'tolerance', by: 0.5 });
    server.onRequest = (asked) => {
      if (asked.pdu[0] === 6) held = asked.pdu.readUInt16BE(3) + 5;
      asked.answer(asked.pdu[0] === 3 ? [3, 2, held >> 8, held & 255] : asked.pdu);
    };
    expect(await write('90')).toMatchObject({ ok: true, value: { state: 'done', heldText: '90.5' } });
    await confirm({ kind: 'tolerance', by: 0.4 });
    expect(await write('90')).toMatchObject({ ok: true, value: { state: 'differs' } });
  });
  test('another tag that follows is waited for', async () => {
    const followerId = uuid();
    await bench.change('follower', [{ kind: 'tag', id: followerId, set: { ...newTag(small.deviceId, 'follower', 'HR9'), access: 'read' } }]);
    await confirm({ kind: 'follows', tagId: followerId, by: 1 });
    let speed = 0;
    server.onRequest = (asked) => {
      if (asked.pdu[0] === 6) return asked.answer(asked.pdu);
      if (asked.pdu.readUInt16BE(1) === 9) speed = Math.min(90, speed + 30);
      const value = asked.pdu.readUInt16BE(1) === 9 ? speed : held;
      asked.answer([3, 2, value >> 8, value & 255]);
    };
    expect(await write('90')).toMatchObject({ ok: true, value: { state: 'done', sentence: 'follower follows: 90.' } });
    await bench.change('removed', [{ kind: 'tag', id: followerId, set: null }]);
    expect(bench.services.model.get('tag', small.tagId)?.confirm).toEqual({ kind: 'equal' });
  });
  test('a value that the controller changes back is reported, and one that is written again is not', async () => {
    const heard: string[] = [];
    bench.services.writes.onWrite((w) => heard.push(w.state));
    await write('90');
    await write('80');
    held = 1000;
    await until('it is reported', () => heard.includes('changedBack'));
    expect(heard.filter((s) => s === 'changedBack')).toHaveLength(1);
    const [newest, older] = await bench.services.writes.log({ limit: 5 });
    expect(newest).toMatchObject({ state: 'changedBack', asked: { value: '80' }, held: { value: '100.0' } });
    expect(newest?.note).toContain('The controller changed it back: 100.0 °C after');
    expect(older?.state).toBe('done');
  });
});

describe('the log of writes', () => {
  test('is filtered by text, outcome and origin', async () => {
    bench.services.guard.unlock(small.deviceId, 'R. Vale', 5);
    await write('90');
    manner = 'refuses';
    await bench.services.writes.write({ id: uuid(), tagId: small.tagId, value: '91', writer: 'panel' });
    const found = async (filter: object) => (await bench.services.writes.log({ limit: 10, ...filter })).map((w) => w.state);
    expect(await found({})).toEqual(['refused', 'done']);
    expect(await found({ state: 'done' })).toEqual(['done']);
    expect(await found({ origin: 'panel' })).toEqual(['refused']);
    expect(await found({ text: 'VALE' })).toHaveLength(2);
    expect(await found({ text: '%' })).toEqual([]);
    expect(await found({ to: '2020-01-01T00:00:00Z' })).toEqual([]);
  });
});

describe('a button that is held', () => {
  /** States that the coil was given, with the time of each. */
  let states: { readonly on: boolean; readonly at: number }[];
  let coil: string;
  beforeEach(async () => {
    states = [];
    coil = uuid();
    server.onRequest = (asked) => {
      if (asked.pdu[0] === 5) states.push({ on: asked.pdu[3] === 0xff, at: Date.now() });
      if (asked.pdu[0] === 1) return asked.answer([1, 1, states.at(-1)?.on ? 1 : 0]);
      asked.answer(asked.pdu[0] === 3 ? [3, 2, held >> 8, held & 255] : asked.pdu);
    };
    await bench.change('coil', [{ kind: 'tag', id: coil, set: { ...newTag(small.deviceId, 'jog', 'CO4'), type: 'BOOL' } }]);
    bench.services.guard.unlock(small.deviceId, 'R. Vale', 5);
  });
  const on = (): boolean[] => states.map((s) => s.on);

  test('is on while signs of it come, and off within half a second when they stop', async () => {
    const { holds } = bench.services;
    expect(await holds.begin('press', coil)).toMatchObject({ ok: true, value: { state: 'done' } });
    for (let i = 0; i < 10; i++) {
      holds.sign('press');
      await new Promise((resolve) => setTimeout(resolve, 80));
    }
    expect(on()).toEqual([true]);
    const last = Date.now();
    await until('it is released', () => states.length === 2);
    expect(on()).toEqual([true, false]);
    expect((states[1]?.at ?? 0) - last).toBeLessThan(500);
    await until('it is logged', async () => (await bench.services.writes.log({ limit: 1 }))[0]?.state === 'done');
    expect((await bench.services.writes.log({ limit: 1 }))[0]?.note).toContain('no sign of the panel');
  });
  test('is let go even when the device was locked meanwhile', async () => {
    const { holds } = bench.services;
    await holds.begin('press', coil);
    const signs = setInterval(() => holds.sign('press'), 50);
    bench.services.guard.lock();
    await until('it is released', () => states.length === 2, 1000);
    clearInterval(signs);
    expect(on()).toEqual([true, false]);
  });
  test('is not written on when it is let go before that', async () => {
    const { holds } = bench.services;
    const begun = holds.begin('press', coil);
    await holds.release('press');
    expect(await begun).toMatchObject({ ok: false });
    expect(on()).toEqual([false]);
  });
  test('locked, or held by somebody else, is refused and nothing is sent', async () => {
    const { holds } = bench.services;
    await holds.begin('press', coil);
    expect(await holds.begin('other', coil)).toMatchObject({ ok: false, problem: { code: 'held' } });
    await holds.release('press');
    bench.services.guard.lock();
    expect(await holds.begin('third', coil)).toMatchObject({ ok: false, problem: { code: 'locked' } });
    expect(on()).toEqual([true, false]);
  });
});

describe('our own heartbeat', () => {
  test('is counted up while the device is open for rules, as one entry of the log', async () => {
    await bench.change('life', [{ kind: 'device', id: small.deviceId, set: { ownLifeTagId: small.tagId } }]);
    await bench.change('range', [{ kind: 'scale', id: small.tagId, set: null }]);
    bench.services.guard.unlock(small.deviceId, 'R. Vale', 5, ['engineer']);
    await new Promise((resolve) => setTimeout(resolve, 1200));
    expect(sent()).toBe(0);
    bench.services.guard.unlock(small.deviceId, 'R. Vale', 5, ['rule']);
    await until('it counts', () => held === 2, 6000);
    bench.services.guard.lock();
    await until('it ends', async () => (await bench.services.writes.log({ limit: 1 }))[0]?.state === 'done');
    const log = await bench.services.writes.log({ limit: 5 });
    expect(log).toHaveLength(1);
    expect(log[0]).toMatchObject({ origin: 'rule', note: expect.stringContaining('written 3 times') as unknown as string });
  });
});

describe('what is online', () => {
  test('a changed scale is followed at once from the bytes that are there; a changed address is not shown before it is read', async () => {
    const { live } = bench.services.engine;
    manner = 'silent';
    server.onRequest = () => undefined;
    await bench.change('scale', [{ kind: 'scale', id: small.tagId, set: { scale: { kind: 'power', exponent: -2 } } }]);
    expect(['10.0', '–']).toContain(live.get(small.tagId)?.text);
    await bench.change('address', [{ kind: 'tag', id: small.tagId, set: pointSet(bench.services.model, small.tagId, { address: 'HR77' }) }]);
    expect(live.get(small.tagId)).toMatchObject({ text: '–', eng: null });
  });
  test('an answer to the old plan never becomes the value of the new one', async () => {
    const { live } = bench.services.engine;
    server.onRequest = (asked) => asked.answer(ownAddresses(asked.pdu), { delayMs: 60 });
    for (const address of [10, 20, 30, 40, 50, 60]) {
      await bench.change('moved', [{ kind: 'tag', id: small.tagId, set: pointSet(bench.services.model, small.tagId, { address: `HR${address}` }) }]);
      const texts = new Set<string>();
      const stop = live.onSample((tagId) => texts.add((tagId === small.tagId ? live.get(tagId)?.text : null) ?? '–'));
      await until('it is read', () => live.get(small.tagId)?.eng !== null);
      stop();
      expect([...texts].filter((t) => t !== '–')).toEqual([(address / 10).toFixed(1)]);
    }
  });
  test('links that did not change run on undisturbed by changes elsewhere', async () => {
    const before = server.connections;
    const asked = server.requests.length;
    await bench.change('other', [{ kind: 'panel', id: '01a20bcf-0000-7000-8000-000000000001', set: { name: 'P' } }]);
    await until('it is read on', () => server.requests.length > asked + 3);
    expect(server.connections).toBe(before);
  });
});

describe('when the log of writes cannot be kept', () => {
  beforeEach(() => {
    bench.services.guard.unlock(small.deviceId, 'R. Vale', 5);
    jest.spyOn(console, 'error').mockImplementation(() => undefined);
  });
  afterEach(() => void jest.restoreAllMocks());
  test('nothing is sent, and it is said why', async () => {
    await bench.breakStore();
    expect(await write('90')).toMatchObject({
      ok: false,
      problem: { code: 'not-logged', message: expect.stringContaining('Nothing was sent') as unknown as string },
    });
    expect(sent()).toBe(0);
  });
  test('a button that was held is let go all the same', async () => {
    const states: boolean[] = [];
    const coil = uuid();
    server.onRequest = (asked) => {
      if (asked.pdu[0] === 5) states.push(asked.pdu[3] === 0xff);
      asked.answer(asked.pdu[0] === 1 ? [1, 1, states.at(-1) ? 1 : 0] : asked.pdu[0] === 3 ? [3, 2, 0, 0] : asked.pdu);
    };
    await bench.change('coil', [{ kind: 'tag', id: coil, set: { ...newTag(small.deviceId, 'jog', 'CO4'), type: 'BOOL' } }]);
    bench.services.guard.unlock(small.deviceId, 'R. Vale', 5);
    expect(await bench.services.holds.begin('press', coil)).toMatchObject({ ok: true });
    await bench.breakStore();
    await bench.services.holds.release('press');
    await until('it is written off', () => states.length > 1);
    expect(states).toEqual([true, false]);
  });
});
