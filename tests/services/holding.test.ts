import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { pointSet } from '../support/pointSet.ts';
import { cpSync } from 'node:fs';
import { join } from 'node:path';
import { v7 as uuid } from 'uuid';
import { FOLLOW_MS } from '@/core/project/confirm.ts';
import { newPoint } from '@/core/project/tagSource.ts';
import { newFolder } from '../support/server.ts';
import { FaultyServer, type Asked } from '../support/faultyServer.ts';
import { newTag } from '../support/newTag.ts';
import { openBench, smallProject, type Bench, type SmallProject } from '../support/services.ts';
import { until } from '../support/until.ts';

/** What reached the machine, in the order in which it came. */
interface Written {
  readonly coil: number;
  readonly on: boolean;
  readonly at: number;
}

let bench: Bench;
let server: FaultyServer;
let small: SmallProject;
let jog: string;
let written: Written[];
/** How long the machine takes to answer a reading of the coil, and whether it answers at all. */
let readDelayMs: number | null = 0;
let coilReads = 0;

function answer(asked: Asked): void {
  const fn = asked.pdu[0] ?? 0;
  const coil = asked.pdu.readUInt16BE(1);
  if (fn === 5) {
    written.push({ coil, on: asked.pdu[3] === 0xff, at: performance.now() });
    return asked.answer(asked.pdu);
  }
  if (fn === 3) return asked.answer([3, 2, 0, 7]);
  coilReads++;
  if (readDelayMs === null) return;
  asked.answer([1, 1, written.findLast((w) => w.coil === coil)?.on ? 1 : 0], { delayMs: readDelayMs });
}

beforeEach(async () => {
  written = [];
  readDelayMs = 0;
  server = await FaultyServer.start();
  server.onRequest = answer;
  bench = await openBench();
  small = await smallProject(bench, server.port);
  jog = uuid();
  await bench.change('coil', [{ kind: 'tag', id: jog, set: { ...newTag(small.deviceId, 'jog', 'CO4', { periodMs: 60_000 }), type: 'BOOL' } }]);
  await until('the coil is read', () => bench.services.engine.live.get(jog)?.text === 'off');
  bench.services.guard.unlock(small.deviceId, 'R. Vale', 5);
});
afterEach(async () => {
  await bench.close();
  await server.stop();
});

const states = (): string[] => written.map(({ coil, on }) => `${coil} ${on ? 'on' : 'off'}`);
const press = (id = uuid()): { readonly id: string; readonly done: Promise<unknown>; stop(): void } => {
  const signs = setInterval(() => bench.services.holds.sign(id), 50);
  const done = bench.services.holds.begin(id, jog);
  return { id, done, stop: () => clearInterval(signs) };
};
/** A change before anything is pressed; a device that was opened by hand is closed by it. */
async function edit(changes: Parameters<Bench['change']>[1]): Promise<void> {
  await bench.change('edited', changes);
  bench.services.guard.unlock(small.deviceId, 'R. Vale', 5);
}
const isOn = (): boolean => written.at(-1)?.on === true;

