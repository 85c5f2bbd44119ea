/** Numbers made without texts are those that reading their texts would give (ECMAScript 21.1.3.5 toPrecision as the reference). */
import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { decimalNumber } from '@/core/value/decimal.ts';
import { shortestSingle } from '@/core/value/engineering.ts';

/** The fewest digits from six on whose text names the single. */
function byText(value: number): number {
  for (const digits of [6, 7, 8]) {
    const read = Number(value.toPrecision(digits));
    if (Math.fround(read) === Math.fround(value)) return read;
  }
  return Number(value.toPrecision(9));
}

test('the shortest number of a single is the one that its shortest text names', () => {
  const bits = new DataView(new ArrayBuffer(4));
  const any = fc.nat(0xffff_ffff).map((pattern) => {
    bits.setUint32(0, pattern);
    return bits.getFloat32(0);
  });
  const usual = fc.tuple(fc.integer({ min: -9_999_999, max: 9_999_999 }), fc.integer({ min: 0, max: 9 })).map(([n, e]) => Math.fround(n / 10 ** e));
  const single = fc.oneof(any, usual).filter((value) => Number.isFinite(value) && !(Number.isInteger(value) && Math.abs(value) < 2 ** 24));
  fc.assert(
    fc.property(single, (value) => shortestSingle(value) === byText(value)),
    { numRuns: 20_000 },
  );
  // Halfway between two texts of eight digits: both signs go away from zero.
  expect([shortestSingle(-2755077.75), shortestSingle(2755077.75), shortestSingle(-46253.9375)]).toEqual([-2755077.8, 2755077.8, -46253.938]);
});

test('a decimal as a double is the double that its text names', () => {
  fc.assert(
    fc.property(fc.bigInt({ min: -(2n ** 70n), max: 2n ** 70n }), fc.integer({ min: -30, max: 30 }), (digits, exponent) => {
      expect(decimalNumber({ digits, exponent })).toBe(Number(`${digits}e${exponent}`));
    }),
    { numRuns: 5_000 },
  );
});
