/** What is remembered of a watched tag. */
import { expect, test } from '@jest/globals';
import { afterSample, NOTHING_WATCHED, ratePerSecond, type Watched } from '@/core/check/watch/watched.ts';

const seen = (...values: readonly (number | null)[]): Watched =>
  values.reduce<Watched>((known, number, i) => afterSample(known, (i + 1) * 1000, number, String(number), 60_000), NOTHING_WATCHED);

test('how far it went is of its values alone, not of the time without one', () => {
  expect(seen(5, null, 3, 9)).toMatchObject({ low: 3, high: 9 });
  expect(seen(null, null)).toMatchObject({ low: null, high: null });
});

test('it changed when its text became another one, not when it was first seen or read again', () => {
  expect(seen(5).changedAt).toBeNull();
  expect(seen(5, 5, 6, 6).changedAt).toBe(3000);
  const once = seen(5, 6);
  expect(afterSample(once, 2000, 99, '99', 60_000)).toBe(once);
});

test('the rate is that of the last seconds: of a ramp its slope, of a step long ago nothing', () => {
  expect(ratePerSecond(seen(1, 1.5, 2, 2.5, 3))).toBeCloseTo(0.5, 9);
  expect(ratePerSecond(seen(...[0, 100], ...Array.from({ length: 12 }, () => 100)))).toBeCloseTo(0, 9);
  expect(ratePerSecond(seen(1, 2))).toBeNull();
});

test('only its last minutes are kept', () => {
  let known = NOTHING_WATCHED;
  for (let i = 1; i <= 200; i++) known = afterSample(known, i * 1000, i, String(i), 60_000);
  expect([known.points.length, known.points[0]?.at]).toEqual([60, 141_000]);
  expect([known.low, known.high]).toEqual([1, 200]);
});
