/** Alarms against a controller over Modbus: through all their states, over a restart, and the acknowledge bit both ways. */
import { afterAll, beforeAll, beforeEach, describe, expect, test } from '@jest/globals';
import { v7 as uuid } from 'uuid';
import type { AlarmAct, AlarmLine } from '@/core/alarm/alarmLine.ts';
import type { Change } from '@/core/project/command.ts';
import { newTag } from '../support/newTag.ts';
import { newFolder } from '../support/server.ts';
import { openBench, type Bench } from '../support/services.ts';
import { startStandin, type RunningStandin } from '../support/standin.ts';
import { until } from '../support/until.ts';

const data = newFolder();
let bench: Bench;
let caller: RunningStandin;
const [deviceId, jam, ack, level, other, local] = [uuid(), uuid(), uuid(), uuid(), uuid(), uuid()];
let alarmId = '';

const alarm = (condition: object, more: object = {}, settings: object = {}): Change => ({
  kind: 'alarm',
  id: (alarmId = uuid()),
  set: { tagId: jam, settings: { template: 'Belt jammed at {CALLER.level}', condition, suppressed: null, ...settings }, ...more },
});
const JAMMED = { kind: 'bit', isOn: true };
const make = (...args: Parameters<typeof alarm>): Promise<void> => bench.change('an alarm', [alarm(...args)]);
const line = (): AlarmLine | undefined => bench.services.alarms.now().lines.find(({ id }) => id === alarmId);
const state = (): string => line()?.state ?? 'normal';
const is = (wanted: string): Promise<void> => until(wanted, () => state() === wanted, 8000);
const act = async (what: AlarmAct, more: object = {}): Promise<string> => {
  const done = await bench.services.alarms.act({ alarmId, count: line()?.count ?? 0, act: what, by: 'A. Reed', ...more });
  return done.ok ? done.value.state : done.problem.code;
};
const told = async (): Promise<readonly string[]> =>
  (await bench.services.alarms.records({ limit: 50, alarmId })).map(({ kind, by }) => (by === '' ? kind : `${kind} by ${by}`)).reverse();
const set = (name: string, value: boolean | string): Promise<unknown> => caller.set(name, value);

beforeAll(async () => {
  [bench, caller] = await Promise.all([openBench(data.folder), startStandin('caller')]);
  const linkId = uuid();
  await bench.change('a controller', [
    { kind: 'link', id: linkId, set: { name: 'Line', driver: 'modbus-tcp', settings: { host: '127.0.0.1', port: caller.modbusPort } } },
    { kind: 'device', id: deviceId, set: { linkId, name: 'CALLER', settings: { unit: 1 }, dialect: { timeoutMs: 200, readRetries: 0 }, witnessUrl: '' } }, // prettier-ignore
    { kind: 'tag', id: jam, set: { ...newTag(deviceId, 'jam', '00003'), type: 'BOOL', access: 'read' } },
    { kind: 'tag', id: ack, set: { ...newTag(deviceId, 'acked', '00004'), type: 'BOOL' } },
    { kind: 'tag', id: level, set: { ...newTag(deviceId, 'level', 'HR50'), type: 'UINT', unit: '%' } },
    { kind: 'tag', id: other, set: { ...newTag(deviceId, 'most', 'HR51'), type: 'UINT', unit: '%' } },
    { kind: 'tag', id: local, set: { name: 'cleaning', source: { kind: 'local' }, type: 'BOOL', access: 'readWrite', unit: '', decimals: null, rangeLow: null, rangeHigh: null, comment: '', listId: '', initial: 'off' } }, // prettier-ignore
  ]);
  await until('the controller is heard', () => bench.services.engine.live.get(jam)?.quality.level === 'good');
  await bench.services.guards.unlock({ deviceId, who: 'R. Vale', minutes: 60, writers: ['engineer', 'panel'] });
});
afterAll(async () => {
  await bench?.close();
  await caller?.stop();
  data.remove();
});
beforeEach(async () => {
  await set('coil2', false);
  await set('coil3', false);
  await until('both are off', () => [jam, ack].every((id) => bench.services.engine.live.get(id)?.eng === false));
  const all = bench.services.model.all('alarm').map(({ id }) => ({ kind: 'alarm' as const, id, set: null }));
  if (all.length > 0) await bench.change('no alarms', all);
});
const write = async (tagId: string, value: string): Promise<void> => {
  expect(await bench.services.writes.write({ id: uuid(), tagId, value, writer: 'engineer' })).toMatchObject({ ok: true, value: { state: 'done' } });
};

