/**
 * Addresses of Modbus data in two notations.
 *
 * Area form `HR17`, `HR30.3`, `IR8`, `CO5`, `DI2`: the number counts from 0, as the PDU does.
 * Reference form `40018`, `400018`, `40031.3`: leading 0 coils, 1 discrete inputs, 3 input registers, 4 holding
 * registers; the number counts from the device's base, 1 by the standard's data model
 * (Modbus Application Protocol V1.1b3, 4.4: data numbered 1 to n, PDU addresses 0 to n-1).
 */
import { fail, ok, type Result } from '../result.ts';

export type Area = 'HR' | 'IR' | 'CO' | 'DI';

export interface ModbusAddress {
  readonly area: Area;
  /** PDU address, 0…65535. */
  readonly offset: number;
  /** Bit of a register, 0 = least significant; null for whole registers and for bit areas. */
  readonly bit: number | null;
}

/** What the numbers in the device's manual count from. */
export type CountingBase = 0 | 1;

export const AREA_WORDS: Readonly<Record<Area, string>> = { HR: 'holding register', IR: 'input register', CO: 'coil', DI: 'discrete input' };

const REFERENCE: Readonly<Record<string, Area>> = { '0': 'CO', '1': 'DI', '3': 'IR', '4': 'HR' };
const LEADING: Readonly<Record<Area, string>> = { CO: '0', DI: '1', IR: '3', HR: '4' };
const HOW = 'Write 40018 or 400018 (reference form), or HR17, IR8, CO5, DI2 (area form, counted from 0).';

export function isRegisterArea(area: Area): boolean {
  return area === 'HR' || area === 'IR';
}

/** Reads either notation. Refuses numbers outside the area and bits of something that is a bit already. */
export function parseAddress(text: string, base: CountingBase): Result<ModbusAddress> {
  const trimmed = text.trim();
  const area = /^(HR|IR|CO|DI)\s*(\d{1,6})(?:\.(\d{1,2}))?$/i.exec(trimmed);
  if (area) return checked(area[1]?.toUpperCase() as Area, Number(area[2]), area[3], trimmed);
  const reference = /^([0134])(\d{4,5})(?:\.(\d{1,2}))?$/.exec(trimmed);
  const named = reference && REFERENCE[reference[1] ?? ''];
  if (reference && named) return checked(named, Number(reference[2]) - base, reference[3], trimmed);
  return fail('address-form', `“${trimmed.slice(0, 40)}” is not a Modbus address.`, HOW);
}

function checked(area: Area, offset: number, bitText: string | undefined, text: string): Result<ModbusAddress> {
  if (offset < 0)
    return fail(
      'address-range',
      `${text} would lie before the first ${AREA_WORDS[area]}: this device counts from 1.`,
      'Check the address, or the counting base of the device.',
    );
  if (offset > 65535) return fail('address-range', `${text} lies past the last ${AREA_WORDS[area]} (PDU address 65535).`, HOW);
  if (bitText === undefined) return ok({ area, offset, bit: null });
  if (!isRegisterArea(area)) return fail('address-bit', `${text}: a ${AREA_WORDS[area]} is one bit and has none inside.`, 'Leave the bit away.');
  const bit = Number(bitText);
  if (bit > 15) return fail('address-bit', `${text}: a register has bits 0 to 15.`, 'Bit 0 is the least significant.');
  return ok({ area, offset, bit });
}

/** The canonical form, which is the area form: `HR17`, `HR30.3`. */
export function formatArea(address: ModbusAddress): string {
  return `${address.area}${address.offset}${address.bit === null ? '' : `.${address.bit}`}`;
}

/** The reference form in the device's counting, five digits while they do: `40018`, else six. */
export function formatReference(address: ModbusAddress, base: CountingBase): string {
  const number = address.offset + base;
  const digits = number > 9999 ? number.toString().padStart(5, '0') : number.toString().padStart(4, '0');
  return `${LEADING[address.area]}${digits}${address.bit === null ? '' : `.${address.bit}`}`;
}

/** The address in words, with the counting base made visible. */
export function explainAddress(address: ModbusAddress, base: CountingBase): string {
  const hex = address.offset.toString(16).toUpperCase().padStart(4, '0');
  const bit = address.bit === null ? '' : `, bit ${address.bit} from the least significant`;
  return `${formatReference(address, base)} counted from ${base}: ${AREA_WORDS[address.area]}, PDU address ${address.offset} (${hex}h)${bit}`;
}
