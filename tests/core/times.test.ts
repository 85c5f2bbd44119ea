/** Times, dates and names of values: what a person reads and writes for what the controller holds. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { followWire, parseFor, planWrite, type SignalDefinition } from '@/core/signal.ts';
import { signalDigest } from '@/core/check/digest.ts';
import { AS_IS } from '@/core/scaling/scale.ts';
import { parseDataType } from '@/core/value/dataType.ts';
import { parseTimeText, timeText } from '@/core/value/timeText.ts';
import { formatNames, parseNames } from '@/core/value/valueNames.ts';

const definition = (typeName: string, more: Partial<SignalDefinition> = {}): SignalDefinition => {
  const type = parseDataType(typeName);
  if (!type.ok) throw new Error(type.problem.message);
  const order = type.value.bytes === 8 ? 'ABCDEFGH' : type.value.bytes === 4 ? 'ABCD' : 'AB';
  return { type: type.value, order, bit: null, scale: AS_IS, unit: '', decimals: null, range: null, ...more };
};

function meaningOf(typeName: string) {
  const { type } = definition(typeName);
  if (type.kind !== 'integer' || !type.time) throw new Error(`${typeName} is no time.`);
  return type.time;
}

// The literals of IEC 61131-3, second edition, tables 7 and 8 (from memory); the counts worked out by hand.
describe('literals of the standard are read', () => {
  test.each<[string, string, bigint]>([
    ['TIME', 'T#14ms', 14n],
    ['TIME', 'T#-14ms', -14n],
    ['TIME', 'T#14.7s', 14_700n],
    ['TIME', 'T#14.7m', 882_000n],
    ['TIME', 'T#14.7h', 52_920_000n],
    ['TIME', 't#14.7d', 1_270_080_000n],
    ['TIME', 't#25h15m', 90_900_000n],
    ['TIME', 'TIME#25h_15m', 90_900_000n],
    ['LTIME', 'LTIME#5m_30s_500ms_100.1us', 330_500_100_100n],
    ['LTIME', 't#5d_14h_12m_18s_3.5ms', 483_138_003_500_000n],
    ['DATE', 'DATE#1984-06-25', 456_969_600n],
    ['DATE', 'd#1984-06-25', 456_969_600n],
    ['TIME_OF_DAY', 'TIME_OF_DAY#15:36:55.36', 56_215_360n],
    ['TIME_OF_DAY', 'tod#15:36:55.36', 56_215_360n],
    ['DATE_AND_TIME', 'DT#1984-06-25-15:36:55', 457_025_815n],
  ])('%s %s', (meaning, text, count) => {
    expect(parseTimeText(meaningOf(meaning), text)).toEqual({ ok: true, value: count });
  });
  test.each<[string, string]>([
    ['TIME', '3.5us'],
    ['TIME', '5s3m'],
    ['TIME', '1.5h30m'],
    ['TIME', 'soon'],
    ['DATE', '2026-02-30'],
    ['DATE', '2026-02-03-06:30:00'],
    ['TIME_OF_DAY', '24:00:00'],
    ['DATE_AND_TIME', '1984-06-25-15:36:55.36'],
  ])('%s %s is refused: no such time, or its count could not hold it', (meaning, text) => {
    expect(parseTimeText(meaningOf(meaning), text).ok).toBe(false);
  });
});

test.each<[string, bigint, bigint]>([
  ['TIME', -(2n ** 31n), 2n ** 31n - 1n],
  ['LTIME', -(2n ** 63n), 2n ** 63n - 1n],
  ['DATE', 0n, 2n ** 32n - 1n],
  ['TIME_OF_DAY', 0n, 86_399_999n],
  ['DATE_AND_TIME', 0n, 2n ** 32n - 1n],
])('every %s comes back from its text', (meaning, min, max) => {
  fc.assert(
    fc.property(fc.bigInt(min, max), (any) => {
      const count = meaning === 'DATE' ? any - (any % 86_400n) : any;
      expect(parseTimeText(meaningOf(meaning), timeText(meaningOf(meaning), count))).toEqual({ ok: true, value: count });
    }),
  );
});

test('the day of a date is what the platform says', () => {
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 49_000 }), (day) => {
      expect(timeText(meaningOf('DATE'), day * 86_400)).toBe(new Date(day * 86_400_000).toISOString().slice(0, 10));
    }),
  );
});

describe('a tag that is a time', () => {
  test('reads as one, from its bytes', () => {
    // 3 723 004 ms = 1 h 2 min 3 s 4 ms
    const stages = followWire(definition('TIME'), { kind: 'bytes', bytes: Uint8Array.of(0x00, 0x38, 0xce, 0xfc) });
    expect([stages.raw, stages.text, stages.quality.level]).toEqual([3_723_004, '1h2m3s4ms', 'good']);
  });
  test('is a plain number where a scale or a unit makes one of it', () => {
    const wire = { kind: 'bytes', bytes: Uint8Array.of(0, 0, 0x05, 0xdc) } as const;
    expect(followWire(definition('TIME', { unit: 'ms' }), wire).text).toBe('1500');
    expect(followWire(definition('TIME', { scale: { kind: 'power', exponent: -3 }, unit: 's' }), wire).text).toBe('1.500');
  });
  test('is written as one, and what does not fit is refused', () => {
    const wanted = parseFor(definition('TIME'), 'T#1.5s');
    expect(wanted.ok && planWrite(definition('TIME'), wanted.value)).toMatchObject({ ok: true, value: { raw: 1500, text: '1s500ms' } });
    const long = parseFor(definition('TIME'), '30d');
    expect(long.ok && planWrite(definition('TIME'), long.value).ok).toBe(false);
  });
  test('an LTIME is exact to the nanosecond', () => {
    const wanted = parseFor(definition('LTIME'), '106751d23h47m16s854ms775us807ns');
    expect(wanted.ok && planWrite(definition('LTIME'), wanted.value)).toMatchObject({ ok: true, value: { raw: 2n ** 63n - 1n } });
  });
});

describe('names of values', () => {
  const names = [
    { value: 0, name: 'off' },
    { value: 5, name: 'heating' },
  ];
  const mode = definition('INT', { names });
  test('are shown for the value, and written by; a value without one is shown as it is', () => {
    const text = (raw: number): string => followWire(mode, { kind: 'typed', value: raw }).text;
    expect([text(0), text(5), text(7)]).toEqual(['off', 'heating', '7']);
    expect(parseFor(mode, 'Heating')).toEqual({ ok: true, value: 5 });
  });
  test('belong to the signal path: another name ends a proof, having none does not change one', () => {
    const other = definition('INT', { names: [{ value: 0, name: 'on' }] });
    expect(signalDigest(['x'], mode)).not.toBe(signalDigest(['x'], other));
    expect(signalDigest(['x'], definition('INT', { names: [] }))).toBe(signalDigest(['x'], definition('INT')));
  });
  test('are read from lists in the ways they are met', () => {
    for (const text of ['0=off; 5=heating', '0:off,5:heating', '(off, heating := 5)', '[0=off|5=heating]'])
      expect(parseNames(text)).toEqual({ ok: true, value: names });
    expect(formatNames(names)).toBe('0=off; 5=heating');
  });
  test.each(['0=off; 0=on', '0=off; 1=Off', '0=', `0=${'x'.repeat(61)}`])('%s is refused', (text) => {
    expect(parseNames(text).ok).toBe(false);
  });
});
