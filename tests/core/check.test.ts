import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { signalDigest } from '@/core/check/digest.ts';
import { suspicionsOf } from '@/core/check/suspicion.ts';
import { compareSeen, compareTold, resolutionOf, same, saysTooLittle, typedStep } from '@/core/check/verdict.ts';
import { AS_IS } from '@/core/scaling/scale.ts';
import { followWire, planWrite, type SignalDefinition, type WireValue } from '@/core/signal.ts';
import type { EngValue } from '@/core/value/engineering.ts';
import { parseDataType } from '@/core/value/dataType.ts';

function def(type: string, over: Partial<SignalDefinition> = {}): SignalDefinition {
  const parsed = parseDataType(type);
  if (!parsed.ok) throw new Error(parsed.problem.message);
  return { type: parsed.value, order: 'AB', bit: null, scale: AS_IS, unit: '', decimals: 1, range: null, ...over };
}

const bytes = (text: string): WireValue => ({ kind: 'bytes', bytes: Uint8Array.from(Buffer.from(text.replaceAll(' ', ''), 'hex')) });

describe('a witness who told values around the reading', () => {
  const scaled = def('INT', { scale: { kind: 'linear', rawA: 0, engA: 0, rawB: 27648, engB: 150 }, unit: '°C' });
  const agrees = (d: SignalDefinition, told: readonly [EngValue, EngValue], reading: EngValue): boolean => compareTold(d, told, reading).agrees;
  test('agrees within the step of one raw count', () => {
    expect(resolutionOf(scaled, 61)).toBeCloseTo(150 / 27648, 12);
    expect(agrees(scaled, [61, 61], 61.004)).toBe(true);
    expect(agrees(scaled, [61, 61], 61.012)).toBe(false);
  });
  test('agrees with a moving value only between what it told before and after', () => {
    expect(agrees(scaled, [60, 62], 61.1)).toBe(true);
    expect(agrees(scaled, [62, 60], 61.1)).toBe(true);
    expect(agrees(scaled, [60, 62], 62.1)).toBe(false);
  });
  test('a wrong order whose value jumps about is never taken for a moving value', () => {
    const real = def('REAL', { order: 'ABCD' });
    fc.assert(
      fc.property(fc.float({ min: 40, max: 140, noNaN: true }), fc.float({ min: -1, max: 1, noNaN: true }), (value, move) => {
        const wire = planWrite({ ...real, order: 'CDAB' }, value);
        const read = wire.ok ? followWire(real, { kind: 'bytes', bytes: wire.value.bytes }).eng : null;
        if (read === null || same(read, value)) return;
        expect(agrees(real, [value - Math.abs(move) / 100, value + Math.abs(move) / 100], read)).toBe(Math.abs(Number(read) - value) < 0.02);
      }),
    );
  });
  test('a 64-bit count must be equal to the last digit', () => {
    const count = def('ULINT', { order: 'ABCDEFGH', decimals: null });
    expect(agrees(count, [9007199254740993n, 9007199254740993n], 9007199254740993n)).toBe(true);
    expect(agrees(count, [9007199254740993n, 9007199254740993n], 9007199254740992n)).toBe(false);
    expect(agrees(count, [9007199254740993n, 9007199254740999n], 9007199254740996n)).toBe(true);
    const duration = def('LINT', { order: 'ABCDEFGH', decimals: null, scale: { kind: 'power', exponent: -9 } });
    const seconds = (digits: bigint): EngValue => ({ digits, exponent: -9 });
    expect(agrees(duration, [seconds(86400000000001n), seconds(86400000000001n)], seconds(86400000000001n))).toBe(true);
    expect(agrees(duration, [seconds(86400000000001n), seconds(86400000000001n)], seconds(86400000000002n))).toBe(false);
  });
  test('a process value told in parts of a count agrees with the count it was rounded or cut to, and no other', () => {
    const speed = def('UINT', { decimals: null });
    expect(agrees(speed, [1406.31, 1406.31], 1406)).toBe(true);
    expect(agrees(speed, [1406.99, 1406.99], 1406)).toBe(true);
    expect(agrees(speed, [1407.2, 1407.2], 1406)).toBe(false);
    expect(agrees(speed, [1407, 1407], 1406)).toBe(false);
  });
  test('states and texts must be the same', () => {
    expect(agrees(def('BOOL'), [true, true], true)).toBe(true);
    expect(agrees(def('BOOL'), [false, false], true)).toBe(false);
    expect(agrees(def('STRING(4)'), ['oat', 'oat'], 'oats')).toBe(false);
  });
});

