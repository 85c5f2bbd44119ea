/** Addresses that another tag moves: read and written where the index leads now, and nowhere while nobody knows where that is. */
import { afterAll, afterEach, beforeAll, describe, expect, test } from '@jest/globals';
import { v7 as uuid } from 'uuid';
import type { Change } from '@/core/project/command.ts';
import { newPoint } from '@/core/project/tagSource.ts';
import { Writer } from '@/runtime/writer.ts';
import { startController, type RunningController } from '../support/cipController.ts';
import { FaultyServer, type Asked } from '../support/faultyServer.ts';
import { newTag } from '../support/newTag.ts';
import { openBench, smallProject, type Bench } from '../support/services.ts';
import { until } from '../support/until.ts';

const REGISTERS = 200;
const ids = { stand: uuid(), speed: uuid(), twice: uuid(), still: uuid() };
let bench: Bench;
let server: FaultyServer;
let deviceId = '';
let memory: number[] = [];
/** Answers to reads wait until they are let go. */
let waiting: (() => void)[] | null = null;

const asks = ({ pdu }: Asked): readonly [number, number] => [pdu.readUInt16BE(1), pdu.readUInt16BE(3)];
function answer(asked: Asked): void {
  const [at, second] = asks(asked);
  if (asked.pdu[0] === 6) {
    memory[at] = second;
    return asked.answer(asked.pdu);
  }
  const held = memory.slice(at, at + second);
  const reply = (): void => asked.answer([3, 2 * second, ...held.flatMap((word) => [word >> 8, word & 255])]);
  if (waiting) waiting.push(reply);
  else reply();
}

const shown = (id: string): string => {
  const sample = bench.services.engine.live.get(id);
  return `${sample?.text} ${sample?.quality.level}`;
};
const why = (id: string): string => bench.services.engine.live.get(id)?.quality.detail ?? '';
const tell = async (tagId: string, value: string): Promise<void> => {
  const done = await bench.services.writes.write({ id: uuid(), tagId, value, writer: 'panel' });
  if (!done.ok) throw new Error(done.problem.message);
};
const change = (...changes: Change[]) => bench.change('change', changes);
const refused = (...changes: Change[]): Promise<string> =>
  change(...changes).then(
    () => 'none',
    (error: unknown) => String(error),
  );
const indexed = (index: string, more: Record<string, unknown> = {}, address = 'HR10') => ({
  ...newTag(deviceId, 'speed', address),
  source: { ...newPoint(deviceId, address, { periodMs: 100 }), index },
  ...more,
});

beforeAll(async () => {
  server = await FaultyServer.start();
  server.onRequest = answer;
  bench = await openBench();
  ({ deviceId } = await smallProject(bench, server.port));
  await change(
    { kind: 'tag', id: ids.stand, set: { ...newTag('', 'stand', ''), source: { kind: 'local' }, initial: '0', rangeLow: 0, rangeHigh: 7 } },
    { kind: 'tag', id: ids.still, set: newTag(deviceId, 'still', 'HR5') },
    { kind: 'tag', id: ids.speed, set: indexed('stand * 10') },
  );
});
afterAll(async () => {
  await bench.close();
  await server.stop();
});
afterEach(async () => {
  waiting = null;
  bench.services.guard.lock();
  memory = Array.from({ length: REGISTERS }, (_, i) => i);
  await tell(ids.stand, '0');
  await until('it is back at its address', () => shown(ids.speed) === '10 good');
});
memory = Array.from({ length: REGISTERS }, (_, i) => i);

