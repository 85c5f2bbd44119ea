import { beforeEach, describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { AS_IS } from '@/core/scaling/scale.ts';
import { parseDataType } from '@/core/value/dataType.ts';
import { qualityOf } from '@/core/value/quality.ts';
import { describeDriver } from '@/drivers/descriptions.ts';
import type { EffectiveSignal } from '@/mapping/effective.ts';
import { FakeClock } from '../support/fakeClock.ts';
import { LiveTable, type Sample } from '@/runtime/liveTable.ts';

function signal(range: { low: number; high: number } | null = null): EffectiveSignal {
  const driver = describeDriver('modbus-tcp');
  const type = parseDataType('INT');
  if (!driver || !type.ok) throw new Error();
  return {
    driver,
    canonical: 'HR0',
    settings: {},
    periodMs: 1000,
    isReadWhenShown: false,
    access: 'read',
    writable: false,
    calculation: null,
    index: null,
    origin: [],
    span: null,
    digest: 'd',
    def: { type: type.value, order: 'AB', bit: null, scale: AS_IS, unit: '', decimals: null, range },
  };
}
const plain = signal();
const narrow = signal({ low: 0, high: 10 });
const wire = (value: number) => ({ kind: 'bytes', bytes: Uint8Array.of((value >> 8) & 255, value & 255) }) as const;

let live: LiveTable;
let heard: Sample[];
beforeEach(() => {
  live = new LiveTable();
  heard = [];
  live.onSample((tagId) => heard.push(...[live.get(tagId)].flatMap((s) => s ?? [])));
});

describe('the newest samples', () => {
  test('are numbered one after the other, whatever the tag', () => {
    live.arrive('a', plain, wire(1), {}, 10, 1);
    live.arrive('b', plain, wire(2), {}, 11, 1);
    live.lose('a', qualityOf('silent'), null, 12, plain);
    expect(heard.map((s) => [s.tagId, s.n, s.text])).toEqual([
      ['a', 1, '1'],
      ['b', 2, '2'],
      ['a', 3, '–'],
    ]);
  });
  test('a sample that somebody keeps has its own bytes, whatever is read afterwards and whatever the driver hands over', () => {
    for (const bytesOf of [(bytes: Uint8Array) => bytes, (bytes: Uint8Array) => Buffer.from(bytes)]) {
      live = new LiveTable();
      const came = (value: number) => ({ kind: 'bytes', bytes: bytesOf(wire(value).bytes) }) as const;
      live.arrive('a', plain, came(1), {}, 10, 1);
      const first = live.get('a');
      live.arrive('a', plain, came(258), {}, 11, 1);
      const bytes = first?.wire?.kind === 'bytes' ? [...first.wire.bytes] : [];
      expect([first?.text, bytes]).toEqual(['1', [0, 1]]);
    }
  });
  test('the bytes of a controller that may have stopped are still what is shown; a lost value has none, and why', () => {
    live.arrive('a', plain, wire(258), {}, 10, 1);
    live.reinterpret('a', plain, { stopped: 'its heartbeat stands still' });
    expect([...(live.wireOf('a')?.bytes ?? [])]).toEqual([1, 2]);
    live.lose('a', qualityOf('silent'), null, 500, plain);
    expect(live.wireOf('a')).toMatchObject({ bytes: null, reason: 'silent', at: 500 });
  });
  test('no value is there without its quality and time, and a lost one keeps no number', () => {
    live.arrive('a', plain, wire(7), {}, 10, 1);
    live.lose('a', qualityOf('silent', 'No reply.'), null, 500, plain);
    expect(live.get('a')).toMatchObject({ raw: null, eng: null, text: '–', at: 500, quality: { level: 'bad', reason: 'silent' } });
  });
  test('the answer to a question from before a write does not replace what was read back after it', () => {
    live.arrive('a', plain, wire(100), {}, 1000, 5);
    // Written and read back, asked at 1300; then the answer to what was asked at 1100.
    live.arrive('a', plain, wire(90), {}, 1310, 10);
    live.arrive('a', plain, wire(100), {}, 1600, 500);
    expect(heard.map((s) => s.text)).toEqual(['100', '90']);
    live.arrive('a', plain, wire(95), {}, 1700, 100);
    expect(live.get('a')?.text).toBe('95');
  });
  test('a sample that somebody took stays what it was when the next arrives', () => {
    live.arrive('a', plain, wire(7), {}, 10, 1);
    const first = live.get('a');
    live.arrive('a', plain, wire(0x0801), {}, 20, 1);
    live.lose('a', qualityOf('silent'), null, 30, plain);
    expect(first).toMatchObject({ n: 1, at: 10, wire: wire(7), raw: 7, text: '7', quality: { level: 'good' } });
    expect(heard[1]).toMatchObject({ n: 2, at: 20, wire: wire(0x0801), raw: 0x0801 });
    expect(live.get('a')).toMatchObject({ n: 3, wire: null, raw: null });
  });
  test('bytes that their sender uses again are not read anew', () => {
    const sent = { kind: 'bytes', bytes: Uint8Array.of(0, 7) } as const;
    live.arrive('a', plain, sent, {}, 10, 1);
    sent.bytes[1] = 9;
    live.reinterpret('a', narrow);
    expect(live.get('a')).toMatchObject({ wire: wire(7), raw: 7 });
  });
  test('the same loss is told once; another reason is news', () => {
    live.lose('a', qualityOf('silent', 'x'), null, 1, plain);
    live.lose('a', qualityOf('silent', 'x'), null, 2, plain);
    expect(heard).toHaveLength(1);
    live.lose('a', qualityOf('link-down', 'x'), null, 3, plain);
    live.lose('a', qualityOf('link-down', 'y'), null, 4, plain);
    expect(heard).toHaveLength(3);
  });
  test('a setting that changes follows the bytes that are there, and what is known of the reading stays known', () => {
    live.arrive('a', plain, wire(50), { torn: true }, 10, 1);
    live.reinterpret('a', narrow);
    expect(live.get('a')).toMatchObject({ eng: 50, at: 10, quality: { reason: 'out-of-range' } });
    live.reinterpret('a', plain, { stopped: 'its heartbeat stands still' });
    expect(live.get('a')?.quality.reason).toBe('stopped');
    live.reinterpret('a', plain, { stopped: undefined });
    expect(live.get('a')?.quality.reason).toBe('torn');
  });
  test('a tag that has no bytes is not made up from a setting', () => {
    live.reset('a', plain, 1);
    live.reinterpret('a', narrow);
    expect(heard).toHaveLength(1);
    expect(live.get('a')?.eng).toBeNull();
  });
});

describe('how many are good', () => {
  test('is right after anything that can happen to them', () => {
    const happening = fc.tuple(fc.constantFrom('a', 'b', 'c', 'd'), fc.constantFrom('good', 'uncertain', 'bad', 'removed'));
    fc.assert(
      fc.property(fc.array(happening, { maxLength: 60 }), (all) => {
        const table = new LiveTable();
        for (const [id, what] of all)
          if (what === 'good') table.arrive(id, narrow, wire(5), {}, 1, 1);
          else if (what === 'uncertain') table.arrive(id, narrow, wire(50), {}, 1, 1);
          else if (what === 'bad') table.lose(id, qualityOf('silent'), null, 1, narrow);
          else table.remove(id);
        const counted = { good: 0, uncertain: 0, bad: 0 };
        for (const id of 'abcd') {
          const sample = table.get(id);
          if (sample) counted[sample.quality.level]++;
        }
        expect(table.counts).toEqual(counted);
      }),
    );
  });
});

describe('samples kept for a check', () => {
  test('are found by their number as long as one of several checks needs them', () => {
    live.arrive('a', plain, wire(1), {}, 10, 1);
    const first = live.keep('a');
    const second = live.keep('a');
    live.arrive('a', plain, wire(2), {}, 11, 1);
    expect([live.kept('a', 1)?.text, live.kept('a', 2)?.text, live.kept('a', 3)]).toEqual(['1', '2', null]);
    first();
    expect(live.kept('a', 2)?.text).toBe('2');
    second();
    expect(live.kept('a', 2)).toBeNull();
  });
  test('are bounded', () => {
    live.keep('a');
    for (let i = 0; i < 200; i++) live.arrive('a', plain, wire(i), {}, i, 1);
    expect(live.kept('a', 1)).toBeNull();
    expect(live.kept('a', 200)?.text).toBe('199');
  });
});

describe('limits', () => {
  const limited = (delayMs: number): EffectiveSignal => {
    const bare = signal();
    return { ...bare, def: { ...bare.def, limits: { lowLow: null, low: null, high: 80, highHigh: null, hysteresis: 5, delayMs } } };
  };
  test('are told with the sample, and of a value that is lost nothing is told', () => {
    const watched = limited(0);
    const limitAt = (value: number, at: number): unknown => {
      live.arrive('a', watched, wire(value), {}, at, 1);
      return live.get('a')?.limit;
    };
    expect([limitAt(79, 10), limitAt(80, 20), limitAt(76, 30), limitAt(75, 40), limitAt(81, 50)]).toEqual([null, 'high', 'high', null, 'high']);
    live.lose('a', qualityOf('silent'), null, 60, watched);
    expect(live.get('a')?.limit).toBeNull();
    live.arrive('a', plain, wire(90), {}, 70, 1);
    expect(live.get('a')?.limit).toBeNull();
  });
  test('a delay runs out though nothing more arrives, as of a value that is observed', async () => {
    const clock = new FakeClock();
    const table = new LiveTable(clock);
    const told: (string | null)[] = [];
    table.onSample((tagId) => void told.push(table.get(tagId)?.limit ?? null));
    table.arrive('a', limited(1000), wire(90), {}, clock.now(), 1);
    await clock.pass(999);
    expect(told).toEqual([null]);
    await clock.pass(1);
    expect(told).toEqual([null, 'high']);
    table.arrive('a', limited(1000), wire(10), {}, clock.now(), 1);
    await clock.pass(5000);
    expect(told).toEqual([null, 'high', null]);
  });
});