describe('an alarm of a bit', () => {
  test('comes with the values of its text, is acknowledged, goes, and all of it is kept', async () => {
    await write(level, '87');
    await make(JAMMED, { priority: 'high', group: 'Belt' });
    await until('it is known', () => bench.services.alarms.now().unknown.length === 0);
    await set('coil2', true);
    await is('unacked');
    await write(level, '12');
    expect(line()).toMatchObject({ values: { [`@${level}`]: '87 %' }, priority: 'high', group: 'Belt', count: 1 });
    expect(await act('ack')).toBe('acked');
    expect(line()).toMatchObject({ ackedBy: 'A. Reed' });
    expect(await act('ack')).toBe('state');
    await set('coil2', false);
    await is('normal');
    expect(await told()).toEqual(['came', 'acked by A. Reed', 'gone']);
    expect((await bench.services.alarms.records({ limit: 1, alarmId }))[0]?.text).toBe('Belt jammed at 87 %');
  });

  test('gone before anybody saw it, it stays until it is acknowledged; what came again since is not', async () => {
    await make(JAMMED);
    await set('coil2', true);
    await is('unacked');
    await set('coil2', false);
    await is('returned');
    await set('coil2', true);
    await is('unacked');
    expect(await act('ack', { count: 1 })).toBe('changed');
    expect(await act('ack')).toBe('acked');
  });

  test('one that is held waits for a reset', async () => {
    await make(JAMMED, { isLatched: true });
    await set('coil2', true);
    await is('unacked');
    expect(await act('reset')).toBe('state');
    await set('coil2', false);
    await is('latchedUnacked');
    expect([await act('ack'), await act('reset')]).toEqual(['latchedAcked', 'normal']);
  });

  test('is shelved for a time and a reason that others see, and comes back by itself', async () => {
    await make(JAMMED);
    await set('coil2', true);
    await is('unacked');
    expect([await act('shelve', { minutes: 5 }), await act('shelve', { minutes: 0, why: 'x' }), await act('shelve', { minutes: 1e9, why: 'x' })]).toEqual(['why', 'minutes', 'minutes']); // prettier-ignore
    expect(await act('shelve', { minutes: 5, why: 'sensor is being changed' })).toBe('shelved');
    expect(line()?.shelved).toMatchObject({ why: 'sensor is being changed', by: 'A. Reed' });
    expect(await act('ack')).toBe('state');
    expect(await act('unshelve')).toBe('unacked');
    const record = (await bench.services.alarms.records({ limit: 5, alarmId })).find(({ kind }) => kind === 'shelved');
    expect(record).toMatchObject({ note: 'sensor is being changed', by: 'A. Reed' });
  });

  test('is suppressed while a condition holds, and out of service as long as the engineer says', async () => {
    await make(JAMMED, {}, { suppressed: { by: 'cleaning' } });
    await set('coil2', true);
    await is('unacked');
    await write(local, 'on');
    await is('suppressed');
    await write(local, 'off');
    await is('unacked');
    await bench.change('out', [{ kind: 'alarm', id: alarmId, set: { isOn: false } }]);
    await is('out');
    await bench.change('in', [{ kind: 'alarm', id: alarmId, set: { isOn: true } }]);
    await is('unacked');
    expect(await told()).toEqual(['came', 'suppressed', 'unsuppressed', 'out', 'in']);
  });
});