describe('an address that another tag moves', () => {
  test('is kept with the id of what moves it, and a new name of that changes nothing', async () => {
    expect(bench.services.model.get('tag', ids.speed)?.source).toMatchObject({ index: `@${ids.stand} * 10` });
    await change({ kind: 'tag', id: ids.stand, set: { name: 'stand_no' } });
    await tell(ids.stand, '2');
    await until('it is read there', () => shown(ids.speed) === '30 good');
    await change({ kind: 'tag', id: ids.stand, set: { name: 'stand' } });
  });

  test('is read where it leads now, and tells so', async () => {
    for (const [stand, text] of [
      ['3', '40 good'],
      ['7', '80 good'],
      ['1', '20 good'],
    ] as const) {
      await tell(ids.stand, stand);
      await until('it is read there', () => shown(ids.speed) === text);
      expect(bench.services.engine.live.get(ids.speed)?.signal?.canonical).toBe(`HR${text.split(' ')[0]}`);
    }
  });

  test('shows nothing of the place before from the moment on that it leads elsewhere, also when that answers late', async () => {
    const seen: string[] = [];
    const stop = bench.services.engine.live.onSample((id) => id === ids.speed && seen.push(shown(id)));
    waiting = [];
    await until('the place before was asked for', () => server.requests.filter((r) => r.pdu[0] === 3).length > 0 && (waiting?.length ?? 0) > 0);
    await tell(ids.stand, '4');
    expect(shown(ids.speed)).toBe('– bad');
    seen.length = 0;
    memory[10] = 999;
    for (const reply of waiting) reply();
    waiting = null;
    await until('it is read there', () => shown(ids.speed) === '50 good');
    stop();
    expect(seen.filter((text) => text.endsWith('good') && text !== '50 good')).toEqual([]);
  });

  test('has no value where the index has none, is in doubt, is a fraction, or leads out of memory', async () => {
    await tell(ids.stand, '3');
    await until('it is read there', () => shown(ids.speed) === '40 good');
    await change({ kind: 'tag', id: ids.stand, set: { rangeHigh: 2 } });
    await until('an index out of its range is in doubt', () => shown(ids.speed) === '– bad');
    expect(why(ids.speed)).toContain('Its index has no good value: stand');
    await change({ kind: 'tag', id: ids.stand, set: { rangeHigh: 7 } });
    await until('it is read again', () => shown(ids.speed) === '40 good');
    for (const [index, told] of [
      ['stand / 2', 'The index is 1.5, and an address is moved by a whole number.'],
      ['stand - 20', 'HR10 moved by -17 would lie before the first holding register.'],
      ['stand * 30000', 'would lie past the last holding register'],
      ['1 / (stand - 3)', 'Its index has no good value'],
    ] as const) {
      await change({ kind: 'tag', id: ids.speed, set: { source: { ...newPoint(deviceId, 'HR10', { periodMs: 100 }), index } } });
      await until(index, () => why(ids.speed).includes(told));
      expect(shown(ids.speed)).toBe('– bad');
    }
    await change({ kind: 'tag', id: ids.speed, set: indexed('stand * 10') });
  });

  test('moves back to its address when the index is taken away, and disturbs no other tag of the device', async () => {
    await tell(ids.stand, '2');
    await until('it is read there', () => shown(ids.speed) === '30 good');
    const bad: string[] = [];
    const stop = bench.services.engine.live.onSample((id) => id === ids.still && !shown(id).endsWith('good') && bad.push(shown(id)));
    await change({ kind: 'tag', id: ids.speed, set: { source: newPoint(deviceId, 'HR10', { periodMs: 100 }) } });
    await until('it is at its address', () => shown(ids.speed) === '10 good');
    await change({ kind: 'tag', id: ids.speed, set: indexed('stand * 10') });
    await until('it is read there again', () => shown(ids.speed) === '30 good');
    stop();
    expect(bad).toEqual([]);
  });

  test('is read again when its device is set up anew', async () => {
    await tell(ids.stand, '2');
    await until('it is read there', () => shown(ids.speed) === '30 good');
    memory[30] = 31;
    await change({ kind: 'device', id: deviceId, set: { dialect: { timeoutMs: 300, readRetries: 0 } } });
    await until('it is read over the new session', () => shown(ids.speed) === '31 good');
  });

  test('is followed by what is calculated from it', async () => {
    const set = { ...newTag('', 'twice', ''), source: { kind: 'calculated', expression: 'KILN.speed * 2' }, type: 'DINT', access: 'read' };
    await change({ kind: 'tag', id: ids.twice, set: set });
    await tell(ids.stand, '5');
    await until('both follow', () => shown(ids.twice) === '120 good');
  });
});

describe('what is written', () => {
  test('goes where the index leads, and is read back there', async () => {
    bench.services.guard.unlock(deviceId, 'R. Vale', 5);
    await tell(ids.stand, '6');
    await until('it is read there', () => shown(ids.speed) === '70 good');
    const done = await bench.services.writes.write({ id: uuid(), tagId: ids.speed, value: '1234', writer: 'engineer' });
    expect(done).toMatchObject({ ok: true, value: { state: 'done', heldText: '1234' } });
    expect([memory[70], memory[10]]).toEqual([1234, 10]);
  });

  test('is not sent where the index leads nowhere', async () => {
    bench.services.guard.unlock(deviceId, 'R. Vale', 5);
    await change({ kind: 'tag', id: ids.stand, set: { rangeHigh: 2 } });
    bench.services.guard.unlock(deviceId, 'R. Vale', 5);
    await tell(ids.stand, '1');
    await until('it is read there', () => shown(ids.speed) === '20 good');
    await change({ kind: 'tag', id: ids.speed, set: indexed('stand / 2') });
    bench.services.guard.unlock(deviceId, 'R. Vale', 5);
    const done = await bench.services.writes.write({ id: uuid(), tagId: ids.speed, value: '1', writer: 'engineer' });
    expect(done).toMatchObject({ ok: false, problem: { code: 'index' } });
    expect(memory).toEqual(Array.from({ length: REGISTERS }, (_, i) => i));
    await change({ kind: 'tag', id: ids.speed, set: indexed('stand * 10') }, { kind: 'tag', id: ids.stand, set: { rangeHigh: 7 } });
  });
});

