/** Values that do not lie in memory the plain way: digits, bits, texts with a length, dates in pieces, codes for “none”. */
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import iconv from 'iconv-lite';
import { AS_IS } from '@/core/scaling/scale.ts';
import { followWire, parseFor, planWrite, type SignalDefinition } from '@/core/signal.ts';
import { ORDERS, orderWidth } from '@/core/value/byteOrder.ts';
import { CHARACTER_SETS, decodeCharacters, encodeCharacters } from '@/core/value/characters.ts';
import { DATA_TYPE_NAMES, formatDataType, LAID_OUT_NAMES, parseDataType, registersOf, type DataType } from '@/core/value/dataType.ts';
import { rawIn } from '@/core/value/radix.ts';
import { readCodes, unavailableIn } from '@/core/value/unavailable.ts';

function typeOf(name: string): DataType {
  const parsed = parseDataType(name);
  if (!parsed.ok) throw new Error(parsed.problem.message);
  return parsed.value;
}
function def(name: string, over: Partial<SignalDefinition> = {}): SignalDefinition {
  const type = typeOf(name);
  return { type, order: ORDERS[orderWidth(type)][0] ?? '', bit: null, scale: AS_IS, unit: '', decimals: null, range: null, ...over };
}
const bytesOf = (hex: string): Uint8Array => Uint8Array.from(Buffer.from(hex.replaceAll(' ', ''), 'hex'));
const read = (of: SignalDefinition, hex: string) => followWire(of, { kind: 'bytes', bytes: bytesOf(hex) });
const hexOf = (bytes: Uint8Array): string => Buffer.from(bytes).toString('hex').toUpperCase();
function written(of: SignalDefinition, value: number | bigint | string): string {
  const plan = planWrite(of, value);
  return plan.ok ? hexOf(plan.value.bytes) : plan.problem.code;
}

describe('digits', () => {
  // BCD 8421: each decimal digit in four bits (common practice; IEC 61131-3 converts with WORD_BCD_TO_UINT and the like).
  test.each([
    ['UINT bcd', '1234', 'AB', 1234],
    ['UINT bcd', '3412', 'BA', 1234],
    ['USINT bcd', '0042', 'AB', 42],
    ['UDINT bcd', '12345678', 'ABCD', 12_345_678],
    ['UDINT bcd', '56781234', 'CDAB', 12_345_678],
    ['ULINT bcd', '9999999999999999', 'ABCDEFGH', 9_999_999_999_999_999n],
    // The highest bit is the sign (IEEE 754 has its numbers so; for integers common practice).
    ['INT sign-magnitude', '8005', 'AB', -5],
    ['INT sign-magnitude', '0005', 'AB', 5],
    ['INT sign-magnitude', 'FFFF', 'AB', -32_767],
    ['DINT sign-magnitude', '80000001', 'ABCD', -1],
    // Registers that count to 9999, the least significant last or first (common practice among meters).
    ['UDINT mod10000', '00011388', 'ABCD', 15_000],
    ['UDINT mod10000', '13880001', 'CDAB', 15_000],
    ['ULINT mod10000 in 3', '000100020003', 'ABCDEF', 100_020_003n],
    ['ULINT mod10000 in 3', '000300020001', 'EFCDAB', 100_020_003n],
    ['DINT mod10000', 'FFFFEC78', 'ABCD', -15_000],
    ['ULINT mod10000', '270F270F270F270F', 'ABCDEFGH', 9_999_999_999_999_999n],
  ])('%s %s in order %s is %s, and goes back to the same bytes', (name, wire, order, value) => {
    const of = def(name, { order });
    expect(read(of, wire).raw).toBe(value);
    expect(written(of, value)).toBe(name.startsWith('USINT') ? 'byte-alone' : wire);
  });

  test('minus nothing is nothing', () => {
    expect(Object.is(read(def('INT sign-magnitude'), '8000').raw, 0)).toBe(true);
  });

  test('a digit above 9 and a register above 9999 are no number, and say what they would be otherwise', () => {
    const bcd = read(def('UINT bcd'), '12A4');
    expect(bcd).toMatchObject({ raw: null, eng: null, text: '–', quality: { level: 'bad' } });
    expect(bcd.broken?.problem).toMatchObject({ code: 'not-digits', message: expect.stringContaining('16#12A4') });
    expect(bcd.broken?.problem.remedy).toContain('4772');
    expect(read(def('UDINT mod10000'), '00012710').quality.level).toBe('bad');
  });

  test('what has no room for it is refused, never clipped', () => {
    expect(written(def('UINT bcd'), 10_000)).toBe('out-of-type');
    expect(written(def('INT sign-magnitude'), -32_768)).toBe('out-of-type');
    expect(written(def('UDINT mod10000'), 100_000_000)).toBe('out-of-type');
  });

  test.each([
    'INT bcd',
    'UINT sign-magnitude',
    'UINT mod10000',
    'REAL bcd',
    'UDINT mod10000 in 3',
    'BOOL bcd',
    'UINT mask 16#0101',
    'UINT mask 16#10000',
    'UINT bcd bcd',
    'UINT 32-bit',
  ])('%s is refused with what would do', (name) => {
    const parsed = parseDataType(name);
    expect(parsed.ok || [parsed.problem.code, parsed.problem.message.length > 10]).toEqual(['type-words', true]);
  });
});

