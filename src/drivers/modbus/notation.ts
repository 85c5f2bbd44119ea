/** Addresses as one device writes them, onto the one canonical form `HR17`, `HR30.3`, `CO5`. */
import { firstBit, isLocation, LOCATION_BITS, parseLocation, type LocationCounts } from '@/core/address/iecLocation.ts';
import { AREA_WORDS, explainAddress, formatArea, isRegisterArea, parseAddress, type Area, type ModbusAddress } from '@/core/modbus/address.ts';
import { fail, ok, type Problem, type Result } from '@/core/result.ts';
import { orderWidth } from '@/core/value/byteOrder.ts';
import { formatDataType, registersOf, type DataType } from '@/core/value/dataType.ts';
import type { AddressNotation, ParsedAddress } from '../contract.ts';
import { dialectOf, type Dialect } from './settings.ts';

/** The parsed form of a canonical address, which counts from 0. */
export function parseCanonical(canonical: string): ModbusAddress | null {
  return plainCanonical(canonical) ?? readCanonical(canonical);
}

const AREAS: Readonly<Record<string, Area>> = { HR: 'HR', IR: 'IR', CO: 'CO', DI: 'DI' };

/** `HR17` without a pattern: of a hundred thousand tags each is asked several times. Null for what it does not know to be one. */
function plainCanonical(canonical: string): ModbusAddress | null {
  const area = AREAS[canonical.slice(0, 2)];
  if (area === undefined || canonical.length < 3 || canonical.length > 7) return null;
  let offset = 0;
  for (let i = 2; i < canonical.length; i++) {
    const digit = canonical.charCodeAt(i) - 48;
    if (digit < 0 || digit > 9) return null;
    offset = offset * 10 + digit;
  }
  return offset > 65_535 ? null : { area, offset, bit: null };
}

function readCanonical(canonical: string): ModbusAddress | null {
  const parsed = parseAddress(canonical, 0);
  return parsed.ok ? parsed.value : null;
}

/** Addresses that a value of the type takes in an area. */
export function unitsOf(address: ModbusAddress, type: DataType, dialect: Pick<Dialect, 'wide'>): number {
  if (!isRegisterArea(address.area)) return 1;
  return registersOf(type) / (registerBytesOf(type, dialect) / 2);
}

/** Bytes that one address of such a value holds. */
export function registerBytesOf(type: DataType, { wide }: Pick<Dialect, 'wide'>): 2 | 4 {
  return wide === 'one' && type.kind !== 'text' && (type.bytes === 4 || type.bytes === 8) && orderWidth(type) === type.bytes ? 4 : 2;
}

