import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import Qty from 'js-quantities';
import { along, numberAlong } from '@/core/scaling/line.ts';
import { engineeringOf, parseFor, planWrite, textOf, type SignalDefinition } from '@/core/signal.ts';
import { inOwnUnit, shownIn } from '@/core/units/shownIn.ts';
import { unitLine, unitRelation } from '@/core/units/unitLine.ts';
import { unitsLike } from '@/core/units/unitsLike.ts';
import { decimalNumber } from '@/core/value/decimal.ts';
import { parseDataType } from '@/core/value/dataType.ts';

const convert = (value: number, from: string, to: string): number => {
  const line = unitLine(from, to);
  if (!line.ok) throw new Error(line.problem.message);
  return numberAlong(line.value, value);
};

describe('a value in another unit', () => {
  // Exact by definition: the international yard and pound (1959), the US gallon of 231 in³, the bar, degrees Celsius and
  // Fahrenheit of the SI brochure (9th edition, table 8) and ISO 80000-5; psi rounded in the last place.
  test.each([
    [0, '°C', '°F', 32],
    [100, '°C', '°F', 212],
    [212, '°F', '°C', 100],
    [-40, '°F', '°C', -40],
    [0, '°C', 'K', 273.15],
    [491.67, '°F', 'K', 528.5222222222222],
    [1, 'in', 'mm', 25.4],
    [1, 'lb', 'kg', 0.45359237],
    [1, 'bar', 'kPa', 100],
    [1, 'gal', 'L', 3.785411784],
    [1, 'ft', 'm', 0.3048],
    [3.6, 'm³/h', 'l/min', 60],
    [1, 't/h', 'kg/h', 1000],
    [3000, 'rpm', 'Hz', 50],
    [1, 'kWh', 'MJ', 3.6],
    [90, 'min', 'h', 1.5],
    [0.5, '%', '‰', 5],
  ])('%d %s is %s %d', (value, from, to, is) => {
    expect(convert(value, from, to)).toBe(is);
  });
  test('psi are as exact as a double nearly is', () => {
    expect(Math.abs(convert(1, 'psi', 'kPa') - 6.894757293168361)).toBeLessThan(1e-13);
  });

  test('a difference of temperatures has no zero of its own', () => {
    expect(convert(10, 'Δ°C', 'Δ°F')).toBe(18);
    expect(convert(9, 'Δ°F', 'Δ°C')).toBe(5);
    expect(convert(10, 'Δ°C', 'K')).toBe(10);
    expect(unitLine('°C', 'Δ°F')).toMatchObject({ ok: false, problem: { code: 'unit-clash', message: expect.stringContaining('difference of temperatures') as unknown as string } });
  }); // prettier-ignore

  test('is refused where it measures something else, and where nobody knows the unit', () => {
    expect(unitLine('bar', '°C')).toMatchObject({ ok: false, problem: { code: 'unit-clash', place: 'to' } });
    expect(unitLine('bags', 'kg')).toMatchObject({ ok: false, problem: { code: 'unit-unknown', place: 'from' } });
    expect(unitLine('kg', '{bags}')).toMatchObject({ ok: false, problem: { code: 'unit-unknown', place: 'to' } });
    // A picohenry in UCUM, and nobody means one.
    expect(unitRelation('pH', 'nH')).toBe('unknown');
  });

  test('a general library of units says the same', () => {
    const pairs: readonly (readonly [ours: string, theirs: string])[][] = [
      [['bar', 'bar'], ['mbar', 'mbar'], ['kPa', 'kPa'], ['psi', 'psi'], ['MPa', 'MPa']],
      [['m³/h', 'm^3/h'], ['l/min', 'l/min'], ['gal/min', 'gal/min'], ['ft³/min', 'ft^3/min']],
      [['mm', 'mm'], ['in', 'in'], ['ft', 'ft'], ['m', 'm']],
      [['kg/h', 'kg/h'], ['lb/h', 'lb/h'], ['t/h', 'tonne/h']],
      [['kW', 'kW'], ['W', 'W']],
    ]; // prettier-ignore
    for (const same of pairs)
      for (const [from, theirFrom] of same)
        for (const [to, theirTo] of same) {
          const [ours, theirs] = [convert(7.25, from, to), Qty(7.25, theirFrom).to(theirTo).scalar];
          expect(Math.abs(ours / theirs - 1)).toBeLessThan(1e-6);
        }
    for (const celsius of [-40, 0, 37.5, 850]) expect(convert(celsius, '°C', '°F')).toBeCloseTo(Qty(celsius, 'tempC').to('tempF').scalar, 9);
  });

  test('leads back to the very number, whatever it is: lines are exact', () => {
    const units = [['°C', '°F', 'K'], ['bar', 'psi', 'kPa', 'mmHg'], ['m³/h', 'l/s', 'gal/min'], ['mm', 'in', 'ft'], ['s', 'min', 'h', 'd']]; // prettier-ignore
    fc.assert(
      fc.property(fc.constantFrom(...units), fc.nat(9), fc.nat(9), fc.integer({ min: -1e9, max: 1e9 }), fc.integer({ min: 0, max: 4 }), (same, a, b, digits, places) => {
        const [from = '', to = ''] = [same[a % same.length], same[b % same.length]];
        const [there, back] = [unitLine(from, to), unitLine(to, from)];
        if (!there.ok || !back.ok) throw new Error(`${from} ${to}`);
        const value = { digits: BigInt(digits), exponent: places === 0 ? 0 : -places };
        const exact = along(there.value, value);
        // A third has no end as a decimal: there the nearest double has to lead back.
        const again = numberAlong(back.value, exact ?? numberAlong(there.value, value));
        expect(Math.abs(again - decimalNumber(value))).toBeLessThanOrEqual(exact ? 0 : Math.abs(decimalNumber(value)) * 1e-14 + 1e-12);
      }),
    ); // prettier-ignore
  });

  test('units of the same kind are offered, and none of another', () => {
    expect(unitsLike('°C')).toEqual(['°F', 'K']);
    expect(unitsLike('Δ°C')).toEqual(['Δ°F']);
    expect(unitsLike('bar')).toEqual(expect.arrayContaining(['psi', 'mbar', 'kPa']));
    expect(unitsLike('bags')).toEqual([]);
  });
});

