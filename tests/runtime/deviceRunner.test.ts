import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { AS_IS, type Scale } from '@/core/scaling/scale.ts';
import { parseDataType } from '@/core/value/dataType.ts';
import { statusName } from '@/core/value/quality.ts';
import { describeDriver } from '@/drivers/descriptions.ts';
import type { EffectiveSignal } from '@/mapping/effective.ts';
import { DeviceRunner, type ScannedTag } from '@/runtime/deviceRunner.ts';
import { LiveTable } from '@/runtime/liveTable.ts';
import { WriteGuard } from '@/runtime/writeGuard.ts';
import { FakeClock } from '../support/fakeClock.ts';
import { FakeDevice } from '../support/fakeDevice.ts';

let clock: FakeClock;
let device: FakeDevice;
let live: LiveTable;
let runner: DeviceRunner;
beforeEach(() => {
  clock = new FakeClock();
  device = new FakeDevice(clock);
  live = new LiveTable();
  runner = new DeviceRunner(device, live, clock);
});
afterEach(() => runner.close());

function signal(canonical: string, scale: Scale = AS_IS, periodMs = 1000): EffectiveSignal {
  const driver = describeDriver('modbus-tcp');
  const type = parseDataType('INT');
  if (!driver || !type.ok) throw new Error();
  return {
    driver,
    canonical,
    settings: {},
    periodMs,
    isReadWhenShown: false,
    access: 'read',
    writable: false,
    calculation: null,
    index: null,
    origin: [],
    span: null,
    digest: `${canonical} ${JSON.stringify(scale)}`,
    def: { type: type.value, order: 'AB', bit: null, scale, unit: '', decimals: null, range: null },
  };
}
/** Something that happens again and again on the fake clock, until it is paused. */
function setIntervalOn(on: FakeClock, ms: number, call: () => void): { pause(): void; goOn(): void } {
  let cancel = (): void => undefined;
  const goOn = (): void => {
    cancel = on.after(ms, () => {
      call();
      goOn();
    });
  };
  goOn();
  return { pause: () => cancel(), goOn };
}
const tag = (tagId: string, periodMs: number, of = signal('HR0')): ScannedTag => ({
  tagId,
  signal: of.periodMs === periodMs ? of : { ...of, periodMs },
});
const timesOf = (key: string): number[] => device.readings.filter((r) => r.keys.includes(key)).map((r) => r.at - 1_000_000);
const level = (id: string): string | undefined => live.get(id)?.quality.level;

describe('a device of which nothing is read', () => {
  test('is asked now and then, also while thousands of tags are taken over and its link is down: others get their turns', async () => {
    runner.close();
    let asked = 0;
    const session = Object.assign(Object.create(device) as FakeDevice, {
      // At once, as over a link that is down; one that is asked without end would keep everything else from its turn.
      isThere: () =>
        ++asked > 50
          ? new Promise<null>(() => undefined)
          : Promise.resolve({ kind: 'link-down', problem: { code: 'down', message: 'down' } } as const),
    });
    runner = new DeviceRunner(session, live, clock);
    await clock.pass(100);
    runner.changing(true);
    runner.changeTags([tag('a', 1000)]);
    await clock.pass(11_000);
    expect(asked).toBeLessThanOrEqual(4);
    runner.changing(false);
    await clock.pass(3000);
    expect(live.get('a')?.raw).toBe(7);
  });
});

describe('a line that is slower than the periods', () => {
  test('a round of more than a minute is not thrown away: values come, with their true age, and are told to be late', async () => {
    device.delayMs = 75_000;
    runner.changeTags([tag('a', 1000)]);
    await clock.pass(80_000);
    expect(live.get('a')).toMatchObject({ raw: 7, at: 1_000_000 + 75_000 + 10 });
    // Seldom read values are shown, and are not good.
    expect(live.get('a')?.quality).toMatchObject({ level: 'uncertain', reason: 'overdue' });
    expect(runner.slow).toMatchObject({ askedMs: 1000, everyMs: expect.closeTo(75_000, -2) as unknown as number });
    expect(runner.fault).toBeNull();
    device.delayMs = 5;
    await clock.pass(80_000);
    expect(level('a')).toBe('good');
    expect(runner.slow).toBeNull();
  });
  test('a value that has grown old is not good, for whoever asks', async () => {
    runner.changeTags([tag('a', 1000)]);
    await clock.pass(1500);
    expect(level('a')).toBe('good');
    device.delayMs = 30_000;
    await clock.pass(6000);
    expect(live.get('a')).toMatchObject({ text: '7', quality: { level: 'uncertain', reason: 'overdue' } });
  });
});

