/** The four areas of a Modbus device as cells: registers of 16 bits, and single bits. */
import { AREA_WORDS, formatReference, isRegisterArea, type Area } from '@/core/modbus/address.ts';
import type { MemoryPart } from '../contract.ts';
import { bitNumber, parseCanonical, unitsOf } from './notation.ts';
import { dialectOf } from './settings.ts';

const CELLS = 65_536;
const AREAS: readonly Area[] = ['HR', 'IR', 'CO', 'DI'];

export const memory: MemoryPart = {
  areas: AREAS.map((id) => ({
    id,
    words: `${AREA_WORDS[id]}s`,
    cellBits: isRegisterArea(id) ? 16 : 1,
    cell: isRegisterArea(id) ? 'register' : 'bit',
    cells: CELLS,
    canWrite: id === 'HR' || id === 'CO',
  })),
  spanOf(canonical, type, dialect) {
    const address = parseCanonical(canonical);
    if (!address) return null;
    const { area, offset, bit } = address;
    if (!isRegisterArea(area)) return { area, from: offset, bits: 1 };
    if (bit !== null) return { area, from: offset * 16 + bit, bits: 1 };
    if (type.kind === 'integer' && type.field && type.bytes === 2) return { area, from: offset * 16 + type.field.low, bits: type.field.bits };
    return { area, from: offset * 16, bits: unitsOf(address, type, dialectOf(dialect)) * 16 };
  },
  addressAt(area, cell, bit, dialect) {
    const { countingBase, ...settings } = dialectOf(dialect);
    const plain = formatReference({ area: area as Area, offset: cell, bit: null }, countingBase);
    return bit === null ? plain : `${plain}.${bitNumber(bit, { countingBase, ...settings })}`;
  },
};
