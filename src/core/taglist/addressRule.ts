/** Addresses that say too little: plain register numbers, and references that count from another number than the device. */
import { formatArea, parseAddress, type CountingBase } from '../modbus/address.ts';
import type { DataType } from '../value/dataType.ts';

/** What plain numbers name, for values of several bits; single bits are coils or inputs beside them. */
export const PLAIN_NUMBERS = ['holding', 'input'] as const;
export type PlainNumbers = (typeof PLAIN_NUMBERS)[number];
/** One of them, as a person is asked for it. */
export interface PlainNumberArea {
  readonly value: PlainNumbers;
  readonly words: string;
}

/** What the engineer says of the addresses of one source. */
export interface AddressRule {
  readonly plainNumbers?: PlainNumbers | undefined;
  /** What numbers of this list count from; the device's own base where it is not said. */
  readonly countsFrom?: CountingBase | undefined;
}

/** A number that names no area: `100`, `0x0064`. Five digits that begin as a reference does are one. */
export function plainNumber(text: string): number | null {
  const plain = text.trim();
  if (/^0x[0-9a-f]{1,4}$/i.test(plain)) return Number.parseInt(plain.slice(2), 16);
  return /^(\d{1,4}|[256789]\d{4})$/.test(plain) ? Number(plain) : null;
}

/** A reference that can only count from 0: the first of an area would lie before it else. */
export function countsFromZero(text: string): boolean {
  return /^[0134]0{4,5}$/.test(text.trim());
}

/** The address as the device reads it; the text itself where the rule says nothing of it. */
export function ruledAddress(text: string, type: DataType, { plainNumbers, countsFrom }: AddressRule): string {
  const number = plainNumber(text);
  if (number !== null && plainNumbers !== undefined) {
    const offset = number - (countsFrom ?? 0);
    const isBit = type.kind === 'boolean';
    const area = plainNumbers === 'holding' ? (isBit ? 'CO' : 'HR') : isBit ? 'DI' : 'IR';
    return offset < 0 ? text : `${area}${offset}`;
  }
  if (countsFrom === undefined || !/^[0134]\d{4,5}(\.\d{1,2})?$/.test(text.trim())) return text;
  const parsed = parseAddress(text, countsFrom);
  return parsed.ok ? formatArea(parsed.value) : text;
}
