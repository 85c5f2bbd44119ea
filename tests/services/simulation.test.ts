/** Devices without the machine: one by one, with values that behave, and nothing of them on any link. */
import { afterAll, beforeAll, beforeEach, describe, expect, test } from '@jest/globals';
import { v4 as uuid } from 'uuid';
import type { Behaviour } from '@/core/simulation/behaviour.ts';
import type { Change } from '@/core/project/command.ts';
import { newTag } from '../support/newTag.ts';
import { openBench, type Bench } from '../support/services.ts';
import { startStandin, type RunningStandin } from '../support/standin.ts';
import { until } from '../support/until.ts';

let bench: Bench;
let rolls: RunningStandin;
const linkId = uuid();
const [real, away] = [uuid(), uuid()];
const [gap, flow, level, start, name, local, root] = [uuid(), uuid(), uuid(), uuid(), uuid(), uuid(), uuid()];
const run = uuid();
beforeAll(async () => {
  rolls = await startStandin('rolls');
  bench = await openBench();
  const device = (id: string, label: string, unit: number): Change => ({ kind: 'device', id, set: { linkId, name: label, settings: { unit }, dialect: { countingBase: 0 }, witnessUrl: '' } }); // prettier-ignore
  const tag = (id: string, deviceId: string, label: string, address: string, more: object): Change => ({ kind: 'tag', id, set: { ...newTag(deviceId, label, address, { periodMs: 100, order: 'order' in more ? String(more.order) : '' }), ...more } }); // prettier-ignore
  const localTag = (id: string, label: string, type: string, initial: string): Change => ({ kind: 'tag', id, set: { name: label, source: { kind: 'local' }, type, access: 'readWrite', unit: '', decimals: null, rangeLow: null, rangeHigh: null, comment: '', listId: '', initial } }); // prettier-ignore
  await bench.change('set up', [
    { kind: 'link', id: linkId, set: { name: 'Line', driver: 'modbus-gateway', settings: { host: '127.0.0.1', port: rolls.modbusPort, speed: 19200, parity: 'even', gatewayMs: 300 } } }, // prettier-ignore
    device(real, 'ROLLS 1', 1),
    device(away, 'AWAY', 77),
    tag(gap, real, 'gap', '40001', { type: 'UINT', access: 'read' }),
    tag(flow, away, 'flow', '40010', { type: 'REAL', access: 'read', rangeLow: 5, rangeHigh: 9 }),
    tag(level, away, 'level', '40020', { type: 'INT', access: 'readWrite' }),
    { kind: 'scale', id: level, set: { scale: { kind: 'linear', rawA: 0, engA: 0, rawB: 27648, engB: 150 } } },
    tag(start, away, 'start', 'CO3', { type: 'BOOL', access: 'readWrite' }),
    tag(name, away, 'name', '40040', { type: 'STRING(10)', access: 'read' }),
    // Below its cut-off a root has no way back: its counts move.
    tag(root, away, 'draught', '40060', { type: 'INT', access: 'read' }),
    { kind: 'scale', id: root, set: { scale: { kind: 'root', zero: 0, span: 27_648, full: 120, cut: 0.05 } } },
    localTag(local, 'local', 'INT', '5'),
    localTag(run, 'run', 'BOOL', '0'),
  ]);
});
afterAll(async () => {
  await bench.close();
  await rolls.stop();
});
const simulate = (on: boolean): Promise<void> => bench.change('desk', [{ kind: 'device', id: away, set: { isSimulated: on } }]);
const behave = (id: string, behaviour: Behaviour | null, runTagId: string | null = null): Promise<void> =>
  bench.change('behaves', [{ kind: 'simulation', id, set: behaviour && { behaviour, runTagId } }]);
const sample = (id: string) => bench.services.engine.live.get(id);
const value = (id: string): number => Number(sample(id)?.text);
const isGood = (id: string): boolean => sample(id)?.quality.level === 'good';
const write = (tagId: string, text: string) => bench.services.writes.write({ id: uuid(), tagId, value: text, writer: 'engineer' });
beforeEach(async () => {
  const known = bench.services.model.all('simulation').map(({ id }): Change => ({ kind: 'simulation', id, set: null }));
  if (known.length > 0) await bench.change('as usual', known);
});

