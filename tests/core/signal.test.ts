import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { AS_IS, checkScale, toEngineering, toRaw, type Scale } from '@/core/scaling/scale.ts';
import { followWire, NO_VALUE_TEXT, parseInput, planWrite, type SignalDefinition } from '@/core/signal.ts';
import { ORDERS, fromWireOrder, parseOrder, toWireOrder } from '@/core/value/byteOrder.ts';
import { formatDataType, parseDataType, type DataType } from '@/core/value/dataType.ts';
import { decimalFixed, decimalText, parseDecimal } from '@/core/value/decimal.ts';
import { asNumber, formatValue, fromJson, toJson } from '@/core/value/engineering.ts';
import { statusName } from '@/core/value/quality.ts';

function typeOf(name: string): DataType {
  const parsed = parseDataType(name);
  if (!parsed.ok) throw new Error(parsed.problem.message);
  return parsed.value;
}
function def(type: string, over: Partial<SignalDefinition> = {}): SignalDefinition {
  return { type: typeOf(type), order: 'AB', bit: null, scale: AS_IS, unit: '', decimals: null, range: null, ...over };
}
function hex(text: string): { kind: 'bytes'; bytes: Uint8Array } {
  return { kind: 'bytes', bytes: Uint8Array.from(Buffer.from(text.replaceAll(' ', ''), 'hex')) };
}
const linear = (rawA: number, engA: number, rawB: number, engB: number): Scale => ({ kind: 'linear', rawA, engA, rawB, engB });

describe('numbers in registers', () => {
  // IEEE 754 single precision; both words' orders: common practice.
  test.each([
    ['3F80 0000', 'ABCD', 1],
    ['47F1 2000', 'ABCD', 123456],
    ['2000 47F1', 'CDAB', 123456],
    ['F147 0020', 'BADC', 123456],
    ['0020 F147', 'DCBA', 123456],
  ])('%s in order %s is %d', (wire, order, value) => {
    expect(followWire(def('REAL', { order }), hex(wire)).raw).toBe(value);
  });

  test('a real that is no number is bad, and never shown as one', () => {
    for (const wire of ['7FC0 0000', '7F80 0000', 'FF80 0000']) {
      const stages = followWire(def('REAL', { order: 'ABCD' }), hex(wire));
      expect(statusName(stages.quality)).toBe('Bad_DataEncodingInvalid');
      expect(stages.text).toBe(NO_VALUE_TEXT);
      expect(stages.eng).toBeNull();
    }
  });

  // The sixteen masks of a word: common practice.
  test('each bit of a register has its mask, bit 0 the least significant', () => {
    for (let bit = 0; bit < 16; bit++) {
      const wire = { kind: 'bytes', bytes: Uint8Array.of((1 << bit) >> 8, (1 << bit) & 0xff) } as const;
      for (let other = 0; other < 16; other++) expect(followWire(def('BOOL', { bit: other }), wire).raw).toBe(other === bit);
    }
  });

  test('an 8-bit value is the low byte of its register, the high byte with the order BA', () => {
    expect(followWire(def('SINT'), hex('05FE')).raw).toBe(-2);
    expect(followWire(def('USINT', { order: 'BA' }), hex('05FE')).raw).toBe(5);
  });

  // A 64-bit count of nanoseconds shown in seconds needs 1e-9: common practice.
  test('a 64-bit duration in nanoseconds stays exact from wire to glass and back', () => {
    const duration = def('LINT', { order: 'ABCDEFGH', scale: { kind: 'power', exponent: -9 }, decimals: 3, unit: 's' });
    const stages = followWire(duration, hex('0000 0000 9502 F900'));
    expect(stages.raw).toBe(2_500_000_000n);
    expect(stages.text).toBe('2.500');
    const huge = followWire({ ...duration, decimals: null }, hex('7FFF FFFF FFFF FFFF'));
    expect(huge.text).toBe('9223372036.854775807');
    const back = planWrite({ ...duration, decimals: null }, { digits: 9223372036854775807n, exponent: -9 });
    expect(back.ok && Buffer.from(back.value.bytes).toString('hex')).toBe('7fffffffffffffff');
  });

  test('a 64-bit count on a sloped line says when it lost digits', () => {
    const sloped = def('ULINT', { order: 'ABCDEFGH', scale: linear(0, 0, 3, 1) });
    expect(followWire(sloped, hex('0020 0000 0000 0003')).quality.level).toBe('uncertain');
    expect(followWire(sloped, hex('0000 0000 0000 0064')).quality.level).toBe('good');
  });
  test('one whose decimals end loses none', () => {
    const tenths = def('ULINT', { order: 'ABCDEFGH', scale: linear(0, 0, 10, 1) });
    expect(followWire(tenths, hex('0020 0000 0000 0001'))).toMatchObject({ text: '900719925474099.3', quality: { level: 'good' } });
    expect(followWire(tenths, hex('FFFF FFFF FFFF FFFF')).text).toBe('1844674407370955161.5');
  });

  test('a text ends at its first NUL and is refused when too long or beyond single bytes', () => {
    expect(followWire(def('STRING(6)'), hex('6F61 7400 7878')).text).toBe('oat');
    expect(planWrite(def('STRING(3)'), 'oats')).toMatchObject({ ok: false, problem: { code: 'out-of-type' } });
    expect(planWrite(def('STRING(3)'), 'a€')).toMatchObject({ ok: false, problem: { code: 'character' } });
  });

  test('the wrong count of bytes is a malformed value, not a number', () => {
    expect(followWire(def('DINT', { order: 'ABCD' }), hex('0001')).quality.reason).toBe('malformed');
  });

  test('a typed wire value of another type is refused, as by a client that checks types', () => {
    expect(followWire(def('INT'), { kind: 'typed', value: 2.5 }).quality.level).toBe('bad');
    expect(followWire(def('INT'), { kind: 'typed', value: 70000 }).quality.level).toBe('bad');
    expect(followWire(def('REAL'), { kind: 'text', text: '21.5' }).raw).toBe(21.5);
  });
});

