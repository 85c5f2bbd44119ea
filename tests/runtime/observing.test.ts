import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { AS_IS } from '@/core/scaling/scale.ts';
import { parseDataType } from '@/core/value/dataType.ts';
import type { DriverFault, Observation, ObservedPoint, Observer } from '@/drivers/contract.ts';
import { describeDriver } from '@/drivers/descriptions.ts';
import type { EffectiveSignal } from '@/mapping/effective.ts';
import { DeviceRunner, type ScannedTag } from '@/runtime/deviceRunner.ts';
import { LiveTable } from '@/runtime/liveTable.ts';
import { FakeClock } from '../support/fakeClock.ts';
import { FakeDevice, SILENT } from '../support/fakeDevice.ts';

/** A device whose values come by themselves, when the test says. */
class ObservedDevice extends FakeDevice {
  observer: Observer | null = null;
  begun = 0;
  closed = 0;
  readonly points = new Map<string, ObservedPoint>();
  observe(observer: Observer): Observation {
    this.begun++;
    this.observer = observer;
    this.points.clear();
    return {
      add: (points) => points.forEach((point) => this.points.set(point.key, point)),
      remove: (keys) => keys.forEach((key) => this.points.delete(key)),
      close: () => void this.closed++,
    };
  }
  tell(key: string, value: number): void {
    this.observer?.sink(key, { wire: { kind: 'typed', value }, torn: false, at: clock.now(), roundTripMs: 0 });
  }
}

function tagAt(tagId: string, canonical: string, periodMs = 500): ScannedTag {
  const type = parseDataType('REAL');
  const driver = describeDriver('modbus-tcp');
  if (!type.ok || !driver) throw new Error();
  const def = { type: type.value, order: 'ABCD', bit: null, scale: AS_IS, unit: '', decimals: 1, range: null } as const;
  const signal: EffectiveSignal = {
    driver,
    canonical,
    settings: {},
    periodMs,
    isReadWhenShown: false,
    access: 'readWrite',
    writable: true,
    def,
    calculation: null,
    index: null,
    origin: [],
    span: null,
    digest: canonical,
  };
  return { tagId, signal };
}

let clock: FakeClock;
let device: ObservedDevice;
let live: LiveTable;
let runner: DeviceRunner;
const seen = (tagId: string): string => `${live.get(tagId)?.text ?? ''} ${live.get(tagId)?.quality.level ?? ''}`;

beforeEach(async () => {
  clock = new FakeClock();
  device = new ObservedDevice(clock);
  live = new LiveTable();
  runner = new DeviceRunner(device, live, clock);
  runner.changeTags([tagAt('a', 'n1'), tagAt('b', 'n2', 1000)]);
  device.observer?.alive(5000);
  await clock.pass(50);
});
afterEach(() => runner.close());

