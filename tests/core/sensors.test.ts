/** Thermocouples and platinum resistances against published tables, and their inverses. */
import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { describe, expect, test } from '@jest/globals';
import { celsiusOfOhms, ohms, PLATINUM_RANGE } from '@/core/scaling/sensors/platinum.ts';
import { celsiusOf, millivolts, thermocoupleRange, THERMOCOUPLES } from '@/core/scaling/sensors/thermocouple.ts';
import type { ThermocoupleType } from '@/core/scaling/sensors/thermocoupleData.ts';

const required = createRequire(import.meta.url);

/** The NIST ITS-90 tables, one degree a value, as a library of the registry ships them: a row of ten values, and the next one's first. */
function published(): readonly (readonly [type: ThermocoupleType, celsius: number, millivolts: number])[] {
  const path = required.resolve('thermocouple-converter').replace(/[^/]+$/, 'reference/all.tab');
  const values: [ThermocoupleType, number, number][] = [];
  let type: ThermocoupleType = 'B';
  for (const line of readFileSync(path, 'latin1').split('\n')) {
    const title = /Table for type (\w) thermocouple/.exec(line)?.[1];
    if (title) type = title as ThermocoupleType;
    const match = /^\s*(-?\d+)((?:\s+-?\d+\.\d{3})+)\s*$/.exec(line);
    if (!match) continue;
    const row = Number(match[1]);
    const cells = (match[2] ?? '').trim().split(/\s+/).map(Number);
    // Below zero degrees count down from the first cell of the row.
    const isBelow = row < 0 || (row === 0 && (cells[1] ?? 0) < (cells[0] ?? 0) && type !== 'B');
    cells.forEach((mv, i) => values.push([type, isBelow ? row - i : row + i, mv]));
  }
  return values;
}

describe('thermocouples (IEC 60584-1, ITS-90)', () => {
  test('give the voltages of the published tables at every degree, to their last digit', () => {
    const table = published();
    expect(table.length).toBeGreaterThan(9000);
    expect(new Set(table.map(([type]) => type)).size).toBe(8);
    const off = table.filter(([type, celsius, mv]) => {
      const { from, to } = thermocoupleRange(type);
      return celsius >= from && celsius <= to && !(Math.abs(millivolts(type, celsius) - mv) <= 0.000_501);
    });
    expect(off).toEqual([]);
  });

  test.each([
    ['K', -200, -5.891],
    ['K', 1000, 41.276],
    ['J', 500, 27.393],
    ['T', -200, -5.603],
    ['T', 400, 20.872],
    ['E', 1000, 76.373],
    ['N', 1000, 36.256],
    ['S', 1000, 9.587],
    ['R', 1000, 10.506],
    ['B', 1000, 4.834],
  ] as const)('type %s at %d °C: %d mV (IEC 60584-1)', (type, celsius, mv) => {
    expect(Math.abs(millivolts(type, celsius) - mv)).toBeLessThan(0.0005);
  });

  test('come back to the temperature over the whole range, closer than a thousandth of a degree', () => {
    let worst = 0;
    for (const type of THERMOCOUPLES) {
      const { from, to } = thermocoupleRange(type);
      // Type B has two temperatures for one voltage below about 42 °C; the warmer one is given.
      for (let celsius = type === 'B' ? 21.1 : from; celsius <= to; celsius += 0.37)
        worst = Math.max(worst, Math.abs(celsiusOf(type, millivolts(type, celsius)) - celsius));
    }
    expect(worst).toBeLessThan(0.001);
  });

  test('of type B give the warmer one of two temperatures, and none for a voltage that it never has', () => {
    expect(celsiusOf('B', millivolts('B', 10))).toBeGreaterThan(21);
    expect(millivolts('B', celsiusOf('B', millivolts('B', 10)))).toBeCloseTo(millivolts('B', 10), 9);
    expect(celsiusOf('B', -0.01)).toBeNaN();
    expect([celsiusOf('K', 60), celsiusOf('K', -7), millivolts('K', 1373), millivolts('J', -211), celsiusOf('K', NaN)]).toEqual([
      NaN,
      NaN,
      NaN,
      NaN,
      NaN,
    ]);
  });

  test('agree with a library of the registry', () => {
    const other = required('thermocouple-converter') as { convert(value: number, how: { type: string; input: string }): number };
    for (const [type, mv] of [
      ['k', 4],
      ['j', 12.5],
      ['t', 3.2],
      ['n', 20],
      ['s', 8],
      ['r', 9],
      ['e', 40],
    ] as const)
      // prettier-ignore
      // Its approximate inverses are within some hundredths (NIST).
      expect(Math.abs(celsiusOf(type.toUpperCase() as ThermocoupleType, mv) - other.convert(mv, { type, input: 'mv' }))).toBeLessThan(0.06);
  });
});

describe('platinum (IEC 60751)', () => {
  test.each([
    [-200, 18.5201],
    [-100, 60.2558],
    [-40, 84.2707],
    [0, 100],
    [50, 119.3971],
    [100, 138.5055],
    [200, 175.856],
    [400, 247.092],
    [600, 313.708],
    [850, 390.4811],
  ])('Pt100 at %d °C: %d Ω', (celsius, r) => {
    expect(Math.abs(ohms(100, celsius) - r)).toBeLessThan(0.0001);
    expect(Math.abs(ohms(500, celsius) - 5 * r)).toBeLessThan(0.0005);
    expect(Math.abs(ohms(1000, celsius) - 10 * r)).toBeLessThan(0.001);
  });

  test('comes back to the temperature, closer than a millionth of a degree, and is none outside', () => {
    let worst = 0;
    for (let celsius: number = PLATINUM_RANGE.from; celsius <= PLATINUM_RANGE.to; celsius += 0.13)
      for (const r0 of [100, 500, 1000]) worst = Math.max(worst, Math.abs(celsiusOfOhms(r0, ohms(r0, celsius)) - celsius));
    expect(worst).toBeLessThan(1e-6);
    expect([celsiusOfOhms(100, 18), celsiusOfOhms(100, 391), ohms(100, 851), ohms(100, -201)]).toEqual([NaN, NaN, NaN, NaN]);
  });
});
