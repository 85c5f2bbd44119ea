/** Gain and offset from readings, against a statistics library of the registry. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { linearRegression } from 'simple-statistics';
import { fitLine } from '@/core/scaling/fit.ts';

const readings = (...pairs: readonly (readonly [number, number])[]) => pairs.map(([raw, seen]) => ({ raw, seen }));

describe('a line through readings', () => {
  test('two readings give the line through them', () => {
    expect(fitLine(readings([0, 0], [27_648, 150]))).toMatchObject({ ok: true, value: { gain: 0.00542534722222, offset: 0, outlier: null } });
    expect(fitLine(readings([819, 0], [4095, 100]))).toMatchObject({ ok: true, value: { offset: -25 } });
  });

  test('more give that of least squares', () => {
    const pair = fc.tuple(fc.integer({ min: -32_768, max: 32_767 }), fc.double({ min: -1000, max: 1000, noNaN: true }));
    fc.assert(
      fc.property(fc.array(pair, { minLength: 2, maxLength: 20 }), (pairs) => {
        fc.pre(new Set(pairs.map(([raw]) => raw)).size > 1);
        const fit = fitLine(readings(...pairs));
        if (!fit.ok) return;
        const { m, b } = linearRegression(pairs.map(([raw, seen]) => [raw, seen]));
        const scale = Math.max(...pairs.map(([, seen]) => Math.abs(seen)), 1);
        for (const [raw] of pairs) expect(Math.abs(fit.value.gain * raw + fit.value.offset - (m * raw + b))).toBeLessThan(scale * 1e-6);
        expect(Math.abs(fit.value.residuals.reduce((sum, r) => sum + r, 0))).toBeLessThan(scale * 1e-5);
      }),
      { numRuns: 300, seed: 21 },
    );
  });

  test('the reading that does not fit is named, and none where all are as far off', () => {
    const fit = fitLine(readings([0, 0.1], [1000, 10], [2000, 19.9], [3000, 37], [4000, 40.1]));
    expect(fit).toMatchObject({ ok: true, value: { outlier: 3 } });
    expect(fitLine(readings([0, 0.1], [1000, 9.8], [2000, 20.2], [3000, 29.9], [4000, 40.1]))).toMatchObject({ ok: true, value: { outlier: null } });
  });

  test.each([
    ['Two readings are needed', readings([1, 2])],
    ['the same raw value', readings([5, 1], [5, 2])],
    ['did not change', readings([1, 4], [2, 4])],
  ])('refused: %s', (message, pairs) => {
    const fit = fitLine(pairs);
    expect(fit.ok ? '' : fit.problem.message).toContain(message);
  });
});
