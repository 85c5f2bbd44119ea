import { afterEach, beforeEach, describe, expect, jest, test } from '@jest/globals';
import type { Change } from '@/core/project/command.ts';
import type { Driver, DriverSession, LinkState, SessionOptions } from '@/drivers/contract.ts';
import { describeDriver } from '@/drivers/descriptions.ts';
import { ProjectModel } from '@/model/projectModel.ts';
import { Engine } from '@/runtime/engine.ts';
import { FakeClock } from '../support/fakeClock.ts';
import { FakeDevice } from '../support/fakeDevice.ts';
import { newTag } from '../support/newTag.ts';
import { uuidOf } from '../support/uuidOf.ts';

/** A driver that throws where the test says, on one of two links. */
type Place = 'createSession' | 'start' | 'device' | 'prepare' | 'read' | 'read later' | 'hangs' | 'none';

const BAD_PORT = 502;
const [PROJECT, BAD_LINK, GOOD_LINK, BAD, GOOD, BAD_TAG, GOOD_TAG] = [0, 1, 2, 3, 4, 5, 6].map(uuidOf) as [
  string,
  string,
  string,
  string,
  string,
  string,
  string,
];
const NEVER = { signal: new AbortController().signal, deadline: Infinity };

let clock: FakeClock;
let engine: Engine;
let throwsAt: Place;
/** Sessions of the bad link, and when each was made. */
let madeAt: number[];

const throwing = (place: Place, isBad: boolean): void => {
  if (isBad && throwsAt === place) throw new Error(`thrown in ${place}`);
};

class FailingDevice extends FakeDevice {
  constructor(
    clock: FakeClock,
    private readonly isBad: boolean,
  ) {
    super(clock);
  }
  override prepare(...args: Parameters<FakeDevice['prepare']>): ReturnType<FakeDevice['prepare']> {
    throwing('prepare', this.isBad);
    const group = super.prepare(...args);
    return {
      requestCount: group.requestCount,
      read: async (sink, context) => {
        throwing('read', this.isBad);
        if (this.isBad && throwsAt === 'hangs') await new Promise(() => undefined);
        const fault = await group.read(sink, context);
        throwing('read later', this.isBad);
        return fault;
      },
    };
  }
  override write(): Promise<null> {
    return Promise.reject(new Error('thrown in write'));
  }
}

class FailingSession implements DriverSession {
  state: LinkState = { phase: 'closed', problem: null, retryAt: null };
  readonly #isBad: boolean;
  constructor(private readonly options: SessionOptions) {
    this.#isBad = options.settings.port === BAD_PORT;
    if (this.#isBad) madeAt.push(clock.now());
    throwing('createSession', this.#isBad);
  }
  start(): void {
    throwing('start', this.#isBad);
    this.state = { phase: 'connected', problem: null, retryAt: null };
    this.options.onState(this.state);
  }
  close(): void {
    if (this.#isBad && throwsAt !== 'none') throw new Error('thrown in close');
  }
  device(): FakeDevice {
    throwing('device', this.#isBad);
    return new FailingDevice(clock, this.#isBad);
  }
}

const level = (tagId: string): string | undefined => engine.live.get(tagId)?.quality.level;
const link = (): unknown => engine.linkStatus().find(({ linkId }) => linkId === BAD_LINK);

beforeEach(() => {
  jest.spyOn(console, 'error').mockImplementation(() => undefined);
  clock = new FakeClock('loop');
  throwsAt = 'none';
  madeAt = [];
  const description = describeDriver('modbus-tcp');
  if (!description) throw new Error();
  const driver: Driver = { description, createSession: (options) => new FailingSession(options) };
  const model = new ProjectModel();
  engine = new Engine(model, () => driver, clock);
  const changes: Change[] = [
    { kind: 'project', id: PROJECT, set: { name: 'P' } },
    { kind: 'link', id: BAD_LINK, set: { name: 'Bad', driver: 'modbus-tcp', settings: { host: '127.0.0.1', port: BAD_PORT } } },
    { kind: 'link', id: GOOD_LINK, set: { name: 'Good', driver: 'modbus-tcp', settings: { host: '127.0.0.1', port: 503 } } },
    { kind: 'device', id: BAD, set: { linkId: BAD_LINK, name: 'KILN', settings: { unit: 1 }, dialect: {}, witnessUrl: '' } },
    { kind: 'device', id: GOOD, set: { linkId: GOOD_LINK, name: 'ROLLS', settings: { unit: 1 }, dialect: {}, witnessUrl: '' } },
    { kind: 'tag', id: BAD_TAG, set: newTag(BAD, 'bed') },
    { kind: 'tag', id: GOOD_TAG, set: newTag(GOOD, 'gap') },
  ];
  const planned = model.plan(changes);
  if (!planned.ok) throw new Error(planned.problem.message);
  model.apply(planned.value);
});
afterEach(() => {
  throwsAt = 'none';
  engine.close();
  jest.restoreAllMocks();
});

describe.each<Place>(['createSession', 'start', 'device', 'prepare', 'read', 'read later'])('a driver that throws in %s', (place) => {
  test('breaks its own link, says so, and is started again; the other link goes on', async () => {
    throwsAt = place;
    engine.reconcile();
    await clock.pass(300);
    expect(link()).toMatchObject({
      phase: 'waiting',
      problem: { code: 'driver-failed', message: `The driver of this link failed: thrown in ${place}` },
    });
    expect(engine.deviceStatus().find(({ deviceId }) => deviceId === BAD)).toMatchObject({ state: 'silent' });
    expect([level(BAD_TAG) ?? 'bad', level(GOOD_TAG)]).toEqual(['bad', 'good']);
    throwsAt = 'none';
    await clock.pass(2000);
    expect(link()).toMatchObject({ phase: 'connected', problem: null });
    expect([level(BAD_TAG), level(GOOD_TAG)]).toEqual(['good', 'good']);
  });
  test('again and again, is left alone longer each time, and not longer than half a minute', async () => {
    throwsAt = place;
    engine.reconcile();
    await clock.pass(180_000);
    const gaps = madeAt.slice(1).map((at, i) => Math.round((at - (madeAt[i] ?? at)) / 1000));
    expect(gaps.slice(0, 8)).toEqual([1, 2, 4, 8, 16, 30, 30, 30]);
    expect(level(GOOD_TAG)).toBe('good');
  });
});

test('a write in which the driver throws may have been done: it is told as unknown, and the link is made anew', async () => {
  engine.reconcile();
  await clock.pass(300);
  const session = engine.session(BAD);
  const point = { key: 'x', canonical: 'HR1', type: { kind: 'boolean', name: 'BOOL', bytes: 1 } as never };
  const fault = await session?.write(point, { raw: 1, bytes: Uint8Array.of(0, 1), mask: null }, NEVER);
  expect(fault).toMatchObject({ kind: 'unknown', problem: { code: 'driver-failed' } });
  await clock.pass(50);
  expect([level(BAD_TAG), level(GOOD_TAG)]).toEqual(['bad', 'good']);
  await clock.pass(2000);
  expect(level(BAD_TAG)).toBe('good');
});

test('a driver that never answers a reading leaves its values to age, and the other link alone', async () => {
  engine.reconcile();
  await clock.pass(300);
  expect([level(BAD_TAG), level(GOOD_TAG)]).toEqual(['good', 'good']);
  throwsAt = 'hangs';
  await clock.pass(5000);
  expect([level(BAD_TAG), level(GOOD_TAG)]).toEqual(['uncertain', 'good']);
});