export const notation: AddressNotation = {
  forms: '40018 or HR17; also 30009 or IR8, 00020 or CO19, 10197 or DI196; 40031.3 is a bit',
  example: '40001',
  parse(text, type, settings): Result<ParsedAddress> {
    const dialect = dialectOf(settings);
    const parsed = isLocation(text) && dialect.locations !== 'none' ? parseLocated(text, dialect.locations, type, dialect) : parseOwn(text, dialect);
    if (!parsed.ok) return parsed;
    const address = parsed.value;
    const isRegister = isRegisterArea(address.area);
    if (!isRegister && type.kind !== 'boolean')
      return fail('address-type', `A ${formatDataType(type)} cannot live in one bit.`, 'Use BOOL here, or a register address.');
    if (isRegister && type.kind === 'boolean' && address.bit === null)
      return fail('address-type', 'A BOOL in a register needs its bit.', `Write ${text.trim()}.${dialect.bitBase} for the first bit.`);
    if (address.bit !== null && type.kind !== 'boolean')
      return fail('address-type', `Only a BOOL can live in a bit, this is a ${formatDataType(type)}.`, 'Leave the bit away, or choose BOOL.');
    const last = address.offset + unitsOf(address, type, dialect) - 1;
    if (last > 65535)
      return fail('address-range', `${formatDataType(type)} at ${text.trim()} would reach past the last register.`, 'Check address and type.');
    const writable = address.area === 'CO' || (address.area === 'HR' && isWritable(address, type, dialect));
    return ok({ canonical: formatArea(address), bit: address.bit, writable });
  },
  member(base, atBit, type, settings): Result<string> {
    const dialect = dialectOf(settings);
    const begins = beginsAt(base, dialect);
    if (!begins.ok) return begins;
    const { area, bits } = begins.value;
    const [register, bit] = [Math.floor((bits + atBit) / 16), (bits + atBit) % 16];
    if (type.kind === 'boolean') return ok(`${area}${register}.${bitNumber(bit, dialect)}`);
    return bit === 0
      ? ok(`${area}${register}`)
      : fail('address-split', 'It begins in the middle of a 16-bit word, which Modbus cannot name.', 'Check how structures are laid out.');
  },
  explain(canonical, settings) {
    const address = parseCanonical(canonical);
    if (!address) return canonical;
    const { countingBase, memoryName, memoryStart } = dialectOf(settings);
    const own = memoryName && address.area === 'HR' && address.offset >= memoryStart ? `${memoryName}${address.offset - memoryStart}, ` : '';
    return own + explainAddress(address, countingBase);
  },
  format(canonical, type, settings) {
    const address = parseCanonical(canonical);
    if (!address) return canonical;
    const units = unitsOf(address, type, dialectOf(settings));
    return units > 1 ? `${canonical}–${address.offset + units - 1}` : canonical;
  },
};

/** Half a register cannot be written alone; some bits of one can, where the device lets them. */
function isWritable({ bit }: ModbusAddress, type: DataType, { bitWrites }: Dialect): boolean {
  if (bit !== null) return bitWrites !== 'refuse';
  if (type.kind === 'integer' && type.field) return bitWrites !== 'refuse' && type.bytes === 2;
  return type.bytes !== 1 || (type.kind === 'text' && type.name !== 'CHAR');
}

/** Where a structure begins, in bits of its area; structures lie in registers alone. */
function beginsAt(base: string, dialect: Dialect): Result<{ readonly area: Area; readonly bits: number }> {
  if (isLocation(base) && dialect.locations !== 'none') {
    const location = parseLocation(base);
    const first = location.ok ? firstBit(location.value, dialect.locations) : location;
    if (!location.ok || !first.ok) return first.ok ? fail('address-form', `${base} is no address of this device.`) : first;
    const { area } = location.value;
    return ok({ area: area === 'I' ? 'IR' : 'HR', bits: first.value + (area === 'M' ? dialect.memoryStart * 16 : 0) });
  }
  const parsed = parseOwn(base, dialect);
  if (!parsed.ok) return parsed;
  const { area, offset, bit } = parsed.value;
  return isRegisterArea(area)
    ? ok({ area, bits: offset * 16 + (bit ?? 0) })
    : fail('address-area', 'Where the values of structures lie among single bits is not known.');
}

/** The number that the device gives to a bit counted from the least significant. */
export function bitNumber(fromLeast: number, { bitFrom, bitBase }: Dialect): number {
  return (bitFrom === 'least' ? fromLeast : 15 - fromLeast) + bitBase;
}

/** Where a location of IEC 61131-3 lies. The low byte of a word is the first one, as in controllers that count bytes. */
function parseLocated(text: string, counts: LocationCounts, type: DataType, { memoryStart }: Dialect): Result<ModbusAddress> {
  const location = parseLocation(text);
  if (!location.ok) return location;
  const { area, size, bit: named } = location.value;
  const first = firstBit(location.value, counts);
  if (!first.ok) return first;
  const width = named === null ? LOCATION_BITS[size] : 1;
  const needs = type.kind === 'boolean' ? 1 : type.bytes * 8;
  if (type.kind !== 'text' && orderWidth(type) === type.bytes && width !== needs)
    return fail(
      'address-type',
      `${text.trim()} is ${width === 1 ? 'one bit' : `${width} bits`} wide, a ${formatDataType(type)} is ${needs === 1 ? 'one bit' : needs}.`,
      'Check the type, or the letter of the address.',
    );
  const offset = Math.floor(first.value / 16) + (area === 'M' ? memoryStart : 0);
  const within = first.value % 16;
  if (width === 1 && area !== 'M') return within16(text, area === 'I' ? 'DI' : 'CO', first.value, null);
  if (within !== 0 && width !== 1)
    return fail(
      'address-split',
      `${text.trim()} begins in the middle of a 16-bit word, which Modbus cannot name.`,
      'Check what the numbers of its locations count, or move it in the controller.',
    );
  return within16(text, area === 'I' ? 'IR' : 'HR', offset, width === 1 ? within : null);
}