describe('reading by periods', () => {
  test('each group keeps its own beat', async () => {
    runner.changeTags([tag('fast', 200), tag('slow', 1000)]);
    await clock.pass(2050);
    expect(timesOf('slow').length).toBe(3);
    expect(timesOf('fast').length).toBe(11);
    const gaps = timesOf('fast')
      .slice(1)
      .map((t, i) => t - (timesOf('fast')[i] ?? 0));
    expect(Math.max(...gaps)).toBeLessThanOrEqual(210);
  });
  test('a device slower than its period is read as fast as it can, without a pile of missed beats', async () => {
    device.delayMs = 450;
    runner.changeTags([tag('a', 200)]);
    await clock.pass(4600);
    expect(timesOf('a').length).toBe(11);
    device.delayMs = 5;
    await clock.pass(1000);
    expect(timesOf('a').length).toBeLessThanOrEqual(17);
  });
  test('a tag that is added is read at once, and does not disturb the values of the others', async () => {
    const ofA = signal('HR0');
    runner.changeTags([tag('a', 1000, ofA)]);
    await clock.pass(20);
    const before = live.get('a');
    runner.changeTags([tag('a', 1000, ofA), tag('b', 1000, signal('HR9'))]);
    expect(live.get('a')).toBe(before);
    expect(statusName(live.get('b')?.quality ?? { level: 'good', reason: null })).toBe('Bad_WaitingForInitialData');
    await clock.pass(20);
    expect(level('b')).toBe('good');
  });
});

describe('a device that falls silent', () => {
  test('loses all its tags within one period plus its time-out, the slow groups too', async () => {
    runner.changeTags([tag('fast', 200), tag('slow', 10_000, signal('HR5'))]);
    await clock.pass(300);
    expect([level('fast'), level('slow')]).toEqual(['good', 'good']);
    device.isSilent = true;
    await clock.pass(200 + 200 + 10);
    expect([level('fast'), level('slow')]).toEqual(['bad', 'bad']);
    expect(statusName(live.get('slow')?.quality ?? { level: 'good', reason: null })).toBe('Bad_NoCommunication');
    expect(runner.fault?.kind).toBe('silent');
  });
  test('comes back by itself with the next reading', async () => {
    device.isSilent = true;
    runner.changeTags([tag('a', 500)]);
    await clock.pass(800);
    expect(level('a')).toBe('bad');
    device.isSilent = false;
    await clock.pass(710);
    expect(level('a')).toBe('good');
    expect(runner.fault).toBeNull();
  });
  test('tells its silence once, not with every reading', async () => {
    device.isSilent = true;
    runner.changeTags([tag('a', 200)]);
    await clock.pass(250);
    const n = live.get('a')?.n;
    await clock.pass(3000);
    expect(live.get('a')?.n).toBe(n);
  });
});

describe('a controller whose heartbeat stands still', () => {
  test('still answers, so its values are marked uncertain, and are good again when it runs on', async () => {
    let count = 0;
    device.registers = (canonical) => (canonical === 'HR9' ? count : 7);
    const counting = setIntervalOn(clock, 100, () => count++);
    const [ofA, ofLife] = [signal('HR0'), signal('HR9')];
    runner.changeTags([tag('a', 500, ofA), tag('life', 200, ofLife)]);
    runner.setLife({ tagId: 'life', seconds: 2 });
    await clock.pass(3000);
    expect([level('a'), level('life'), runner.stopped]).toEqual(['good', 'good', undefined]);
    counting.pause();
    await clock.pass(1800);
    expect(level('a')).toBe('good');
    await clock.pass(800);
    expect([level('a'), level('life')]).toEqual(['uncertain', 'uncertain']);
    expect(statusName(live.get('a')?.quality ?? { level: 'good', reason: null })).toBe('Uncertain_LastUsableValue');
    await clock.pass(5000);
    expect(live.get('a')).toMatchObject({ eng: 7, quality: { reason: 'stopped' } });
    counting.goOn();
    await clock.pass(500);
    expect([level('a'), level('life'), runner.stopped]).toEqual(['good', 'good', undefined]);
  });
  test('a counter that is read seldom is given the readings it needs', async () => {
    device.registers = () => 7;
    runner.changeTags([tag('life', 10_000)]);
    runner.setLife({ tagId: 'life', seconds: 1 });
    await clock.pass(15_000);
    expect(level('life')).toBe('good');
    await clock.pass(30_000);
    expect(level('life')).toBe('uncertain');
  });
});

