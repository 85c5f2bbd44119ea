/** One place in every notation of a device, and the nearest place where an address names none. */
import { LOCATION_BITS, type LocationSize } from '@/core/address/iecLocation.ts';
import { formatReference, isRegisterArea, parseAddress, type ModbusAddress } from '@/core/modbus/address.ts';
import type { DataType } from '@/core/value/dataType.ts';
import type { Settings } from '../contract.ts';
import { bitNumber, notation, parseCanonical, unitsOf } from './notation.ts';
import { dialectOf, type Dialect } from './settings.ts';

/** The area form, the reference number, the device's own name for the word, and its location, where it has them. */
export function waysToWrite(canonical: string, type: DataType, settings: Settings): readonly string[] {
  const dialect = dialectOf(settings);
  const address = parseCanonical(canonical);
  if (!address) return [canonical];
  const bit = address.bit === null ? '' : `.${bitNumber(address.bit, dialect)}`;
  const reference = `${formatReference({ ...address, bit: null }, dialect.countingBase)}${bit}`;
  const own = dialect.memoryName !== '' && address.area === 'HR' && address.offset >= dialect.memoryStart;
  const ways = [
    `${address.area}${address.offset}${bit}`,
    reference,
    ...(own ? [`${dialect.memoryName}${address.offset - dialect.memoryStart}${bit}`] : []),
    ...locations(address, type, dialect),
  ];
  // What would lead elsewhere, or nowhere, is no way to write it.
  return [...new Set(ways)].filter((way) => {
    const read = notation.parse(way, type, settings);
    return read.ok && read.value.canonical === canonical;
  });
}

function locations(address: ModbusAddress, type: DataType, { locations: counts, memoryStart }: Dialect): readonly string[] {
  if (counts === 'none') return [];
  if (!isRegisterArea(address.area)) {
    const per = counts === 'words' ? 16 : 8;
    return [
      `%${address.area === 'DI' ? 'I' : 'Q'}X${Math.floor(address.offset / per)}.${address.offset % per}`,
      `%${address.area === 'DI' ? 'I' : 'Q'}X${address.offset}`,
    ];
  }
  const area = address.area === 'IR' ? 'I' : 'M';
  const word = address.offset - (area === 'M' ? memoryStart : 0);
  if (word < 0) return [];
  if (address.bit !== null) return [`%${area}W${counts === 'bytes' ? word * 2 : word}.${address.bit}`];
  const size = (Object.keys(LOCATION_BITS) as LocationSize[]).find((s) => LOCATION_BITS[s] === type.bytes * 8) ?? 'W';
  const words = LOCATION_BITS[size] / 16;
  return [`%${area}${size}${counts === 'bytes' ? word * 2 : counts === 'words' ? word : word / words}`];
}

/** The place that was most likely meant by an address that is refused for the type; null where nobody can tell. */
export function nearestAddress(text: string, type: DataType, settings: Settings): string | null {
  const dialect = dialectOf(settings);
  const trimmed = text.trim();
  const [whole = '', bitText] = trimmed.split('.', 2);
  const wanted: string[] = [];
  if (type.kind === 'boolean' && bitText === undefined) wanted.push(`${whole}.${dialect.bitBase}`);
  if (type.kind !== 'boolean' && bitText !== undefined) wanted.push(whole);
  if (bitText !== undefined) wanted.push(`${whole}.${dialect.bitBase + 15}`, whole);
  const parsed = parseAddress(whole, dialect.countingBase);
  if (parsed.ok) {
    const last = 65_535 - unitsOf(parsed.value, type, dialect) + 1;
    if (parsed.value.offset > last) wanted.push(`${parsed.value.area}${last}`);
  }
  const digits = /\d{1,6}/.exec(whole)?.[0];
  if (digits !== undefined && !parsed.ok) {
    const area = type.kind === 'boolean' ? 'CO' : 'HR';
    const number = Number(digits);
    const reference = /^[0134](\d{4,5})$/.exec(digits);
    // A reference number before the first: the first of its area.
    if (reference && Number(reference[1]) < dialect.countingBase)
      wanted.push(formatReference({ area: areaOf(digits), offset: 0, bit: null }, dialect.countingBase));
    wanted.push(`${dialect.memoryName}${number}`, `${area}${Math.min(number, 65_535)}`);
  }
  return wanted.find((way) => way !== trimmed && notation.parse(way, type, settings).ok) ?? null;
}

function areaOf(digits: string): ModbusAddress['area'] {
  return ({ '0': 'CO', '1': 'DI', '3': 'IR' } as const)[digits[0] as '0'] ?? 'HR';
}