describe('device by device', () => {
  test('one that is not there is bad; simulated it has values, of all types, and the real one beside it keeps its own', async () => {
    await until('the real one is read', () => isGood(gap));
    await until('the other is silent', () => sample(flow)?.quality.level === 'bad', 8000);
    await simulate(true);
    await until('all are good', () => [flow, level, start, name, root].every(isGood));
    expect(value(flow)).toBeGreaterThanOrEqual(5);
    expect(value(flow)).toBeLessThanOrEqual(9);
    const before = value(flow);
    await until('it moves', () => value(flow) !== before);
    // What can be written stands, raw 0…27648 for 0…150 in its middle (common practice).
    expect(sample(level)?.raw).toBe(9216);
    expect(sample(name)?.text).toBe('SIM');
    expect(isGood(gap)).toBe(true);
    expect(bench.services.engine.deviceStatus().map(({ state }) => state)).toEqual(['answering', 'answering']);
    await simulate(false);
    await until('it is bad again', () => sample(flow)?.quality.level === 'bad', 8000);
  });

  test('the time of the line is planned for the real ones alone', async () => {
    await simulate(true);
    const plan = bench.services.buses.plan(linkId);
    expect(plan.ok && new Set(plan.value.groups.map(({ device }) => device))).toEqual(new Set(['ROLLS 1']));
    await simulate(false);
  });

  test('where all are simulated nothing goes over the link', async () => {
    await bench.change(
      'all',
      [real, away].map((id): Change => ({ kind: 'device', id, set: { isSimulated: true } })),
    );
    await until('all are good', () => [gap, flow].every(isGood));
    expect(bench.services.engine.linkStatus()).toMatchObject([{ phase: 'closed', problem: null, requestsPerSecond: 0 }]);
    const { requests } = (await (await fetch(`http://127.0.0.1:${rolls.controlPort}/values`)).json()) as { requests?: number };
    expect(requests).toBeUndefined();
    expect(bench.services.engine.frames(linkId, 10)).toEqual([]);
    await bench.change('real', [{ kind: 'device', id: real, set: { isSimulated: false } }]);
    await until('the real one is read', () => bench.services.engine.frames(linkId, 10).length > 0, 8000);
  });

  test('what is opened for writing while it is simulated is locked when it is the machine’s again, and the other way round', async () => {
    await simulate(true);
    expect(await bench.services.guards.unlock({ deviceId: away, who: 'R. Vale', minutes: 5 })).toMatchObject({ ok: true });
    await simulate(false);
    expect(bench.services.guard.all()).toEqual([]);
    await simulate(true);
    expect(await write(level, '75')).toMatchObject({ ok: false, problem: { code: 'locked' } });
  });

  test('nothing is proven by it', async () => {
    await simulate(true);
    await until('it is good', () => isGood(level));
    const seen = await bench.services.checks.check(level, { kind: 'typed', text: '75', who: 'R. Vale' } as never);
    expect(seen).toMatchObject({ ok: false, problem: { code: 'simulated' } });
  });
});

describe('behaviours', () => {
  beforeAll(() => simulate(true));

  test('what is written is held, and read back to the last digit', async () => {
    await bench.services.guards.unlock({ deviceId: away, who: 'R. Vale', minutes: 5 });
    expect(await write(level, '87.5')).toMatchObject({ ok: true, value: { state: 'done' } });
    // Raw 0…27648 for 0…150: 16128 is 87.5 (common practice).
    await until('it is held', () => sample(level)?.raw === 16_128);
    expect(await write(start, 'on')).toMatchObject({ ok: true, value: { state: 'done' } });
    await until('it is on', () => sample(start)?.eng === true);
  });

  test('a value of its own, through the bytes that the device would have', async () => {
    await behave(level, { kind: 'hold', value: '75' });
    await until('it is there', () => value(level) === 75);
    expect(sample(level)?.wire).toEqual({ kind: 'bytes', bytes: Uint8Array.of(13_824 >> 8, 13_824 & 255) });
    await behave(name, { kind: 'sequence', steps: [{ at: 0, value: 'OATS' }, { at: 0.5, value: 'BARLEY' }], end: 'stay', isSmooth: false }); // prettier-ignore
    await until('the text follows', () => sample(name)?.text === 'BARLEY');
  });

  test('a bit starts and pauses it', async () => {
    await behave(flow, { kind: 'ramp', from: 0, to: 1000, seconds: 100, end: 'stay' }, run);
    await until('it stands at the beginning', () => value(flow) === 0);
    await write(run, '1');
    await until('it runs', () => value(flow) > 2);
    await write(run, '0');
    await new Promise((resolve) => setTimeout(resolve, 250));
    const paused = value(flow);
    await new Promise((resolve) => setTimeout(resolve, 400));
    expect(value(flow)).toBe(paused);
    await write(run, '1');
    await until('it goes on from there', () => value(flow) > paused && value(flow) < paused + 10);
  });

  test('one that follows another, of a real device too, and is bad while that is', async () => {
    await behave(level, { kind: 'follow', tagId: gap, factor: 0.1, shift: 1 });
    await until('it follows', () => isGood(level) && Math.abs(value(level) - (value(gap) * 0.1 + 1)) < 2);
    await behave(level, { kind: 'follow', tagId: uuid(), factor: 1, shift: 0 });
    await until('it says why', () => sample(level)?.quality.level === 'bad');
    expect(sample(level)?.quality.detail).toContain('The tag that it follows has no good number');
  });

  test('one that is what an expression gives', async () => {
    await behave(level, { kind: 'script', gives: { by: `@${flow} * 2` } });
    await behave(flow, { kind: 'hold', value: '6.5' });
    await until('it is there', () => Math.abs(value(level) - 13) < 0.01);
  });

  test('a local tag by its own, which is kept as it was', async () => {
    await behave(local, { kind: 'sequence', steps: [{ at: 0, value: '11' }], end: 'stay', isSmooth: false });
    await until('it is there', () => value(local) === 11);
    await behave(local, null);
    await write(local, '6');
    await until('it is its own again', () => value(local) === 6);
  });

  test('a change of something else leaves a ramp where it is', async () => {
    await behave(flow, { kind: 'ramp', from: 0, to: 1000, seconds: 100, end: 'stay' });
    await until('it runs', () => value(flow) > 12);
    await bench.change('elsewhere', [{ kind: 'tag', id: level, set: { comment: 'looked at' } }]);
    await new Promise((resolve) => setTimeout(resolve, 200));
    expect(value(flow)).toBeGreaterThan(12);
  });
});
