import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { v7 as uuid } from 'uuid';
import { FaultyServer, type Asked } from '../support/faultyServer.ts';
import { newTag, openBench, smallProject, type Bench, type SmallProject } from '../support/services.ts';
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

function answer(asked: Asked): void {
  const fn = asked.pdu[0] ?? 0;
  const coil = asked.pdu.readUInt16BE(1);
  if (fn === 5) {
    written.push({ coil, on: asked.pdu[3] === 0xff, at: performance.now() });
    return asked.answer(asked.pdu);
  }
  if (fn === 3) return asked.answer([3, 2, 0, 7]);
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
  await bench.change('coil', [{ kind: 'tag', id: jog, set: { ...newTag(small.deviceId, 'jog', 'CO4'), type: 'BOOL', periodMs: 60_000 } }]);
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
    expect((written[1]?.at ?? Infinity) - letGo).toBeLessThan(500);
    expect(await held.done).toMatchObject({ ok: true, value: { state: 'done', held: null } });
  });
  test('by a reading back that does not come, is let go at once', async () => {
    readDelayMs = null;
    await edit([{ kind: 'device', id: small.deviceId, set: { dialect: { timeoutMs: 3000, readRetries: 2 } } }]);
    await until('it is connected', () => bench.services.engine.linkStatus()[0]?.phase === 'connected');
    const held = press();
    await until('it is on', isOn);
    const letGo = performance.now();
    void bench.services.holds.release(held.id);
    await until('it is off', () => !isOn(), 1500);
    held.stop();
    expect((written[1]?.at ?? Infinity) - letGo).toBeLessThan(1000);
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
    expect(performance.now() - end).toBeLessThan(500);
    expect(await bench.services.holds.begin(uuid(), jog)).toMatchObject({ ok: false, problem: { code: 'closing' } });
  });
});

describe('a release reaches what was pressed', () => {
  test.each<[string, () => Parameters<Bench['change']>[1]]>([
    ['the address is changed', () => [{ kind: 'tag', id: jog, set: { address: 'CO9' } }]],
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
    await edit([{ kind: 'tag', id: jog, set: { address: 'CO6' } }]);
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
    await bench.services.holds.release(held.id);
    held.stop();
    expect(states()).toEqual(['4 on', '4 off']);
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