describe('a button that is let go while its press is still being confirmed', () => {
  test('by a tag that has to follow, is let go at once and not after the tag was waited for', async () => {
    await edit([{ kind: 'tag', id: jog, set: { confirm: { kind: 'follows', tagId: small.tagId, by: 0 } } }]);
    const held = press();
    await until('it is on', isOn);
    const letGo = performance.now();
    await bench.services.holds.release(held.id);
    held.stop();
    expect(states()).toEqual(['4 on', '4 off']);
    expect((written[1]?.at ?? Infinity) - letGo).toBeLessThan(FOLLOW_MS / 2);
    expect(await held.done).toMatchObject({ ok: true, value: { state: 'done', held: null } });
  });
  test('by a reading back that does not come, is let go at once', async () => {
    await edit([{ kind: 'device', id: small.deviceId, set: { dialect: { timeoutMs: 10_000, readRetries: 2 } } }]);
    // The press would wait behind a reading that is under way: so not before it was read anew, and nothing is asked any more.
    await until('it is read, and the line is quiet', async () => {
      const before = coilReads;
      await new Promise((resolve) => setTimeout(resolve, 300));
      return coilReads === before && bench.services.engine.live.get(jog)?.quality.level === 'good';
    });
    readDelayMs = null;
    const held = press();
    await until('it is on', isOn);
    const letGo = performance.now();
    void bench.services.holds.release(held.id);
    await until('it is off', () => !isOn(), 8000);
    held.stop();
    expect((written[1]?.at ?? Infinity) - letGo).toBeLessThan(5000);
    readDelayMs = 0;
  });
  test('is let go before the server ends', async () => {
    await edit([{ kind: 'tag', id: jog, set: { confirm: { kind: 'follows', tagId: small.tagId, by: 0 } } }]);
    const held = press();
    await until('it is on', isOn);
    const end = performance.now();
    await bench.services.holds.releaseAll('Released: the server ends.');
    held.stop();
    expect(states()).toEqual(['4 on', '4 off']);
    expect(performance.now() - end).toBeLessThan(FOLLOW_MS / 2);
    expect(await bench.services.holds.begin(uuid(), jog)).toMatchObject({ ok: false, problem: { code: 'closing' } });
  });
});

describe('a release reaches what was pressed', () => {
  test.each<[string, () => Parameters<Bench['change']>[1]]>([
    ['the address is changed', () => [{ kind: 'tag', id: jog, set: pointSet(bench.services.model, jog, { address: 'CO9' }) }]],
    ['the tag becomes one that is only read', () => [{ kind: 'tag', id: jog, set: { access: 'read' } }]],
    ['the tag is removed', () => [{ kind: 'tag', id: jog, set: null }]],
    ['the dialect is changed', () => [{ kind: 'device', id: small.deviceId, set: { dialect: { timeoutMs: 900 } } }]],
    ['the link leads elsewhere', () => [{ kind: 'link', id: small.linkId, set: { settings: { host: 'localhost', port: server.port } } }]],
    ['the link is removed', () => [{ kind: 'link', id: small.linkId, set: null }]],
  ])('when %s while it is held: let go first, and nothing else is written', async (_what, change) => {
    const held = press();
    await held.done;
    await bench.change('edited', change());
    expect(states()).toEqual(['4 on', '4 off']);
    await bench.services.holds.release(held.id);
    held.stop();
    await new Promise((resolve) => setTimeout(resolve, 150));
    expect(states()).toEqual(['4 on', '4 off']);
  });
  test('when a change is undone that the press stands on', async () => {
    await edit([{ kind: 'tag', id: jog, set: pointSet(bench.services.model, jog, { address: 'CO6' }) }]);
    const held = press();
    await held.done;
    expect((await bench.services.projects.step('undo')).ok).toBe(true);
    held.stop();
    expect(states()).toEqual(['6 on', '6 off']);
  });
  test('when its value has turned bad meanwhile', async () => {
    const held = press();
    await held.done;
    readDelayMs = null;
    await bench.services.engine.readNow(jog);
    expect(bench.services.engine.live.get(jog)?.quality.level).toBe('bad');
    const released = bench.services.holds.release(held.id);
    held.stop();
    await until('it is off', () => states().at(-1) === '4 off', 5000);
    // Nobody has seen it yet: it is sent again, and nothing else is.
    readDelayMs = 0;
    expect(await released).toMatchObject({ ok: true, value: { state: 'done' } });
    expect([states()[0], new Set(states().slice(1))]).toEqual(['4 on', new Set(['4 off'])]);
  });
  test('a change elsewhere lets nothing go', async () => {
    const held = press();
    await held.done;
    await bench.change('comment', [{ kind: 'tag', id: small.tagId, set: { comment: 'no part of it' } }]);
    expect(states()).toEqual(['4 on']);
    await bench.services.holds.release(held.id);
    held.stop();
  });
});

