/** Lists that count from another number than their device are noticed, and others are left alone. */
import { describe, expect, test } from '@jest/globals';
import { believable, countingSample, countingSign, countingSignInWords, signOfValues, type CountedPlace } from '@/core/taglist/countingSigns.ts';
import { AS_IS } from '@/core/scaling/scale.ts';
import type { SignalDefinition } from '@/core/signal.ts';
import { formatArea, parseAddress, type CountingBase } from '@/core/modbus/address.ts';
import { parseDataType } from '@/core/value/dataType.ts';

/** As a device with this base reads it. */
const placed = (base: CountingBase, type: string, ...addresses: readonly string[]): readonly CountedPlace[] =>
  addresses.map((address) => {
    const read = parseAddress(address, base);
    if (!read.ok) throw new Error(address);
    return { address, canonical: formatArea(read.value), type };
  });

describe('that a list counts otherwise than its device is shown', () => {
  test('by an address before the first', () => {
    expect(countingSign(['40000', 'x'], [], [], 1)).toMatchObject({ kind: 'before-first', countsFrom: 0, address: '40000' });
    expect(countingSign(['40000'], [], [], 0)).toBeNull();
  });
  // Even starts of values of two registers: common practice.
  test('by values of two registers that would all begin at odd ones, whichever counts from 0', () => {
    expect(countingSign([], placed(1, 'REAL', '40002', '40004', '40010', '40020'), [], 1)).toMatchObject({
      kind: 'odd-pairs',
      countsFrom: 0,
      count: 4,
    });
    expect(countingSign([], placed(0, 'DINT', '40001', '40003', '40011', '40021'), [], 0)).toMatchObject({ kind: 'odd-pairs', countsFrom: 1 });
  });
  test('but not by few of them, by one at an even register, by single registers or by addresses that count nothing', () => {
    expect(countingSign([], placed(1, 'REAL', '40002', '40004', '40010'), [], 1)).toBeNull();
    expect(countingSign([], placed(1, 'REAL', '40002', '40004', '40010', '40020', '40031'), [], 1)).toBeNull();
    expect(countingSign([], placed(1, 'INT', '40002', '40004', '40010', '40020'), [], 1)).toBeNull();
    expect(countingSign([], placed(1, 'REAL', 'HR1', 'HR3', 'HR9', 'HR19'), [], 1)).toBeNull();
  });
  test('by a neighbour that is overlapped by half, which it would meet exactly or clear one register further', () => {
    const bed = { name: 'bed', canonical: 'HR17', type: 'REAL' };
    expect(countingSign([], placed(1, 'REAL', '40017'), [bed], 1)).toMatchObject({
      kind: 'neighbour',
      countsFrom: 0,
      address: '40017',
      neighbour: 'bed',
    });
    expect(countingSign([], placed(1, 'REAL', '40018'), [bed], 1)).toBeNull();
    // A neighbour that fits now and would be overlapped then speaks against it.
    expect(countingSign([], placed(1, 'REAL', '40017', '40031'), [bed, { name: 'draft', canonical: 'HR32', type: 'REAL' }], 1)).toBeNull();
  });
  test('in words that name the address and the number', () => {
    const sign = countingSign(['40000'], [], [], 1);
    expect(sign && countingSignInWords(sign)).toBe('40000 lies before the first holding register unless the list counts from 0');
  });
});

describe('values of the device', () => {
  const type = parseDataType('REAL');
  const def = (range: SignalDefinition['range'] = null): SignalDefinition => {
    if (!type.ok) throw new Error('REAL');
    return { type: type.value, order: 'ABCD', bit: null, scale: AS_IS, unit: '', decimals: null, range };
  };
  const real = (value: number) => {
    const bytes = new Uint8Array(4);
    new DataView(bytes.buffer).setFloat32(0, value);
    return { kind: 'bytes' as const, bytes };
  };
  test('make sense as a quantity, or in their range; zero says nothing, a refusal says no', () => {
    expect([850.5, -3, 0, 1e-38, 1e20, Number.NaN].map((value) => believable(def(), real(value)))).toEqual([
      'yes',
      'yes',
      'nothing',
      'no',
      'no',
      'no',
    ]);
    expect([20, 500].map((value) => believable(def({ low: 0, high: 100 }), real(value)))).toEqual(['yes', 'no']);
    expect(believable(def(), null)).toBe('no');
  });
  const sample = { address: '40018', countsFrom: 0 as const, here: 'HR17', there: 'HR18' };
  const [shifted, right, both] = [
    { ...sample, atHere: 'no', atThere: 'yes' },
    { ...sample, atHere: 'yes', atThere: 'no' },
    { ...sample, atHere: 'yes', atThere: 'yes' },
  ] as const;
  test('speak when two of them make sense beside their place alone, and none at it alone', () => {
    expect(signOfValues([shifted, shifted, both])).toMatchObject({ kind: 'values', countsFrom: 0, count: 2 });
    expect(signOfValues([shifted, both])).toBeNull();
    expect(signOfValues([shifted, shifted, right])).toBeNull();
  });
  test('are asked for where they can tell: reals and ranged numbers at counted addresses, not before the first', () => {
    const place = (address: string, canonical: string, kind = 'REAL'): CountedPlace => ({ address, canonical, type: kind });
    const [nothing, order, range] = [
      { range: false, order: false },
      { range: false, order: true },
      { range: true, order: false },
    ];
    expect(countingSample(place('40018', 'HR17'), order, 1)).toEqual(sample);
    // Words swapped look like words one register beside: an order that is not named tells nothing.
    expect(countingSample(place('40018', 'HR17'), nothing, 1)).toBeNull();
    expect(countingSample(place('40018', 'HR17', 'DINT'), range, 1)).toBeNull();
    expect(countingSample(place('40018', 'HR17', 'INT'), nothing, 1)).toBeNull();
    expect(countingSample(place('40018', 'HR17', 'INT'), range, 1)).toMatchObject({ there: 'HR18' });
    expect(countingSample(place('HR17', 'HR17'), order, 1)).toBeNull();
    expect(countingSample(place('40000', 'HR0'), order, 0)).toBeNull();
    expect(countingSample(place('100', 'HR100'), order, 1)).toMatchObject({ countsFrom: 1, there: 'HR99' });
  });
});