describe('the text of a value without fixed decimals', () => {
  test('a REAL is written with the fewest digits that name it, never rounded to another REAL', () => {
    const real = def('REAL', { order: 'ABCD' });
    const textOf = (value: number): string => {
      const bytes = new Uint8Array(4);
      new DataView(bytes.buffer).setFloat32(0, value);
      return followWire(real, { kind: 'bytes', bytes }).text;
    };
    expect([101.6, 0.1, 123456.79, 16777216, -0.5].map(textOf)).toEqual(['101.6', '0.1', '123456.79', '16777216', '-0.5']);
    fc.assert(fc.property(fc.float({ noNaN: true, noDefaultInfinity: true }), (value) => Math.fround(Number(textOf(value))) === Math.fround(value)));
  });
  test('an LREAL and a counter in tenths keep all their digits', () => {
    const bytes = new Uint8Array(8);
    new DataView(bytes.buffer).setFloat64(0, 123456789.125);
    expect(followWire(def('LREAL', { order: 'ABCDEFGH' }), { kind: 'bytes', bytes }).text).toBe('123456789.125');
    expect(followWire(def('UDINT', { order: 'ABCD', scale: linear(0, 0, 10, 1) }), hex('FFFF FFFF')).text).toBe('429496729.5');
  });
  test('neighbouring counts on a sloped line never show the same text', () => {
    const card = def('INT', { scale: linear(0, 0, 27648, 150) });
    const textOf = (raw: number): string => followWire(card, { kind: 'bytes', bytes: Uint8Array.of(raw >> 8, raw & 255) }).text;
    fc.assert(fc.property(fc.integer({ min: 0, max: 27647 }), (raw) => textOf(raw) !== textOf(raw + 1)));
    expect(textOf(11248)).toBe('61.02431');
  });
});

describe('orders', () => {
  test('every order is a permutation, and swapping there and back changes nothing', () => {
    for (const [width, orders] of Object.entries(ORDERS))
      for (const order of orders) {
        expect([...order].sort().join('')).toBe('ABCDEFGH'.slice(0, Number(width)));
        fc.assert(
          fc.property(fc.uint8Array({ minLength: Number(width), maxLength: Number(width) }), (bytes) => {
            expect(toWireOrder(fromWireOrder(bytes, order), order)).toEqual(bytes);
          }),
        );
      }
  });
  test('an order of another width is refused with those that fit', () => {
    expect(parseOrder('CDAB', typeOf('INT'))).toMatchObject({ ok: false, problem: { remedy: 'Use one of AB, BA.' } });
  });
});

