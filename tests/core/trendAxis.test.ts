/** The axis of a trend is read: its numbers are round, different, and between them lies what is drawn. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { trendAxis } from '@/core/panel/trendAxis.ts';

describe('the axis of a trend', () => {
  test('what stands still lies in the middle, however its last digits tremble', () => {
    const { low, high, ticks, text } = trendAxis([12.499999, 12.5, 12.500001], null, 3);
    expect(low).toBeLessThan(12.4);
    expect(high).toBeGreaterThan(12.6);
    expect(ticks.map(text)).toEqual(['12', '13']);
  });
  test('chosen ends are its ends', () => expect(trendAxis([5], { low: 0, high: 30 }, 3)).toMatchObject({ low: 0, high: 30, ticks: [0, 10, 20, 30] }));
  test('without a value it is there', () => expect(trendAxis([null, null], null, 2)).toMatchObject({ low: 0, high: 1 }));

  test('of any values: ticks are told apart by their texts, and all values lie between the ends', () => {
    const number = fc.double({ min: -1e12, max: 1e12, noNaN: true });
    fc.assert(
      fc.property(fc.array(number, { minLength: 1, maxLength: 20 }), fc.integer({ min: 2, max: 8 }), (numbers, most) => {
        const { low, high, ticks, text } = trendAxis(numbers, null, most);
        expect(low).toBeLessThanOrEqual(Math.min(...numbers));
        expect(high).toBeGreaterThanOrEqual(Math.max(...numbers));
        expect(ticks.length).toBeGreaterThan(0);
        expect(ticks.length).toBeLessThanOrEqual(most + 1);
        const texts = ticks.map(text);
        expect(new Set(texts).size).toBe(texts.length);
        for (const [i, tick] of ticks.entries()) expect(Math.abs(Number(texts[i]) - tick)).toBeLessThanOrEqual((high - low) * 1e-3);
      }),
    );
  });
});
