/**
 * Elementary data types of IEC 61131-3 (names, widths and ranges from its table of elementary data types).
 *
 * The standard leaves to the maker how a TIME, DATE, TIME_OF_DAY and DATE_AND_TIME lie in memory. Here they are 32-bit
 * counts of milliseconds, or of seconds since 1970-01-01 (common practice); an LTIME is 64 bits of nanoseconds, as the
 * third edition has it. A controller that counts otherwise has an integer type and a scale instead.
 */
import { fail, ok, type Result } from '../result.ts';
import type { TimeMeaning } from './timeText.ts';

export type TimeTypeName = 'TIME' | 'LTIME' | 'DATE' | 'TIME_OF_DAY' | 'DATE_AND_TIME';
export type IntegerTypeName =
  'SINT' | 'USINT' | 'INT' | 'UINT' | 'DINT' | 'UDINT' | 'LINT' | 'ULINT' | 'BYTE' | 'WORD' | 'DWORD' | 'LWORD' | TimeTypeName;

export interface IntegerType {
  readonly kind: 'integer';
  readonly name: IntegerTypeName;
  readonly bytes: 1 | 2 | 4 | 8;
  readonly signed: boolean;
  readonly min: bigint;
  readonly max: bigint;
  /** What its count means, for a time; null for a plain number. */
  readonly time: TimeMeaning | null;
}
export interface RealType {
  readonly kind: 'real';
  readonly name: 'REAL' | 'LREAL';
  readonly bytes: 4 | 8;
}
export interface BooleanType {
  readonly kind: 'boolean';
  readonly name: 'BOOL';
  readonly bytes: 1;
}
export interface TextType {
  readonly kind: 'text';
  readonly name: 'STRING';
  /** Characters, one byte each. */
  readonly bytes: number;
}
export type DataType = IntegerType | RealType | BooleanType | TextType;

/** The longest text a tag may hold: the whole address space of one register area would be 131072. */
export const MAX_TEXT_BYTES = 1024;

function integer(name: IntegerTypeName, bytes: 1 | 2 | 4 | 8, signed: boolean, time: TimeMeaning | null = null): IntegerType {
  const bits = BigInt(bytes * 8);
  return { kind: 'integer', name, bytes, signed, min: signed ? -(1n << (bits - 1n)) : 0n, max: (1n << (signed ? bits - 1n : bits)) - 1n, time };
}

const FIXED: ReadonlyMap<string, DataType> = new Map<string, DataType>([
  ['BOOL', { kind: 'boolean', name: 'BOOL', bytes: 1 }],
  ['SINT', integer('SINT', 1, true)],
  ['USINT', integer('USINT', 1, false)],
  ['INT', integer('INT', 2, true)],
  ['UINT', integer('UINT', 2, false)],
  ['DINT', integer('DINT', 4, true)],
  ['UDINT', integer('UDINT', 4, false)],
  ['LINT', integer('LINT', 8, true)],
  ['ULINT', integer('ULINT', 8, false)],
  ['BYTE', integer('BYTE', 1, false)],
  ['WORD', integer('WORD', 2, false)],
  ['DWORD', integer('DWORD', 4, false)],
  ['LWORD', integer('LWORD', 8, false)],
  ['REAL', { kind: 'real', name: 'REAL', bytes: 4 }],
  ['LREAL', { kind: 'real', name: 'LREAL', bytes: 8 }],
  ['TIME', integer('TIME', 4, true, 'duration-ms')],
  ['LTIME', integer('LTIME', 8, true, 'duration-ns')],
  ['DATE', integer('DATE', 4, false, 'date-s')],
  ['TIME_OF_DAY', integer('TIME_OF_DAY', 4, false, 'timeOfDay-ms')],
  ['DATE_AND_TIME', integer('DATE_AND_TIME', 4, false, 'dateTime-s')],
]);
/** The short forms that the standard has too. */
const SHORT: Readonly<Record<string, string>> = { TOD: 'TIME_OF_DAY', DT: 'DATE_AND_TIME' };

/** Names offered to people; STRING stands with an example length. */
export const DATA_TYPE_NAMES: readonly string[] = [...FIXED.keys(), 'STRING(16)'];

/**
 * Reads a data type as IEC 61131-3 writes it, upper or lower case: `INT`, `LREAL`, `STRING(20)`.
 * Refuses unknown names and lengths outside 1…1024.
 */
export function parseDataType(text: string): Result<DataType> {
  const name = text.trim().toUpperCase();
  const fixed = FIXED.get(SHORT[name] ?? name);
  if (fixed) return ok(fixed);
  const match = /^STRING\s*[([]\s*(\d{1,6})\s*[)\]]$/.exec(name);
  if (match) {
    const length = Number(match[1]);
    if (length < 1 || length > MAX_TEXT_BYTES)
      return fail(
        'text-length',
        `A text of ${length} characters is outside 1 to ${MAX_TEXT_BYTES}.`,
        'Give the length that the controller declares.',
      );
    return ok({ kind: 'text', name: 'STRING', bytes: length });
  }
  if (name === 'STRING') return fail('text-length', 'A STRING needs its length.', 'Write it with the length, for example STRING(20).');
  return fail('unknown-type', `“${text.trim().slice(0, 40)}” is not a data type known here.`, 'Use one of ' + DATA_TYPE_NAMES.join(', ') + '.');
}

/** The way a type is written everywhere: `INT`, `STRING(20)`. */
export function formatDataType(type: DataType): string {
  return type.kind === 'text' ? `STRING(${type.bytes})` : type.name;
}

/** 16-bit registers that one value of the type takes; a BOOL or an 8-bit value takes one. */
export function registersOf(type: DataType): number {
  return Math.ceil(type.bytes / 2);
}