describe('presses in a row', () => {
  test('a press right after a release comes on after it has gone off', async () => {
    const first = press();
    await first.done;
    const off = bench.services.holds.release(first.id);
    const second = press();
    await Promise.all([off, second.done]);
    expect(states()).toEqual(['4 on', '4 off', '4 on']);
    await bench.services.holds.release(second.id);
    first.stop();
    second.stop();
  });
  test('a press that has ended does not begin anew when its message comes again', async () => {
    const held = press();
    await held.done;
    await bench.services.holds.release(held.id);
    held.stop();
    expect(await bench.services.holds.begin(held.id, jog)).toMatchObject({ ok: false, problem: { code: 'held' } });
    expect(states()).toEqual(['4 on', '4 off']);
  });
});

describe('a release that does not arrive', () => {
  /** Frames that switch the coil off and are lost. */
  let lost = 0;
  beforeEach(() => {
    lost = 0;
    server.onRequest = (asked) => {
      if (asked.pdu[0] === 5 && asked.pdu[3] === 0 && lost > 0) lost--;
      else answer(asked);
    };
  });
  const alarms = (): readonly string[] => bench.services.status().notReleased.map((one) => one.tagName);

  test('is sent again until the coil is read back off, and nothing is told', async () => {
    const held = press();
    await held.done;
    held.stop();
    lost = 3;
    expect(await bench.services.holds.release(held.id)).toMatchObject({ ok: true, value: { state: 'done' } });
    expect([states().at(-1), lost, alarms()]).toEqual(['4 off', 0, []]);
    const log = await bench.services.writes.log({ limit: 10 });
    expect(log.map(({ state, sent }) => `${state} ${sent.value === true ? 'on' : 'off'}`)).toEqual([
      'done off',
      'unknown off',
      'unknown off',
      'unknown off',
      'done on',
    ]);
  });

  test('is told on every page after ten seconds; changes of what is held are refused until it is off', async () => {
    const held = press();
    await held.done;
    held.stop();
    lost = Infinity;
    const released = bench.services.holds.release(held.id);
    const { projects } = bench.services;
    const change = (): ReturnType<typeof projects.execute> =>
      projects.execute({ id: uuid(), label: 'read only', changes: [{ kind: 'tag', id: jog, set: { access: 'read' } }] }, 'test');
    const refused = await change();
    expect(refused).toMatchObject({ ok: false, problem: { code: 'not-released' } });
    expect(bench.services.model.get('tag', jog)?.access).toBe('readWrite');
    expect(await released).toMatchObject({ ok: true, value: { state: 'unknown' } });
    expect(alarms()).toEqual(['jog']);
    await until('it is tried no more', () => bench.services.status().notReleased[0]?.isTried === false);
    // The bad line was mended.
    lost = 0;
    expect(await bench.services.holds.releaseAgain(held.id)).toMatchObject({ ok: true, value: { state: 'done' } });
    expect([states().at(-1), alarms()]).toEqual(['4 off', []]);
    expect((await change()).ok).toBe(true);
  });

  test('because its link is down, is made up for when the link is back, however late', async () => {
    const held = press();
    await held.done;
    held.stop();
    const { port } = server;
    await server.stop();
    const released = await bench.services.holds.release(held.id);
    expect([released.ok && released.value.state === 'done', alarms()]).toEqual([false, ['jog']]);
    server = await FaultyServer.start(port);
    server.onRequest = answer;
    await until('it is off', () => states().at(-1) === '4 off' && alarms().length === 0, 20_000);
  });

  test('is over when a person says that it is off; a press that comes after it is not switched off by it', async () => {
    const held = press();
    await held.done;
    held.stop();
    lost = Infinity;
    void bench.services.holds.release(held.id);
    await until('it is told', () => alarms().length === 1, 15_000);
    expect((await bench.services.holds.saidOff(held.id, 'R. Vale')).ok).toBe(true);
    expect(alarms()).toEqual([]);
    const frames = written.length;
    await new Promise((resolve) => setTimeout(resolve, 600));
    expect(written.length).toBe(frames);
  });
});