describe('bits of a word', () => {
  test('a field is the bits under its mask; a write carries them alone, with the mask of the wire', () => {
    const of = def('UINT mask 16#00F0');
    expect(read(of, 'AB5C').raw).toBe(5);
    const plan = planWrite(of, 9);
    expect(plan.ok && [hexOf(plan.value.bytes), hexOf(plan.value.mask ?? new Uint8Array())]).toEqual(['0090', '00F0']);
    const swapped = planWrite({ ...of, order: 'BA' }, 9);
    expect(swapped.ok && [hexOf(swapped.value.bytes), hexOf(swapped.value.mask ?? new Uint8Array())]).toEqual(['9000', 'F000']);
    expect(written(of, 16)).toBe('out-of-type');
  });
  test('a signed field has the sign of its own highest bit', () => {
    expect(read(def('INT mask 16#0F00'), '0E00').raw).toBe(-2);
    expect(read(def('INT mask 16#0F00'), '0700').raw).toBe(7);
  });
  test.each(['UINT mask 00F0h', 'UINT mask 0x00f0', 'uint bits 4-7', 'UINT bits 7..4', 'UINT mask 16#F0'])('%s is the same', (name) => {
    expect(formatDataType(typeOf(name))).toBe('UINT mask 16#00F0');
  });
});

describe('texts', () => {
  // Layouts in front of a text: common practice.
  test.each([
    ['STRING(6)', 'AB', '515545524E00', 'QUERN'],
    ['STRING(6) blank-padded', 'AB', '515545524E20', 'QUERN'],
    ['STRING(7) length-byte', 'AB', '05515545524E0000', 'QUERN'],
    ['STRING(6) capacity-length', 'AB', '0605515545524E00', 'QUERN'],
    ['STRING(6) capacity-length', 'BA', '0506555152450 04E'.replace(' ', ''), 'QUERN'],
    ['STRING(6) length-word', 'AB', '0005515545524E00', 'QUERN'],
    // The bytes of the text are swapped, the length is a number in its register.
    ['STRING(6) length-word', 'BA', '000555515245004E', 'QUERN'],
    ['STRING(6) length-dword', 'AB', '00000005515545524E00', 'QUERN'],
    ['STRING(6) length-dword', 'BA', '0005000055515245004E', 'QUERN'],
    // The Unicode Standard, 3.9 (UTF-16): é is 00E9, 😀 a pair of surrogates.
    ['WSTRING(4)', 'AB', '00E9D83DDE000000', 'é😀'],
    ['WSTRING(4)', 'BA', 'E9003DD800DE0000', 'é😀'],
    ['WSTRING(3) length-word', 'AB', '0001010D00000000', 'č'],
    // RFC 3629: € is E2 82 AC.
    ['STRING(4) utf-8', 'AB', 'E282AC00', '€'],
    ['STRING(4) windows-1251 length-word', 'AB', '0003CEE2F100', 'Овс'],
    ['WCHAR', 'AB', '20AC', '€'],
  ])('%s in order %s: %s is %s, and back', (name, order, wire, text) => {
    const of = def(name, { order });
    expect(read(of, wire)).toMatchObject({ raw: text, text });
    expect(written(of, text)).toBe(wire);
  });

  test('a CHAR is the low byte of its register', () => {
    expect(read(def('CHAR'), '0041').raw).toBe('A');
    expect(written(def('CHAR'), 'A')).toBe('byte-alone');
  });

  test('a length beyond the room is bad, not a longer text', () => {
    expect(read(def('STRING(4) length-word'), '006441424344')).toMatchObject({ raw: null, quality: { level: 'bad' } });
    expect(written(def('STRING(4) utf-8'), '€€')).toBe('out-of-type');
    expect(written(def('STRING(4) ascii'), 'é')).toBe('character');
    expect(read(def('STRING(2) utf-8'), 'E282').quality.level).toBe('bad');
  });

  // iconv-lite keeps its own tables. WHATWG differs from it where a byte has no character, which is not compared.
  test.each(CHARACTER_SETS.filter((set) => set !== 'utf-8' && set !== 'latin-1' && set !== 'ascii'))(
    '%s has the characters that iconv-lite has',
    (set) => {
      let compared = 0;
      const compare = (bytes: Uint8Array): void => {
        const theirs = iconv.decode(Buffer.from(bytes), set);
        const ours = decodeCharacters(bytes, set);
        if (!ours.ok || theirs.includes('�') || /[\u0080-\u009f\ue000-\uf8ff]/.test(theirs + ours.value) || [...theirs].length !== 1) return;
        if (ours.value === theirs) compared++;
        else expect([...bytes].map((b) => b.toString(16)).join(' ') + ours.value).toBe([...bytes].map((b) => b.toString(16)).join(' ') + theirs);
        const back = encodeCharacters(ours.value, set);
        const again = back.ok ? decodeCharacters(back.value, set) : back;
        expect(again).toEqual(ours);
      };
      for (let byte = 0x20; byte < 0x100; byte += byte === 0x7e ? 2 : 1) compare(Uint8Array.of(byte));
      if (['shift_jis', 'gbk', 'big5', 'euc-kr'].includes(set))
        for (let lead = 0xb0; lead < 0xf0; lead += 3) for (let trail = 0xa1; trail < 0xfc; trail += 5) compare(Uint8Array.of(lead, trail));
      expect(compared).toBeGreaterThan(90);
    },
  );
});

