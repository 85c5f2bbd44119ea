/** Locations of IEC 61131-3 on Modbus, by what a device's numbers count. */
import { describe, expect, test } from '@jest/globals';
import { parseDataType } from '@/core/value/dataType.ts';
import { notation } from '@/drivers/modbus/notation.ts';

const parse = (text: string, type: string, locations: string, more: object = {}): string => {
  const parsedType = parseDataType(type);
  if (!parsedType.ok) throw new Error(type);
  const parsed = notation.parse(text, parsedType.value, { locations, ...more });
  return parsed.ok ? parsed.value.canonical : parsed.problem.code;
};

// IEC 61131-3, 6.5.5.2: the size prefix; what the number counts is the maker's: the three ways are common practice.
describe('a location of IEC 61131-3', () => {
  test.each<[string, string, readonly [own: string, bytes: string, words: string]]>([
    ['%MW100', 'INT', ['HR100', 'HR50', 'HR100']],
    ['%MD8', 'REAL', ['HR16', 'HR4', 'HR8']],
    ['%ML2', 'LREAL', ['HR8', 'HR1', 'HR2']],
    ['%MX53', 'BOOL', ['HR3.5', 'HR26.8', 'HR53.0']],
    ['%MX10.3', 'BOOL', ['HR5.3', 'HR5.3', 'HR10.3']],
    ['%MX11.3', 'BOOL', ['HR5.11', 'HR5.11', 'HR11.3']],
    ['%MX10.9', 'BOOL', ['address-bit', 'address-bit', 'HR10.9']],
    ['%IX3.5', 'BOOL', ['DI29', 'DI29', 'DI53']],
    ['%QX3.5', 'BOOL', ['CO29', 'CO29', 'CO53']],
    ['%QW288', 'UINT', ['HR288', 'HR144', 'HR288']],
    ['%IW6', 'INT', ['IR6', 'IR3', 'IR6']],
    ['%MW101', 'INT', ['HR101', 'address-split', 'HR101']],
    ['%MW7.15', 'BOOL', ['HR7.15', 'address-split', 'HR7.15']],
  ])('%s as %s', (text, type, [own, bytes, words]) => {
    const expectedBytes = text === '%MW7.15' ? 'HR4.7' : bytes;
    expect([parse(text, type, 'own'), parse(text, type, 'bytes'), parse(text, type, 'words')]).toEqual([own, expectedBytes, words]);
  });
  test('whose width is not the type’s is refused', () => {
    expect(parse('%MW100', 'REAL', 'own')).toBe('address-type');
    expect(parse('%MD100', 'INT', 'own')).toBe('address-type');
  });
  test('past the device’s range, without a place, or where the device has no locations is refused', () => {
    expect([parse('%MW70000', 'INT', 'own'), parse('%MW*', 'INT', 'own'), parse('%MW1', 'INT', 'none')]).toEqual([
      'address-range',
      'location-open',
      'address-setting',
    ]);
  });
  test('lies behind where its memory begins', () => {
    expect(parse('%MW5', 'INT', 'own', { memoryStart: 1000 })).toBe('HR1005');
  });
});

describe('a member of a structure', () => {
  const member = (base: string, atBit: number, type: string, dialect: object): string => {
    const parsedType = parseDataType(type);
    const found = parsedType.ok ? notation.member?.(base, atBit, parsedType.value, { locations: 'words', ...dialect }) : undefined;
    return found?.ok ? found.value : (found?.problem.code ?? '');
  };
  test('lies so many bits after it', () => {
    expect([member('%MW100', 32, 'INT', {}), member('40018', 32, 'REAL', {}), member('HR17', 19, 'BOOL', {})]).toEqual(['HR102', 'HR19', 'HR18.3']);
  });
  test('its bit is numbered as the device numbers bits, and leads back to the same one', () => {
    const dialect = { bitFrom: 'most', bitBase: 1 };
    const text = member('HR17', 19, 'BOOL', dialect);
    expect(text).toBe('HR18.13');
    const bool = parseDataType('BOOL');
    expect(bool.ok && notation.parse(text, bool.value, dialect)).toMatchObject({ ok: true, value: { canonical: 'HR18.3', bit: 3 } });
  });
  test('in the middle of a word, or among single bits, has no address', () => {
    expect([member('HR17', 8, 'INT', {}), member('CO5', 16, 'BOOL', {})]).toEqual(['address-split', 'address-area']);
  });
});