function within16(text: string, area: Area, offset: number, bit: number | null): Result<ModbusAddress> {
  return offset > 65535
    ? fail('address-range', `${text.trim()} lies past the last ${AREA_WORDS[area]} (PDU address 65535).`, 'Check the address.')
    : ok({ area, offset, bit });
}

/** What is wrong with an address names it as it was written, and the setting by which the device would accept it. */
function asWritten(problem: Problem, text: string, { locations, countingBase, memoryName }: Dialect): Problem {
  const short = text.slice(0, 40);
  if (isLocation(text) && locations === 'none')
    return {
      code: 'address-setting',
      message: `“${short}” is not read: nobody has said how this device counts its locations.`,
      remedy: 'Say it in the protocol options of the device, under “%M, %I and %Q addresses count”.',
      place: 'address',
      setting: 'locations',
    };
  if (problem.code === 'address-range' && countingBase === 1 && /^[0134]0{4,5}/.test(text))
    return { ...problem, message: `“${short}” lies before the first address: this device counts from 1.`, setting: 'countingBase' };
  if (problem.code !== 'address-form') return problem;
  const isOther = /^[\p{L}_]+\d{1,5}(\.\d{1,2})?$/u.test(text);
  return {
    ...problem,
    message: `“${short}” is not a Modbus address.`,
    ...(isOther && memoryName === ''
      ? {
          remedy: `If the device calls its words so, enter it in its protocol options, under “Name of word memory”. ${problem.remedy ?? ''}`,
          setting: 'memoryName',
        }
      : {}),
  };
}

/** Reads the device's own notation too, its way to number bits included. */
function parseOwn(text: string, dialect: Dialect): Result<ModbusAddress> {
  const [whole = '', bitText] = text.trim().split('.', 2);
  const name = dialect.memoryName;
  const index = name && whole.toUpperCase().startsWith(name.toUpperCase()) ? /^\d{1,5}$/.exec(whole.slice(name.length))?.[0] : undefined;
  const inMemory = Number(index) + dialect.memoryStart;
  if (index !== undefined && inMemory < 0)
    return fail('address-range', `${text.trim()} lies before the first holding register.`, `The first word here is ${name}${-dialect.memoryStart}.`);
  const register = index === undefined ? whole : `HR${inMemory}`;
  // The bit is numbered in the device's way; the canonical form counts from the least significant, from 0.
  const parsed = parseAddress(bitText === undefined ? register : `${register}.0`, dialect.countingBase);
  if (!parsed.ok) return { ok: false, problem: asWritten(parsed.problem, text.trim(), dialect) };
  if (bitText === undefined) return parsed;
  const [low, high] = [dialect.bitBase, dialect.bitBase + 15];
  const number = /^\d{1,2}$/.test(bitText) ? Number(bitText) : -1;
  if (number < low || number > high) {
    const end = dialect.bitFrom === 'least' ? 'least' : 'most';
    return fail('address-bit', `${text.trim()}: the bits of a register are ${low} to ${high} here.`, `Bit ${low} is the ${end} significant.`);
  }
  const fromFirst = number - low;
  return ok({ ...parsed.value, bit: dialect.bitFrom === 'least' ? fromFirst : 15 - fromFirst });
}