describe('dates and times', () => {
  test.each([
    // Days since 1990-01-01: 2026-11-27 is 36 years with nine leap days, and 330 days.
    ['DATE 16-bit d from 1990', '34A7', '2026-11-27'],
    ['DATE_AND_TIME 64-bit ms from 1970', '0000000000000000', '1970-01-01-00:00:00'],
    // NTP, RFC 5905, 6: its seconds begin on 1900-01-01; 2 208 988 800 of them later Unix begins.
    ['DATE_AND_TIME 32-bit s from 1900', '83AA7E80', '1970-01-01-00:00:00'],
    // 100 ns since 1601-01-01 (OPC UA part 6, DateTime): 116 444 736 000 000 000 of them later Unix begins.
    ['DATE_AND_TIME 64-bit 100ns from 1601', '019DB1DED53E8000', '1970-01-01-00:00:00'],
    ['DATE_AND_TIME parts', '07EA000B001B000600210007', '2026-11-27-06:33:07'],
    ['DATE parts', '07EA000B001B', '2026-11-27'],
    ['TIME_OF_DAY parts', '000600210007', '06:33:07'],
    // 2026-11-27 is a Friday: 6, where Sunday is 1.
    ['DATE_AND_TIME bcd', '2611270633071236', '2026-11-27-06:33:07.123'],
    ['DATE_AND_TIME bcd', '9912312359590006', '1999-12-31-23:59:59'],
    ['TIME 16-bit 10ms', '0019', '250ms'],
    ['TIME 32-bit s', '00000E10', '1h'],
    ['TIME_OF_DAY 16-bit min', '0189', '06:33:00'],
  ])('%s %s is %s, and back', (name, wire, text) => {
    const of = def(name);
    const stages = read(of, wire);
    expect(stages.text).toBe(text);
    const entered = parseFor(of, text);
    const plan = entered.ok ? planWrite(of, entered.value) : entered;
    expect(plan.ok ? hexOf(plan.value.bytes) : plan.problem.message).toBe(wire);
  });

  test('a clock that was never set is bad, not the year 0', () => {
    expect(read(def('DATE_AND_TIME parts'), '000000000000000000000000').quality.level).toBe('bad');
    expect(read(def('DATE_AND_TIME bcd'), '0000000000000000').quality.level).toBe('bad');
    expect(read(def('DATE parts'), '07EA0002001E').quality.level).toBe('bad');
  });

  test('a count that no calendar reaches is said to be one', () => {
    expect(read(def('DATE_AND_TIME 64-bit s from 1970'), '7FFFFFFFFFFFFFFF').text).toContain('beyond any calendar');
  });

  test('what a count cannot hold whole is refused', () => {
    expect(parseFor(def('TIME 16-bit 10ms'), '255ms').ok).toBe(false);
    expect(parseFor(def('DATE_AND_TIME 32-bit s from 1900'), '2026-01-01-00:00:00.5').ok).toBe(false);
  });

  test('a duration with a unit is scaled by what its count stands for', () => {
    expect(formatDataType(typeOf('time 16-bit 10 ms'.replace(' ms', 'ms')))).toBe('TIME 16-bit 10ms');
  });
});