describe('a write that was prepared', () => {
  test('is not sent where the index has come to lead elsewhere before', async () => {
    const { engine, model, guard } = bench.services;
    const writer = new Writer(engine, model, guard);
    guard.unlock(deviceId, 'R. Vale', 5);
    await tell(ids.stand, '1');
    await until('it is read there', () => shown(ids.speed) === '20 good');
    const prepared = writer.prepare(ids.speed, 99, { writer: 'engineer' });
    if (!prepared.ok) throw new Error(prepared.problem.message);
    await tell(ids.stand, '2');
    const done = await writer.send(prepared.value, { mayStill: () => true });
    expect(done).toMatchObject({ state: 'refused', sentence: 'The index of speed led to another place before the value was sent.' });
    await tell(ids.stand, '1');
    await until('it is read there again', () => shown(ids.speed) === '20 good');
    expect(await writer.send(prepared.value, { mayStill: () => true })).toMatchObject({ state: 'done' });
    expect([memory[20], memory[30]]).toEqual([99, 30]);
  });
});

describe('what is refused', () => {
  test('an index that is no number, names no tag, or goes by the tag itself', async () => {
    expect(await refused({ kind: 'tag', id: ids.speed, set: indexed('stand > 2') })).toContain('an address is moved by a whole number');
    expect(await refused({ kind: 'tag', id: ids.speed, set: indexed('stnad * 2') })).toContain('stnad');
    expect(await refused({ kind: 'tag', id: ids.speed, set: indexed('KILN.speed + 1') })).toContain('It would need itself: speed → speed.');
    expect(await refused({ kind: 'tag', id: ids.speed, set: indexed('twice') })).toMatch(
      /source\.index: It would need itself: speed → twice → speed/,
    );
  });

  test('a copy rule that would come back to itself by any place that an index may lead to', async () => {
    const [onward, rule] = [uuid(), uuid()];
    await change({ kind: 'tag', id: onward, set: newTag(deviceId, 'onward', 'HR90') });
    const ends = { fromTagId: ids.speed, toTagId: onward, fromBlockId: null, toBlockId: null };
    const set = { name: 'round', ...ends, when: 'change', triggerTagId: null, pauseMs: 200, isOn: true };
    expect(await refused({ kind: 'copyRule', id: rule, set: set })).toContain('It would feed itself');
  });
});

describe('the digest of its signal path', () => {
  test('is another one with another index, and with another tag behind it, but not with another value of that', async () => {
    const digest = (): string => {
      const signal = bench.services.model.effective(ids.speed);
      return signal.ok ? signal.value.digest : signal.problem.message;
    };
    const before = digest();
    await tell(ids.stand, '3');
    expect(digest()).toBe(before);
    await change({ kind: 'tag', id: ids.speed, set: indexed('stand * 20') });
    expect(digest()).not.toBe(before);
    await change({ kind: 'tag', id: ids.speed, set: indexed('stand * 10') });
    expect(digest()).toBe(before);
    await change({ kind: 'tag', id: ids.stand, set: { unit: 'pcs' } });
    expect(digest()).not.toBe(before);
    await change({ kind: 'tag', id: ids.stand, set: { unit: '' } });
  });
});

describe('named tags', () => {
  let pack: RunningController;
  beforeAll(async () => {
    pack = await startController();
  });
  afterAll(() => pack.stop());

  test('are moved by the element of their first array', async () => {
    const [linkId, cell, weight] = [uuid(), uuid(), uuid()];
    await change(
      { kind: 'link', id: linkId, set: { name: 'Cell', driver: 'ethernet-ip', settings: { host: '127.0.0.1', port: pack.port } } },
      { kind: 'device', id: cell, set: { linkId, name: 'PACK', settings: {}, dialect: {}, witnessUrl: '' } },
    );
    expect(
      await refused({
        kind: 'tag',
        id: weight,
        set: { ...indexed('stand', { name: 'target' }), source: { ...newPoint(cell, 'Bagger.Target'), index: 'stand' } },
      }),
    ).toContain('names no element that an index could move');
    const set = {
      ...indexed('stand', { name: 'target', type: 'REAL' }),
      source: { ...newPoint(cell, 'Bagger[0].Target', { periodMs: 100 }), index: 'stand' },
    };
    await change({ kind: 'tag', id: weight, set });
    for (const stand of [1, 0, 2]) {
      await tell(ids.stand, String(stand));
      await until('it is read there', () => bench.services.engine.live.get(weight)?.signal?.canonical === `Bagger[${stand}].Target`);
    }
  });
});
