import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import type { Change } from '@/core/project/command.ts';
import type { Driver, DriverSession, LinkState, SessionOptions } from '@/drivers/contract.ts';
import { describeDriver } from '@/drivers/descriptions.ts';
import { ProjectModel } from '@/model/projectModel.ts';
import { Engine } from '@/runtime/engine.ts';
import { newPoint } from '@/core/project/tagSource.ts';
import { pointSet } from '../support/pointSet.ts';
import { FakeClock } from '../support/fakeClock.ts';
import { FakeDevice } from '../support/fakeDevice.ts';
import { newTag } from '../support/newTag.ts';
import { uuidOf } from '../support/uuidOf.ts';

const [PROJECT, LINK, OTHER_LINK, DEVICE, SECOND, TAG] = [0, 1, 2, 3, 4, 5].map(uuidOf) as [string, string, string, string, string, string];

/** A driver whose links do what the test says. */
class FakeSession implements DriverSession {
  state: LinkState = { phase: 'closed', problem: null, retryAt: null };
  readonly devices: FakeDevice[] = [];
  isClosed = false;
  constructor(
    readonly options: SessionOptions,
    private readonly clock: FakeClock,
  ) {}
  start(): void {
    this.become({ phase: 'connected', problem: null, retryAt: null });
  }
  close(): void {
    this.isClosed = true;
  }
  device(): FakeDevice {
    const made = new FakeDevice(this.clock);
    this.devices.push(made);
    return made;
  }
  become(state: LinkState): void {
    this.state = state;
    this.options.onState(state);
  }
}

let clock: FakeClock;
let model: ProjectModel;
let engine: Engine;
let sessions: FakeSession[];
const change = (...changes: Change[]): void => {
  const planned = model.plan(changes);
  if (!planned.ok) throw new Error(planned.problem.message);
  model.apply(planned.value);
  engine.reconcile();
};
const port = (n: number) => ({ host: '127.0.0.1', port: n });
const device = (linkId: string, name: string, unit: number) => ({ linkId, name, settings: { unit }, dialect: {}, witnessUrl: '' });

beforeEach(async () => {
  clock = new FakeClock();
  model = new ProjectModel();
  sessions = [];
  const description = describeDriver('modbus-tcp');
  if (!description) throw new Error();
  const driver: Driver = {
    description,
    createSession: (options) => {
      const session = new FakeSession(options, clock);
      sessions.push(session);
      return session;
    },
  };
  engine = new Engine(model, () => driver, clock);
  change(
    { kind: 'project', id: PROJECT, set: { name: 'P' } },
    { kind: 'link', id: LINK, set: { name: 'Line', driver: 'modbus-tcp', settings: port(502) } },
    { kind: 'link', id: OTHER_LINK, set: { name: 'Other', driver: 'modbus-tcp', settings: port(503) } },
    { kind: 'device', id: DEVICE, set: device(LINK, 'KILN', 1) },
    { kind: 'device', id: SECOND, set: device(LINK, 'ROLLS', 2) },
    { kind: 'tag', id: TAG, set: newTag(DEVICE, 'bed') },
  );
  await clock.pass(50);
});
afterEach(() => engine.close());

const level = (): string | undefined => engine.live.get(TAG)?.quality.level;
const stateOf = (deviceId: string): string | undefined => engine.deviceStatus().find((d) => d.deviceId === deviceId)?.state;

describe('what runs follows the project', () => {
  test('a changed link is made anew, the others run on', () => {
    change({ kind: 'link', id: OTHER_LINK, set: { settings: port(504) } });
    expect(sessions.map((s) => [s.options.settings.port, s.isClosed])).toEqual([
      [502, false],
      [503, true],
      [504, false],
    ]);
  });
  test('a name or a comment disturbs nothing', () => {
    change({ kind: 'link', id: LINK, set: { name: 'Cabinet' } }, { kind: 'device', id: DEVICE, set: { name: 'KILN 2' } });
    expect(sessions).toHaveLength(2);
    expect(sessions[0]?.devices).toHaveLength(2);
  });
  test('the same settings in another order of their fields are the same settings', () => {
    change({ kind: 'link', id: LINK, set: { settings: { port: 502, host: '127.0.0.1' } } });
    expect(sessions).toHaveLength(2);
  });
  test('a changed device is made anew on its link, and shows nothing of what it was before', async () => {
    expect(level()).toBe('good');
    change({ kind: 'device', id: DEVICE, set: { settings: { unit: 9 } } });
    expect(engine.live.get(TAG)).toMatchObject({ eng: null, quality: { reason: 'waiting' } });
    expect(sessions[0]?.devices).toHaveLength(3);
    await clock.pass(50);
    expect(level()).toBe('good');
  });
  test('a tag that goes takes its value and its place in the counts with it', () => {
    const second = uuidOf(6);
    change({ kind: 'tag', id: second, set: newTag(DEVICE, 'out', 'HR9') });
    change({ kind: 'tag', id: TAG, set: null });
    expect(engine.live.get(TAG)).toBeNull();
    expect(engine.live.counts.good + engine.live.counts.uncertain + engine.live.counts.bad).toBe(1);
  });
});