describe('scaling', () => {
  // Common practice: raw 0…32767 to 0…2300, and 0…27648 to 0…150.
  test.each([
    [linear(0, 0, 32767, 2300), 10000, '701.9'],
    [linear(0, 0, 32767, 2300), 456, '32.0'],
    [linear(0, 0, 32767, 2300), -100, '-7.0'],
    [linear(0, 0, 27648, 150), 27648, '150.0'],
    [linear(0, 0, 27648, 150), 0x3f00, '87.5'],
    [linear(0, 0, 27648, 150), 0x2bf0, '61.0'],
    [linear(0, 0, 27648, 150), 0, '0.0'],
    [linear(0, 0, 27648, 20), 5529.6, '4.0'],
    [linear(0, 32, 100, 212), 100, '212.0'],
  ])('%j takes %d to %s', (scale, raw, text) => {
    expect(formatValue(toEngineering(scale, raw).value, 1)).toBe(text);
  });

  test('a lower limit of 32 is crossed between raw 456 and 455', () => {
    const scale = linear(0, 0, 32767, 2300);
    expect(asNumber(toEngineering(scale, 456).value)).toBeGreaterThan(32);
    expect(asNumber(toEngineering(scale, 455).value)).toBeLessThan(32);
  });

  test('a value that is written comes back as the nearest step the controller can hold', () => {
    const scaled = def('INT', { scale: linear(0, 0, 27648, 150), decimals: 2, unit: '°C' });
    const plan = planWrite(scaled, 61.003);
    expect(plan.ok && plan.value.raw).toBe(11244);
    expect(plan.ok && plan.value.text).toBe('61.00');
    fc.assert(
      fc.property(fc.double({ min: 0, max: 150, noNaN: true }), (wanted) => {
        const found = planWrite(scaled, wanted);
        expect(found.ok && Math.abs((asNumber(found.value.achieved) ?? NaN) - wanted)).toBeLessThanOrEqual(150 / 27648 / 2 + 1e-9);
      }),
    );
  });

  test('the inverse of a line gives the raw value back, for every INT and any usable line', () => {
    const usable = fc.tuple(
      fc.integer({ min: -40000, max: 40000 }),
      fc.integer({ min: 1, max: 60000 }),
      fc.integer({ min: -1000, max: 1000 }),
      fc.integer({ min: 1, max: 5000 }),
    );
    fc.assert(
      fc.property(usable, fc.integer({ min: -32768, max: 32767 }), ([rawA, span, engA, rise], raw) => {
        const scale = linear(rawA, engA, rawA + span, engA + rise);
        expect(toRaw(scale, toEngineering(scale, raw).value, true)).toEqual({ ok: true, value: BigInt(raw) });
      }),
    );
  });

  test('the two points themselves are met exactly', () => {
    const scale = linear(5529.6, 0.1, 27648, 150.3);
    expect(toEngineering(scale, 27648).value).toBe(150.3);
    expect(toEngineering(scale, 5529.6).value).toBe(0.1);
  });

  test('a scale that cannot be used both ways is refused at its field', () => {
    expect(checkScale(linear(1, 0, 1, 5))).toMatchObject({ ok: false, problem: { place: 'rawB' } });
    expect(checkScale(linear(0, 5, 1, 5))).toMatchObject({ ok: false, problem: { place: 'engB' } });
    expect(checkScale(linear(0, 0, NaN, 5)).ok).toBe(false);
    expect(checkScale({ kind: 'power', exponent: 1.5 }).ok).toBe(false);
  });
});