describe('a server that was killed while a button was held', () => {
  test('tells it after its start, and switches it off where it was switched on when asked, unlocked or not', async () => {
    const own = await openBench(newFolder().folder);
    const { deviceId } = await smallProject(own, server.port);
    const coil = uuid();
    await own.change('coil', [{ kind: 'tag', id: coil, set: { ...newTag(deviceId, 'belt', 'CO5', { periodMs: 60_000 }), type: 'BOOL' } }]);
    await until('the coil is read', () => own.services.engine.live.get(coil)?.text === 'off');
    own.services.guard.unlock(deviceId, 'R. Vale', 5);
    void own.services.holds.begin('press', coil);
    await until('it is on', () => states().at(-1) === '5 on');
    // As the disk is when the process is killed now.
    const { folder: after } = newFolder();
    cpSync(join(own.folder, 'held.jsonl'), join(after, 'held.jsonl'));
    await own.close();
    cpSync(join(own.folder, 'db'), join(after, 'db'), { recursive: true });
    const again = await openBench(after);
    expect(again.services.status().notReleased).toMatchObject([{ tagName: 'belt', deviceName: 'KILN', isTried: false }]);
    expect(again.services.status().notReleased[0]?.why).toContain('CO5 of KILN on Line');
    const before = written.length;
    await until('it is online', () => again.services.engine.live.get(coil)?.quality.level === 'good');
    expect(await again.services.holds.releaseAgain('press')).toMatchObject({ ok: true, value: { state: 'done' } });
    expect([states().slice(before), again.services.status().notReleased]).toEqual([['5 off'], []]);
    await again.close();
    const third = await openBench(after);
    expect(third.services.status().notReleased).toEqual([]);
    await third.close();
  });

  test('and whose address is moved by another tag is switched off where it was switched on, and nowhere else', async () => {
    const own = await openBench(newFolder().folder);
    const { deviceId } = await smallProject(own, server.port);
    const [coil, number] = [uuid(), uuid()];
    const source = (address: string, index: string) => ({ ...newPoint(deviceId, address, { periodMs: 60_000 }), index });
    await own.change('coils', [
      { kind: 'tag', id: number, set: { ...newTag('', 'stand', ''), source: { kind: 'local' }, initial: '1' } },
      { kind: 'tag', id: coil, set: { ...newTag(deviceId, 'belt', 'CO5'), source: source('CO5', 'stand * 10'), type: 'BOOL' } },
    ]);
    await until('the coil is read', () => own.services.engine.live.get(coil)?.text === 'off');
    own.services.guard.unlock(deviceId, 'R. Vale', 5);
    // While it is held the index leads elsewhere: it is let go where it was pressed.
    const signs = setInterval(() => own.services.holds.sign('first'), 50);
    await own.services.holds.begin('first', coil);
    await own.services.writes.write({ id: uuid(), tagId: number, value: '2', writer: 'panel' });
    clearInterval(signs);
    await own.services.holds.release('first');
    expect(states().filter((state) => state !== '15 on')).toEqual(['15 off']);
    await until('it is read there', () => own.services.engine.live.get(coil)?.text === 'off');
    void own.services.holds.begin('press', coil);
    await until('it is on', () => states().at(-1) === '25 on');
    const { folder: after } = newFolder();
    cpSync(join(own.folder, 'held.jsonl'), join(after, 'held.jsonl'));
    await own.close();
    cpSync(join(own.folder, 'db'), join(after, 'db'), { recursive: true });
    const again = await openBench(after);
    await until('it is online', () => again.services.engine.live.get(coil)?.quality.level === 'good');
    const before = written.length;
    await again.services.writes.write({ id: uuid(), tagId: number, value: '3', writer: 'panel' });
    await until('it leads elsewhere', () => again.services.engine.live.get(coil)?.signal?.canonical === 'CO35');
    expect(await again.services.holds.releaseAgain('press')).toMatchObject({
      ok: false,
      problem: { code: 'changed', remedy: expect.stringContaining('CO25') },
    });
    expect(written.length).toBe(before);
    await again.services.writes.write({ id: uuid(), tagId: number, value: '2', writer: 'panel' });
    await until('it is read there', () => again.services.engine.live.get(coil)?.signal?.canonical === 'CO25');
    expect(await again.services.holds.releaseAgain('press')).toMatchObject({ ok: true, value: { state: 'done' } });
    expect(states().slice(before)).toEqual(['25 off']);
    await again.close();
  });
});