describe('a device that is observed', () => {
  test('is not read by period; its points are wanted as often as their tags say', async () => {
    await clock.pass(3000);
    expect(device.readings).toEqual([]);
    expect([...device.points.values()].map(({ key, canonical, everyMs }) => [key, canonical, everyMs])).toEqual([
      ['a', 'n1', 500],
      ['b', 'n2', 1000],
    ]);
  });
  test('a value that does not change stays good as long as the observation gives signs of life', async () => {
    device.tell('a', 104.6);
    for (let i = 0; i < 100; i++) {
      await clock.pass(4000);
      device.observer?.alive(5000);
    }
    expect(seen('a')).toBe('104.6 good');
    expect(live.get('a')?.freshForMs).toBe(Infinity);
    expect(seen('b')).toBe('– bad');
  });
  test('that falls silent without a word: its values turn bad by the time it said, and it is observed anew', async () => {
    device.tell('a', 104.6);
    const old = device.observer;
    await clock.pass(4900);
    expect(seen('a')).toBe('104.6 good');
    await clock.pass(200);
    expect(seen('a')).toBe('– bad');
    expect(runner.fault?.problem.message).toBe('The subscription has given no sign for 5 s.');
    await clock.pass(1000);
    expect([device.begun, device.closed, device.points.size]).toEqual([2, 1, 2]);
    // What comes late of the old observation counts for nothing.
    old?.sink('a', { wire: { kind: 'typed', value: 1 }, torn: false, at: clock.now(), roundTripMs: 0 });
    old?.alive(1e6);
    expect(seen('a')).toBe('– bad');
    device.observer?.alive(5000);
    device.tell('a', 99);
    expect([seen('a'), runner.fault]).toEqual(['99.0 good', null]);
  });
  test('that is lost again and again is tried later each time, at most every half minute, and at once when the link is back', async () => {
    const lose = async (): Promise<number> => {
      const before = device.begun;
      const at = clock.now();
      device.observer?.lost(SILENT);
      while (device.begun === before) await clock.pass(500);
      return (clock.now() - at) / 1000;
    };
    const gaps: number[] = [];
    for (let i = 0; i < 7; i++) gaps.push(await lose());
    expect(gaps).toEqual([1, 2, 4, 8, 16, 30, 30]);
    device.observer?.lost(SILENT);
    await clock.pass(100);
    const before = device.begun;
    runner.kick();
    expect(device.begun).toBe(before + 1);
  });
  test('over a link that is down is not observed, and is when the link is up', async () => {
    device.tell('a', 1);
    const down: DriverFault = { kind: 'link-down', problem: { code: 'refused', message: 'Connection refused.' } };
    runner.lose(down);
    await clock.pass(60_000);
    expect([seen('a'), device.begun, runner.fault]).toEqual(['– bad', 1, down]);
    runner.kick();
    device.observer?.alive(5000);
    device.tell('a', 2);
    expect([seen('a'), device.begun]).toEqual(['2.0 good', 2]);
  });
  test('points that are added, moved and removed are followed one by one; the others are left alone', () => {
    device.tell('a', 1);
    device.tell('b', 2);
    runner.changeTags([tagAt('b', 'n9', 1000), tagAt('c', 'n3')], []);
    expect([...device.points.values()].map(({ key, canonical }) => `${key} ${canonical}`).sort()).toEqual(['a n1', 'b n9', 'c n3']);
    expect([seen('a'), seen('b'), device.begun]).toEqual(['1.0 good', '– bad', 1]);
    runner.changeTags([], ['a']);
    device.tell('a', 5);
    expect([...device.points.keys()].sort()).toEqual(['b', 'c']);
  });
  test('that is paused is not observed meanwhile', () => {
    device.tell('a', 1);
    runner.pause('The line is being searched.');
    device.tell('a', 2);
    expect([seen('a'), device.closed]).toEqual(['– bad', 1]);
    runner.pause(null);
    device.observer?.alive(5000);
    device.tell('a', 3);
    expect(seen('a')).toBe('3.0 good');
  });
  test('ends with its runner', () => {
    runner.close();
    device.tell('a', 7);
    expect([device.closed, live.get('a')?.n ?? 0]).toEqual([1, live.get('a')?.n ?? 0]);
    expect(seen('a')).not.toContain('7.0');
  });
  test('a value carries the time and the doubts of its source', () => {
    const sourceAt = clock.now() - 700;
    device.observer?.sink('a', { wire: { kind: 'typed', value: 1 }, torn: false, at: clock.now(), roundTripMs: 0, sourceAt });
    expect(live.get('a')).toMatchObject({ sourceAt, quality: { level: 'good' } });
    device.observer?.sink('a', {
      wire: { kind: 'typed', value: 2 },
      torn: false,
      at: clock.now(),
      roundTripMs: 0,
      doubted: 'Uncertain_SensorNotAccurate',
    });
    expect(live.get('a')).toMatchObject({
      text: '2.0',
      sourceAt: null,
      quality: { level: 'uncertain', reason: 'doubted', detail: 'Uncertain_SensorNotAccurate' },
    });
  });
  test('a value of another type than declared is bad, with what came', () => {
    device.observer?.sink('a', { wire: { kind: 'typed', value: 'WARM' }, torn: false, at: clock.now(), roundTripMs: 0 });
    expect(live.get('a')).toMatchObject({ text: '–', broken: { stage: 'decoded', problem: { message: 'The device sent WARM, which is no REAL.' } } });
  });
});
