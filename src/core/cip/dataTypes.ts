/** Types of CIP by their codes (volume 1, C-6.1, from memory; IEC 61131-3 has the same names) and the tags that hold their values. */
import type { DataType } from '../value/dataType.ts';

/** A value of a structure follows with the handle of its layout. */
export const STRUCTURE = 0x02a0;

interface Elementary {
  readonly name: string;
  readonly bytes: number;
}
const ELEMENTARY: ReadonlyMap<number, Elementary> = new Map([
  [0xc1, { name: 'BOOL', bytes: 1 }],
  [0xc2, { name: 'SINT', bytes: 1 }],
  [0xc3, { name: 'INT', bytes: 2 }],
  [0xc4, { name: 'DINT', bytes: 4 }],
  [0xc5, { name: 'LINT', bytes: 8 }],
  [0xc6, { name: 'USINT', bytes: 1 }],
  [0xc7, { name: 'UINT', bytes: 2 }],
  [0xc8, { name: 'UDINT', bytes: 4 }],
  [0xc9, { name: 'ULINT', bytes: 8 }],
  [0xca, { name: 'REAL', bytes: 4 }],
  [0xcb, { name: 'LREAL', bytes: 8 }],
  [0xd1, { name: 'BYTE', bytes: 1 }],
  [0xd2, { name: 'WORD', bytes: 2 }],
  [0xd3, { name: 'DWORD', bytes: 4 }],
  [0xd4, { name: 'LWORD', bytes: 8 }],
]);
const CODES: ReadonlyMap<string, number> = new Map([...ELEMENTARY].map(([code, { name }]) => [name, code]));

/** Name and width of a type, null for one that is not elementary or not known. */
export function elementary(code: number): Elementary | null {
  return ELEMENTARY.get(code) ?? null;
}

export function codeNamed(name: string): number | null {
  return CODES.get(name) ?? null;
}

/** A type in words: `DINT`, or its code. */
export function typeInWords(code: number): string {
  return code === STRUCTURE ? 'structure' : (ELEMENTARY.get(code)?.name ?? `type ${code.toString(16).toUpperCase()}h`);
}

/** The type that a controller declares for what a tag holds, where nobody has asked it yet; a text is a structure. */
export function codeFor(type: DataType): number {
  if (type.kind === 'text') return STRUCTURE;
  const named = CODES.get(type.name);
  if (named !== undefined) return named;
  return type.bytes === 8 ? 0xc5 : 0xc4;
}

/**
 * Whether what a controller declares can be the value of a tag. Integers keep their sign: what may be another number
 * is refused; a bit string (BYTE to LWORD) reads the bits of any integer of its width, and a time counts in one.
 */
export function canHold(type: DataType, code: number): boolean {
  const declared = ELEMENTARY.get(code);
  if (!declared) return false;
  if (declared.name === type.name) return true;
  if (type.kind !== 'integer' || declared.bytes !== type.bytes || declared.name === 'BOOL' || declared.name.endsWith('REAL')) return false;
  const isBits = (name: string): boolean => name === 'BYTE' || name.endsWith('WORD');
  return isBits(type.name) || isBits(declared.name) || type.time !== null;
}