describe('codes by which a device says that it has no value', () => {
  const unavailable = (name: string, text: string) => {
    const codes = readCodes(text);
    if (!codes.ok) throw new Error(codes.problem.message);
    return unavailableIn(typeOf(name), codes.value);
  };
  const USUAL = '16#8000, 16#FFFF, 7FFFh, 16#80000000';
  test.each([
    ['INT', [-32_768, -1, 32_767]],
    ['UINT', [32_768, 65_535, 32_767]],
    ['DINT', [-2_147_483_648]],
    ['UINT bcd', []],
    ['INT sign-magnitude', []],
    ['STRING(4)', []],
  ])('%s of a list for many types: %j', (name, values) => {
    expect(unavailable(name, USUAL)).toEqual(values);
  });
  test('they are bad quality with the code in words, never a number, and are not written', () => {
    const of = def('INT', { unavailable: unavailable('INT', USUAL) });
    const stages = read(of, '8000');
    expect(stages).toMatchObject({
      raw: -32_768,
      eng: null,
      text: '–',
      quality: { level: 'bad', reason: 'not-available', detail: '-32768, 16#8000' },
    });
    expect(read(of, '8001').quality.level).toBe('good');
    expect(written(of, -32_768)).toBe('not-available');
  });
  test('a chosen value of a real', () => {
    expect(read(def('REAL', { unavailable: unavailable('REAL', '-9999.9') }), 'C61C3F9A').eng).toBeNull();
  });
  test.each(['16#123', 'none', '16#8000 or less'])('“%s” is refused', (text) => {
    expect(readCodes(text).ok).toBe(false);
  });
});

// IEC 61131-3, table 5 (numeric literals, from memory): based literals with digits grouped by underscores.
test.each([
  ['INT', -1, 16, '16#FFFF'],
  ['UINT', 162, 16, '16#00A2'],
  ['UINT', 162, 2, '2#0000_0000_1010_0010'],
  ['USINT', 224, 8, '8#340'],
  ['UINT mask 16#00F0', 5, 2, '2#0101'],
  ['LINT', -2n, 16, '16#FFFFFFFFFFFFFFFE'],
] as const)('%s %s in base %d is %s', (name, raw, radix, text) => {
  const type = typeOf(name);
  expect(type.kind === 'integer' && rawIn(type, raw, radix)).toBe(text);
});

test('every type comes back from the way it is written, in every order any bytes give a value or say why not, and a value comes back from its bytes', () => {
  const names = [...DATA_TYPE_NAMES, ...LAID_OUT_NAMES, 'LINT mod10000', 'ULINT mod10000 in 3', 'DINT mask 16#FF000000', 'WSTRING(3) blank-padded'];
  for (const name of names) {
    const type = typeOf(name);
    expect(parseDataType(formatDataType(type))).toEqual({ ok: true, value: type });
    if (type.kind === 'boolean') continue;
    for (const order of ORDERS[orderWidth(type)])
      fc.assert(
        fc.property(fc.uint8Array({ minLength: registersOf(type) * 2, maxLength: registersOf(type) * 2 }), (bytes) => {
          const of = def(name, { order });
          const stages = followWire(of, { kind: 'bytes', bytes });
          if (stages.raw === null || stages.eng === null) {
            expect(stages.quality.level).toBe('bad');
            return;
          }
          const plan = planWrite(of, stages.eng);
          if (!plan.ok) {
            // A NUL inside a text that has its length in front is shown, and never sent back.
            expect(plan.problem.code).toBe(type.bytes === 1 ? 'byte-alone' : 'character');
            return;
          }
          expect(followWire(of, { kind: 'bytes', bytes: plan.value.bytes }).raw).toEqual(stages.raw);
        }),
        { numRuns: 25 },
      );
  }
});