describe('values that are read while they are shown', () => {
  const OUT = uuidOf(6);
  const readings = (): readonly string[][] => (sessions[0]?.devices[0]?.readings ?? []).map(({ keys }) => [...keys]);
  const count = (): number => engine.live.counts.good + engine.live.counts.uncertain + engine.live.counts.bad;
  beforeEach(async () => {
    change({ kind: 'tag', id: OUT, set: newTag(DEVICE, 'out', 'HR9') }, { kind: 'device', id: DEVICE, set: { reads: 'shown' } });
    await clock.pass(500);
  });

  test('are not read, and have no value that could be taken for one, until somebody wants them', async () => {
    const before = readings().length;
    await clock.pass(1000);
    expect([readings().length, engine.live.get(TAG), count()]).toEqual([before, null, 0]);
    const release = engine.want([OUT]);
    await clock.pass(50);
    expect(engine.live.get(OUT)?.quality.level).toBe('good');
    expect([readings().at(-1), engine.live.get(TAG)]).toEqual([[OUT], null]);
    release();
    expect(engine.live.get(OUT)).toBeNull();
    const after = readings().length;
    await clock.pass(1000);
    expect(readings().length).toBe(after);
  });
  test('are read as long as the last one wants them; who lets go twice lets go once', async () => {
    const [one, two] = [engine.want([OUT, OUT]), engine.want([OUT])];
    one();
    one();
    await clock.pass(200);
    expect(readings().at(-1)).toEqual([OUT]);
    two();
    expect(engine.live.get(OUT)).toBeNull();
  });
  test('are read once when they are asked for now', async () => {
    const asked = engine.readNow(TAG);
    await clock.pass(50);
    expect((await asked)?.quality.level).toBe('good');
    expect(engine.live.get(TAG)).toBeNull();
  });
  test('stay what they are through a change of the tag, and a group may say otherwise', async () => {
    const group = uuidOf(7);
    const release = engine.want([OUT]);
    change({ kind: 'tag', id: OUT, set: { source: newPoint(DEVICE, 'HR12', { periodMs: 100 }) } });
    await clock.pass(200);
    expect(engine.live.get(OUT)?.quality.level).toBe('good');
    release();
    change(
      { kind: 'group', id: group, set: { name: 'G', parentId: null, deviceId: DEVICE, periodMs: null, access: null, reads: 'always' } },
      { kind: 'tag', id: TAG, set: { groupId: group } },
    );
    await clock.pass(200);
    expect([level(), engine.live.get(OUT)]).toEqual(['good', null]);
  });
});

describe('what is said of links and devices', () => {
  test('a device without tags is connecting, one that is read answers', () => {
    expect([stateOf(DEVICE), stateOf(SECOND)]).toEqual(['answering', 'connecting']);
    expect(engine.linkStatus().find((l) => l.linkId === LINK)?.requestsPerSecond).toBe(10);
  });
  test('a link that is lost makes its devices silent and their tags bad in the same moment', () => {
    sessions[0]?.become({ phase: 'waiting', problem: { code: 'closed-by-peer', message: 'It broke the connection.' }, retryAt: 5 });
    expect(engine.live.get(TAG)).toMatchObject({ eng: null, quality: { level: 'bad', reason: 'link-down' } });
    expect(stateOf(DEVICE)).toBe('silent');
    expect(engine.linkStatus().find((l) => l.linkId === LINK)).toMatchObject({ phase: 'waiting', requestsPerSecond: 0 });
  });
  test('a link that comes back is read at once, not at the next beat', async () => {
    change({ kind: 'tag', id: TAG, set: { source: newPoint(DEVICE, 'HR2', { periodMs: 60_000 }) } });
    await clock.pass(50);
    sessions[0]?.become({ phase: 'waiting', problem: { code: 'x', message: 'x' }, retryAt: 5 });
    expect(level()).toBe('bad');
    sessions[0]?.become({ phase: 'connected', problem: null, retryAt: null });
    await clock.pass(50);
    expect(level()).toBe('good');
  });
  test('a controller whose heartbeat stands still answers, and is said to stand still', async () => {
    change({ kind: 'device', id: DEVICE, set: { lifeTagId: TAG, lifeSeconds: 1 } });
    await clock.pass(3000);
    expect(engine.deviceStatus().find((d) => d.deviceId === DEVICE)).toMatchObject({
      state: 'stopped',
      detail: 'its heartbeat stands still for more than 1 s',
    });
    change({ kind: 'device', id: DEVICE, set: { lifeTagId: null } });
    expect(level()).toBe('good');
    expect(stateOf(DEVICE)).toBe('answering');
  });
});

describe('a reading out of turn', () => {
  test('is a reading of now, and none for what is not online', async () => {
    const read = sessions[0]?.devices[0]?.readings.length ?? 0;
    const reading = engine.readNow(TAG);
    await clock.pass(10);
    const sample = await reading;
    expect(sample?.eng).toBe(7);
    expect(sessions[0]?.devices[0]?.readings.length).toBe(read + 1);
    expect(await engine.readNow(uuidOf(99))).toBeNull();
  });
  test('of a tag that was changed meanwhile is none', async () => {
    const reading = engine.readNow(TAG);
    change({ kind: 'tag', id: TAG, set: pointSet(model, TAG, { address: 'HR44' }) });
    await clock.pass(50);
    expect(await reading).toBeNull();
  });
});