describe('changes while reading', () => {
  test('an answer to the old plan is dropped', async () => {
    device.delayMs = 100;
    device.registers = (canonical) => (canonical === 'HR0' ? 1 : 2);
    runner.changeTags([tag('a', 1000)]);
    await clock.pass(50);
    runner.changeTags([tag('a', 1000, signal('HR7'))]);
    await clock.pass(60);
    expect(live.get('a')?.eng).toBeNull();
    await clock.pass(120);
    expect(live.get('a')?.eng).toBe(2);
  });
  test('an answer that was asked for before is still taken by a tag that reads the same', async () => {
    device.delayMs = 100;
    const ofA = signal('HR0');
    runner.changeTags([tag('a', 1000, ofA)]);
    await clock.pass(50);
    runner.changeTags([tag('b', 1000, signal('HR7'))]);
    await clock.pass(60);
    expect(live.get('a')?.eng).toBe(7);
    runner.changeTags([], ['b']);
    await clock.pass(250);
    expect(device.readings.at(-1)?.keys).toEqual(['a']);
    expect(live.get('a')?.eng).toBe(7);
  });
  test('a new scale is followed from the bytes that are there, without a reading', async () => {
    runner.changeTags([tag('a', 10_000)]);
    await clock.pass(20);
    const readings = device.readings.length;
    runner.changeTags([tag('a', 10_000, signal('HR0', { kind: 'power', exponent: 1 }))]);
    expect(live.get('a')?.text).toBe('70');
    expect(device.readings.length).toBe(readings);
  });
  test('nothing arrives after it was closed', async () => {
    device.delayMs = 100;
    runner.changeTags([tag('a', 1000)]);
    await clock.pass(10);
    runner.close();
    await clock.pass(5000);
    expect(live.get('a')?.eng).toBeNull();
    expect(device.readings).toHaveLength(1);
  });
});

describe('the live table', () => {
  test('keeps the last samples of a watched tag only, and finds the one a page drew', async () => {
    runner.changeTags([tag('a', 200)]);
    await clock.pass(250);
    const unseen = live.get('a')?.n ?? 0;
    expect(live.kept('a', unseen)).toBeNull();
    const forget = live.keep('a');
    const first = live.get('a')?.n ?? 0;
    await clock.pass(20_000);
    expect(live.kept('a', live.get('a')?.n ?? 0)).toBe(live.get('a'));
    expect(live.kept('a', first)).toBeNull();
    forget();
    expect(live.kept('a', live.get('a')?.n ?? 0)).toBeNull();
  });
});

describe('the write guard', () => {
  test('opens one device for a time, on the clock, and never longer than it may', async () => {
    const guard = new WriteGuard(clock);
    guard.unlock('d1', 'R. Vale', 10);
    expect([guard.unlockedBy('d1')?.who, guard.unlockedBy('d2')]).toEqual(['R. Vale', null]);
    await clock.pass(10 * 60_000 - 1);
    expect(guard.unlockedBy('d1')).not.toBeNull();
    await clock.pass(1);
    expect(guard.unlockedBy('d1')).toBeNull();
    expect(guard.unlock('d1', 'R. Vale', 100_000).until - clock.now()).toBe(120 * 60_000);
    guard.unlock('d2', 'M. Arden', 5);
    guard.lock();
    expect(guard.all()).toEqual([]);
  });
});