describe('conditions', () => {
  test('a limit with hysteresis and a delay', async () => {
    await write(level, '50');
    await make({ kind: 'limit', side: 'above', limit: 90, hysteresis: 5 }, { tagId: level, onDelayMs: 400 });
    await write(level, '95');
    expect(state()).toBe('normal');
    await is('unacked');
    await write(level, '87');
    await new Promise((resolve) => setTimeout(resolve, 300));
    expect(state()).toBe('unacked');
    await write(level, '85');
    await is('returned');
  });
  test('a limit that is another tag', async () => {
    await write(other, '60');
    await write(level, '59');
    await make({ kind: 'limit', side: 'above', limit: { by: 'CALLER.most' }, hysteresis: 0 }, { tagId: level });
    await until('it is known', () => bench.services.alarms.now().unknown.length === 0);
    expect(state()).toBe('normal');
    await write(other, '58');
    await is('unacked');
  });
  test('an expression that waits by itself', async () => {
    await write(level, '10');
    await make({ kind: 'formula', holds: { by: 'CALLER.level > 20 and CALLER.jam' } }, { tagId: null });
    await write(level, '30');
    await set('coil2', true);
    await is('unacked');
  });
  test('no good value: the controller is silent; what else watches it is not known, and says so', async () => {
    await make({ kind: 'noValue' });
    const silent = alarmId;
    await make(JAMMED);
    await until('both are known', () => bench.services.alarms.now().unknown.length === 0);
    await fetch(`http://127.0.0.1:${caller.controlPort}/orders`, { method: 'POST', body: JSON.stringify({ faults: { silence: [1] } }) });
    await until('it is told', () => bench.services.alarms.now().lines.some(({ id, state: how }) => id === silent && how === 'unacked'), 10_000);
    await until('the other is not known', () => bench.services.alarms.now().unknown.length === 1);
    expect(bench.services.alarms.now().unknown[0]?.why).toMatch(/^jam: /);
    await fetch(`http://127.0.0.1:${caller.controlPort}/orders`, { method: 'POST', body: JSON.stringify({ faults: {} }) });
    await until('it is known again', () => bench.services.alarms.now().unknown.length === 0, 20_000);
  });
  test('one that does not fit its tag is not known, with the reason', async () => {
    await make(JAMMED, { tagId: level });
    await until('it says so', () => bench.services.alarms.now().unknown[0]?.why.includes('A bit is on or off: its tag is neither.') === true);
  });
  test.each<[object, string]>([
    [{ condition: JAMMED, template: '' }, 'settings.template'],
    [{ condition: { kind: 'formula', holds: { by: 'nothing >' } }, template: 'x' }, 'settings'],
    [{ condition: { kind: 'limit', side: 'above', limit: 'much', hysteresis: 0 }, template: 'x' }, 'settings.condition.limit'],
  ])('%j is refused at %s', async (settings, place) => {
    const change = { kind: 'alarm' as const, id: uuid(), set: { tagId: jam, settings: { suppressed: null, ...settings } } };
    const done = await bench.services.projects.execute({ id: uuid(), label: 'x', changes: [change] }, 'test');
    expect(done.ok ? '' : done.problem.place).toContain(place);
  });
});

describe("the controller's acknowledge bit", () => {
  test('turns on when it is acknowledged here, under the guard and with the name in the log', async () => {
    await make(JAMMED, { ackTagId: ack });
    await set('coil2', true);
    await is('unacked');
    expect(await act('ack')).toBe('acked');
    expect(String(await caller.value('coils'))[3]).toBe('1');
    expect((await bench.services.writes.log({ limit: 1 }))[0]).toMatchObject({ tagName: 'acked', by: 'A. Reed', origin: 'panel' });
  });
  test('acknowledges here when it turns on there; how it stands at first is no news', async () => {
    await set('coil3', true);
    await until('it is seen', () => bench.services.engine.live.get(ack)?.eng === true);
    await make(JAMMED, { ackTagId: ack });
    await set('coil2', true);
    await is('unacked');
    await set('coil3', false);
    await new Promise((resolve) => setTimeout(resolve, 500));
    expect(state()).toBe('unacked');
    await set('coil3', true);
    await is('acked');
    expect(await told()).toEqual(['came', 'acked by the controller']);
  });
  test('is not written while writing is locked: it is acknowledged here, and says that the controller was not told', async () => {
    await make(JAMMED, { ackTagId: ack });
    await set('coil2', true);
    await is('unacked');
    bench.services.guard.lock(deviceId);
    expect(await act('ack')).toBe('acked');
    expect(line()?.problem).toMatch(/^The controller was not told: .*locked/i);
    expect(String(await caller.value('coils'))[3]).toBe('0');
    await bench.services.guards.unlock({ deviceId, who: 'R. Vale', minutes: 60, writers: ['engineer', 'panel'] });
  });
});

test('over a restart it is the same coming, with who had acknowledged it; what was shelved is, and nothing is written', async () => {
  await bench.change('two', [alarm(JAMMED, { ackTagId: ack })]);
  const first = alarmId;
  await bench.change('two', [alarm(JAMMED)]);
  const second = alarmId;
  await set('coil2', true);
  await until('both came', () => bench.services.alarms.now().lines.filter(({ state: how }) => how === 'unacked').length === 2);
  alarmId = second;
  await act('shelve', { minutes: 30, why: 'known' });
  alarmId = first;
  await act('ack');
  await set('coil3', false);
  const before = line();
  bench = await bench.reopen();
  expect(state()).toBe('acked');
  await until('the controller is heard', () => bench.services.engine.live.get(jam)?.quality.level === 'good');
  await until('it is known', () => line()?.unknown === '');
  expect(line()).toMatchObject({ cameAt: before?.cameAt, ackedBy: 'A. Reed', count: 1 });
  expect(bench.services.alarms.now().lines.find(({ id }) => id === second)?.shelved?.why).toBe('known');
  expect(String(await caller.value('coils'))[3]).toBe('0');
  expect(await told()).toEqual(['came', 'acked by A. Reed']);
});
