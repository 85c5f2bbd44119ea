/** One place in all notations of a device; what was likely meant by an address that is refused. */
import { expect, test } from '@jest/globals';
import { parseDataType, type DataType } from '@/core/value/dataType.ts';
import { describeDriver } from '@/drivers/descriptions.ts';

const notation = describeDriver('modbus-tcp')?.notation;
const typeOf = (text: string): DataType => {
  const type = parseDataType(text);
  if (!type.ok) throw new Error(text);
  return type.value;
};
const ways = (address: string, type: string, dialect: object): readonly string[] => {
  const parsed = notation?.parse(address, typeOf(type), dialect as never);
  return parsed?.ok ? (notation?.ways?.(parsed.value.canonical, typeOf(type), dialect as never) ?? []) : [];
};
const nearest = (address: string, type: string, dialect: object = {}): string | null =>
  notation?.nearest?.(address, typeOf(type), dialect as never) ?? null;

// Modbus Application Protocol V1.1b3, 4.4: data numbered from 1, PDU addresses from 0. IEC 61131-3, 6.5.5: locations.
test.each([
  ['HR17', 'INT', {}, ['HR17', '40018']],
  ['40018', 'INT', { countingBase: 0 }, ['HR18', '40018']],
  ['HR17', 'INT', { memoryName: '%MW', memoryStart: 12 }, ['HR17', '40018', '%MW5']],
  ['HR16', 'REAL', { locations: 'own' }, ['HR16', '40017', '%MD8']],
  ['HR16', 'REAL', { locations: 'bytes' }, ['HR16', '40017', '%MD32']],
  ['HR16', 'REAL', { locations: 'words' }, ['HR16', '40017', '%MD16']],
  ['HR5.0', 'BOOL', { bitFrom: 'most', bitBase: 1 }, []],
  ['HR5.1', 'BOOL', { bitFrom: 'most', bitBase: 1 }, ['HR5.1', '40006.1']],
  ['IR3', 'WORD', { locations: 'words' }, ['IR3', '30004', '%IW3']],
  ['CO9', 'BOOL', { locations: 'bytes' }, ['CO9', '00010', '%QX1.1']],
])('%s as %s of %j', (address, type, dialect, expected) => {
  expect(ways(address, type, dialect)).toEqual(expected);
});

test('every way to write a place leads back to it', () => {
  for (const locations of ['none', 'own', 'bytes', 'words'])
    for (const countingBase of [0, 1])
      for (const type of ['INT', 'REAL', 'LREAL', 'WORD', 'STRING(7)'])
        for (const address of ['HR0', 'HR17', 'IR8', 'HR65000']) {
          const dialect = { locations, countingBase, memoryName: '%MW', memoryStart: 3 };
          for (const way of ways(address, type, dialect)) {
            const read = notation?.parse(way, typeOf(type), dialect);
            expect([way, read?.ok && read.value.canonical]).toEqual([way, address]);
          }
        }
});

test.each([
  ['HR30', 'BOOL', {}, 'HR30.0'],
  ['40031', 'BOOL', { bitBase: 1 }, '40031.1'],
  ['40031.3', 'INT', {}, '40031'],
  ['40031.16', 'BOOL', {}, '40031.15'],
  ['HR65535', 'REAL', {}, 'HR65534'],
  ['40000', 'INT', {}, '40001'],
  ['D17', 'INT', {}, 'HR17'],
  ['D17', 'INT', { memoryName: 'DW' }, 'DW17'],
  ['17', 'BOOL', {}, 'CO17'],
  ['nowhere', 'INT', {}, null],
])('the nearest to %s as %s of %j is %s', (address, type, dialect, expected) => {
  expect(nearest(address, type, dialect)).toBe(expected);
});