describe('a tag shown in another unit', () => {
  const type = parseDataType('INT');
  if (!type.ok) throw new Error('INT');
  const celsius: SignalDefinition = {
    type: type.value,
    order: 'AB',
    bit: null,
    scale: { kind: 'power', exponent: -1 },
    unit: '°C',
    decimals: 1,
    range: { low: 0, high: 200 },
    display: { low: 20, high: 150 },
    limits: { lowLow: null, low: 10, high: 100, highHigh: 150, hysteresis: 5, delayMs: 1000 },
  };
  const shown = (unit: string): SignalDefinition => {
    const made = shownIn(celsius, unit);
    if (!made.ok) throw new Error(made.problem.message);
    return made.value;
  };

  test('takes its ranges and limits along, and its hysteresis as a difference', () => {
    expect(shown('°F')).toMatchObject({
      unit: '°F',
      decimals: 1,
      range: { low: 32, high: 392 },
      display: { low: 68, high: 302 },
      limits: { lowLow: null, low: 50, high: 212, highHigh: 302, hysteresis: 9, delayMs: 1000 },
    });
    expect(shown('°F')).toBe(shown('°F'));
  });
  test('shows about as fine a step as before', () => {
    const bar = { ...celsius, unit: 'bar', decimals: 2 };
    const decimals = (unit: string): number | null => {
      const made = shownIn(bar, unit);
      return made.ok ? made.value.decimals : null;
    };
    expect([decimals('mbar'), decimals('kPa'), decimals('psi'), decimals('MPa')]).toEqual([0, 0, 1, 3]);
  });
  test('what is read, entered again, is the same raw value: all 65 536 of them, in °F at one place', () => {
    const fahrenheit = { ...shown('°F'), range: null };
    for (let raw = -32_768; raw <= 32_767; raw++) {
      const text = textOf(fahrenheit, engineeringOf(fahrenheit, raw));
      const entered = parseFor(fahrenheit, text);
      const plan = entered.ok ? planWrite(fahrenheit, entered.value) : entered;
      if (!plan.ok || plan.value.raw !== raw) throw new Error(`${raw} is shown as ${text}, and that leads to ${plan.ok ? String(plan.value.raw) : plan.problem.message}`);
    }
  }); // prettier-ignore
  test('an entry is converted for the log, and refused outside the range in the unit that is shown', () => {
    expect(inOwnUnit(celsius, '°F', 212)).toEqual({ ok: true, value: 100 });
    expect(planWrite(shown('°F'), 400)).toMatchObject({ ok: false, problem: { code: 'out-of-range', message: expect.stringContaining('32 to 392 °F') as unknown as string } });
    expect(shownIn(celsius, 'bar')).toMatchObject({ ok: false });
  }); // prettier-ignore
  test('a text has no unit, and stays', () => {
    const named = { ...celsius, names: [{ value: 0, name: 'off' }] };
    expect(shownIn(named, '°F')).toEqual({ ok: true, value: named });
  });
});