describe('writing', () => {
  test('what the type cannot hold is refused, never clipped', () => {
    for (const [type, value] of [
      ['INT', 32768],
      ['UINT', -1],
      ['DINT', 2147483648],
      ['ULINT', -1n],
      ['REAL', 1e39],
    ] as const)
      expect(planWrite(def(type, { order: type === 'INT' || type === 'UINT' ? 'AB' : type === 'ULINT' ? 'ABCDEFGH' : 'ABCD' }), value)).toMatchObject(
        { ok: false, problem: { code: 'out-of-type' } },
      );
  });
  test('what is outside the range of the tag is refused with the range', () => {
    expect(planWrite(def('INT', { range: { low: 40, high: 140 }, unit: '°C' }), 141)).toMatchObject({
      ok: false,
      problem: { message: expect.stringContaining('40 to 140 °C') as unknown as string },
    });
  });
  test('a bit inside a register is written with the mask that keeps the rest, swapped as the register is', () => {
    const planned = (order: string, on: boolean) => {
      const plan = planWrite(def('BOOL', { bit: 3, order }), on);
      return plan.ok && [plan.value.bytes, plan.value.mask];
    };
    expect(planned('AB', true)).toEqual([Uint8Array.of(0, 8), Uint8Array.of(0, 8)]);
    expect(planned('AB', false)).toEqual([Uint8Array.of(0, 0), Uint8Array.of(0, 8)]);
    expect(planned('BA', true)).toEqual([Uint8Array.of(8, 0), Uint8Array.of(8, 0)]);
  });
  test('a byte inside a register is not written, since the rest of the register is not ours', () => {
    expect(planWrite(def('SINT'), 5)).toMatchObject({ ok: false, problem: { code: 'byte-alone' } });
    // Where values go typed there is no register that it would be half of.
    const typed = (type: string, value: number) => planWrite(def(type, { isTyped: true }), value);
    expect(typed('SINT', -5)).toMatchObject({ ok: true, value: { raw: -5 } });
    expect(typed('SINT', 128)).toMatchObject({ ok: false, problem: { code: 'out-of-type' } });
    expect(typed('REAL', 0.1)).toMatchObject({ ok: true, value: { raw: Math.fround(0.1), text: '0.1' } });
    expect(typed('REAL', 1e39)).toMatchObject({ ok: false, problem: { code: 'out-of-type' } });
    expect(planWrite(def('STRING(3)', { isTyped: true }), 'a€')).toMatchObject({ ok: true });
    expect(planWrite(def('STRING(3)', { isTyped: true }), 'oats')).toMatchObject({ ok: false, problem: { code: 'out-of-type' } });
  });
  test('a decimal comma is refused rather than guessed at', () => {
    expect(parseInput(typeOf('REAL'), '1,234')).toMatchObject({ ok: false, problem: { code: 'decimal-comma' } });
    expect(parseInput(typeOf('REAL'), '')).toMatchObject({ ok: false, problem: { message: 'Nothing was entered.' } });
    expect(parseInput(typeOf('BOOL'), 'maybe').ok).toBe(false);
    expect(parseInput(typeOf('ULINT'), '18446744073709551615')).toEqual({ ok: true, value: { digits: 18446744073709551615n, exponent: 0 } });
  });
});

describe('text and JSON of values', () => {
  test('a value outside the expected range is uncertain, with the range as reason', () => {
    const stages = followWire(def('INT', { range: { low: 0, high: 100 } }), hex('012C'));
    expect(stages.quality).toMatchObject({ level: 'uncertain', reason: 'out-of-range' });
    expect(stages.broken?.stage).toBe('engineering');
  });
  test.each([
    [-0.04, 1, '0.0'],
    [2.5, 0, '3'],
    [104.5999984741211, null, '104.599998474121'],
    [12345678, null, '12345678'],
    [2.72e23, 1, '2.72e23'],
    [7n, 2, '7.00'],
  ])('%p with %p decimals is shown as %s', (value, decimals, text) => {
    expect(formatValue(value, decimals)).toBe(text);
  });
  test('decimals round halves away from zero, exactly', () => {
    expect(decimalFixed({ digits: 2500000000n, exponent: -9 }, 0)).toBe('3');
    expect(decimalFixed({ digits: -15n, exponent: -1 }, 0)).toBe('-2');
    expect(decimalText({ digits: -5n, exponent: -3 })).toBe('-0.005');
    expect(parseDecimal('1e999')).toBeNull();
  });
  test('every value survives its JSON form', () => {
    const value = fc.oneof(
      fc.double({ noNaN: true, noDefaultInfinity: true }),
      fc.bigInt({ min: -(2n ** 63n), max: 2n ** 64n - 1n }),
      fc.boolean(),
      fc.string(),
    );
    fc.assert(
      fc.property(value, (v) =>
        expect(fromJson(JSON.parse(JSON.stringify(toJson(v))) as never)).toEqual({ ok: true, value: Object.is(v, -0) ? 0 : v }),
      ),
    );
    const decimal = fc.record({ digits: fc.bigInt({ min: -(2n ** 63n), max: 2n ** 63n }), exponent: fc.integer({ min: -18, max: 0 }) });
    fc.assert(
      fc.property(decimal, (v) => {
        const back = fromJson(toJson(v));
        expect(back.ok && typeof back.value === 'object' && decimalText(back.value)).toBe(decimalText(v));
      }),
    );
  });
  test('types are read as the standard writes them', () => {
    expect(formatDataType(typeOf('string[20]'))).toBe('STRING(20)');
    expect(typeOf('LWORD')).toMatchObject({ bytes: 8, signed: false });
    for (const bad of ['STRING', 'STRING(0)', 'STRING(9999)', 'FLOAT', '']) expect(parseDataType(bad).ok).toBe(false);
  });
});