describe('a person who read a number', () => {
  const real = def('REAL', { unit: '°C' });
  const agrees = (before: number, after: number, seen: string): boolean => compareSeen(real, before, after, Number(seen), typedStep(seen)).agrees;
  test('has seen half of its last place to either side', () => {
    expect([typedStep('104.60'), typedStep('104.6'), typedStep('104'), typedStep('oats')]).toEqual([0.005, 0.05, 0, 0]);
    expect([agrees(61.04, 61.04, '61.0'), agrees(61.06, 61.06, '61.0')]).toEqual([true, false]);
  });
  test('agrees between two readings that lie near each other, not between two that lie anywhere', () => {
    expect(agrees(60, 62, '61.1')).toBe(true);
    expect(agrees(-4e20, 139734096, '98.7')).toBe(false);
    expect(agrees(20, 500, '98.7')).toBe(false);
  });
});

describe('a value that proves too little', () => {
  test('zero, since memory that nobody uses holds it too', () => {
    expect(saysTooLittle(def('INT'), bytes('0000'))).toContain('nobody uses');
    expect(saysTooLittle(def('REAL', { order: 'ABCD' }), bytes('0000 0000'))).toContain('proves nothing');
  });
  test('bytes that look the same in another order', () => {
    expect(saysTooLittle(def('UDINT', { order: 'ABCD' }), bytes('0001 0001'))).toContain('words swapped');
    expect(saysTooLittle(def('UDINT', { order: 'ABCD' }), bytes('0001 0002'))).toBeNull();
    expect(saysTooLittle(def('INT'), bytes('0101'))).toContain('bytes swapped');
  });
  test('a typed value has no order to prove and no memory to be empty: only zero says nothing about a factor', () => {
    const tenths = { kind: 'power', exponent: -1 } as const;
    const typed = (value: number | bigint): WireValue => ({ kind: 'typed', value });
    for (const type of ['INT', 'UDINT', 'REAL', 'LREAL']) {
      expect(saysTooLittle(def(type), typed(982))).toBeNull();
      expect(saysTooLittle(def(type), typed(0))).toBeNull();
      expect(saysTooLittle(def(type, { scale: tenths }), typed(982))).toBeNull();
      expect(saysTooLittle(def(type, { scale: tenths }), typed(0))).toContain('the scale is not proven');
    }
    expect(saysTooLittle(def('LINT'), typed(9007199254740993n))).toBeNull();
    expect(saysTooLittle(def('REAL'), { kind: 'text', text: '98.2' })).toBeNull();
  });
  test('one bit has no order', () => {
    expect(saysTooLittle(def('BOOL'), bytes('00'))).toBeNull();
  });
});

describe('the suspected cause of a value that nobody expects', () => {
  test('swapped words are found from the expected range', () => {
    const right = def('REAL', { order: 'CDAB', unit: '°C' });
    const wire = planWrite(right, 98.2);
    if (!wire.ok) throw new Error();
    const [found] = suspicionsOf({ ...right, order: 'ABCD' }, { kind: 'bytes', bytes: wire.value.bytes }, { low: 40, high: 140 });
    expect(found).toMatchObject({ mistake: { kind: 'order' }, way: { def: { order: 'CDAB' } }, sentence: 'words swapped (CDAB) would give 98.2 °C' });
  });
  test('a scale off by ten is found, and a right value has no cause', () => {
    const wire = { kind: 'bytes', bytes: Uint8Array.of(0x03, 0xd6) } as const;
    expect(suspicionsOf(def('INT'), wire, { low: 40, high: 140 }).map(({ mistake }) => mistake.words)).toEqual(['a scale 10 times smaller']);
    expect(suspicionsOf(def('INT'), wire, { low: 900, high: 1000 })).toEqual([]);
  });
  test('a sign read wrongly is found', () => {
    const [found] = suspicionsOf(def('UINT'), { kind: 'bytes', bytes: Uint8Array.of(0xff, 0xec) }, { low: -40, high: 40 });
    expect(found).toMatchObject({ mistake: { kind: 'type', words: 'read as INT, with a sign' } });
    expect(found?.sentence).toContain('would give -20.0');
  });
});

describe('the digest of a signal path', () => {
  const base = def('REAL', { order: 'ABCD', unit: '°C' });
  test('changes with everything that can change the number, and with nothing else', () => {
    const digest = signalDigest(['127.0.0.1:502', '1', 'HR17'], base);
    const others = [
      signalDigest(['127.0.0.1:502', '2', 'HR17'], base),
      signalDigest(['127.0.0.1:502', '1', 'HR18'], base),
      signalDigest(['127.0.0.1:502', '1', 'HR17'], { ...base, order: 'CDAB' }),
      signalDigest(['127.0.0.1:502', '1', 'HR17'], { ...base, unit: '°F' }),
      signalDigest(['127.0.0.1:502', '1', 'HR17'], { ...base, decimals: 2 }),
      signalDigest(['127.0.0.1:502', '1', 'HR17'], { ...base, scale: { kind: 'power', exponent: -1 } }),
    ];
    expect(new Set([digest, ...others]).size).toBe(7);
    expect(digest).toMatch(/^[0-9a-f]{64}$/);
    expect(signalDigest(['127.0.0.1:502', '1', 'HR17'], { ...base, range: { low: 0, high: 1 } })).toBe(digest);
  });
});
