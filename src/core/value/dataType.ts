/**
 * Elementary data types of IEC 61131-3 (names, widths and ranges from its table of elementary data types), and how a
 * value of one lies in memory where that is not the plain way: `UINT bcd`, `STRING(20) length-word`, `DATE 16-bit d from 1990`.
 *
 * The standard leaves to the maker how a TIME, DATE, TIME_OF_DAY and DATE_AND_TIME lie in memory. Without a word more they
 * are 32-bit counts of milliseconds, or of seconds since 1970-01-01 (common practice); an LTIME is 64 bits of
 * nanoseconds, as the third edition has it.
 */
import { fail, ok, type Result } from '../result.ts';
import { characterSet, PLAIN_CHARACTERS, type CharacterSet } from './characters.ts';
import { readTypeWords, type ReadWords } from './typeWords.ts';
import { DAY_NS, MS_NS, SECOND_NS, type TimeMeaning } from './timeText.ts';

export type TimeTypeName = 'TIME' | 'LTIME' | 'DATE' | 'TIME_OF_DAY' | 'DATE_AND_TIME';
export type IntegerTypeName =
  'SINT' | 'USINT' | 'INT' | 'UINT' | 'DINT' | 'UDINT' | 'LINT' | 'ULINT' | 'BYTE' | 'WORD' | 'DWORD' | 'LWORD' | TimeTypeName;

/**
 * How digits or dates make a number. `binary`: two's complement. `bcd`: a decimal digit in four bits. `sign-magnitude`: the
 * highest bit is the sign. `mod10000`: each register counts to 9999. `parts`: year, month, day, hour, minute, second, each
 * in a register. `bcd-clock`: year to second, three digits of milliseconds and the day of the week as BCD in eight bytes.
 */
export type Coding = 'binary' | 'bcd' | 'sign-magnitude' | 'mod10000' | 'parts' | 'bcd-clock';

/** Bits of a value that are a value of their own. */
export interface BitField {
  /** Counted from the least significant, which is 0. */
  readonly low: number;
  readonly bits: number;
}

export interface IntegerType {
  readonly kind: 'integer';
  readonly name: IntegerTypeName;
  /** Of memory. */
  readonly bytes: number;
  readonly signed: boolean;
  readonly min: bigint;
  readonly max: bigint;
  /** Its values need more than a double holds: they are bigint. */
  readonly isWide: boolean;
  readonly coding: Coding;
  readonly field: BitField | null;
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

/**
 * How a text shows where it ends. `zero-ended`: at the first NUL, or where its room ends. `blank-padded`: blanks fill the
 * room. `length-byte`, `length-word`, `length-dword`: its length stands in front. `capacity-length`: a byte with its room
 * and one with its length stand in front.
 */
export const TEXT_LAYOUTS = ['zero-ended', 'blank-padded', 'length-byte', 'length-word', 'length-dword', 'capacity-length'] as const;
export type TextLayout = (typeof TEXT_LAYOUTS)[number];

/** The same in words: how a text ends. */
export const TEXT_LAYOUT_WORDS: Readonly<Record<TextLayout, string>> = {
  'zero-ended': 'end with a zero',
  'blank-padded': 'are filled with blanks',
  'length-byte': 'have their length in a byte in front',
  'length-word': 'have their length in a word in front',
  'length-dword': 'have their length in a double word in front',
  'capacity-length': 'have their room and their length in front',
};

export interface TextType {
  readonly kind: 'text';
  readonly name: 'STRING' | 'WSTRING' | 'CHAR' | 'WCHAR';
  /** Of memory, what stands in front of the text included. */
  readonly bytes: number;
  /** Bytes of text that it has room for; for WSTRING and WCHAR, units of 16 bits. */
  readonly room: number;
  readonly layout: TextLayout;
  readonly characters: CharacterSet;
}
export type DataType = IntegerType | RealType | BooleanType | TextType;

/** The longest text a tag may hold: the whole address space of one register area would be 131072. */
export const MAX_TEXT_BYTES = 1024;

type Width = 1 | 2 | 4 | 8;

function integer(name: IntegerTypeName, bytes: Width, signed: boolean, time: TimeMeaning | null = null): IntegerType {
  const bits = bytes * 8;
  return { kind: 'integer', name, bytes, signed, ...rangeOf(bits, signed), isWide: bytes === 8, coding: 'binary', field: null, time };
}

function rangeOf(bits: number, signed: boolean): { readonly min: bigint; readonly max: bigint } {
  const wide = BigInt(bits);
  return { min: signed ? -(1n << (wide - 1n)) : 0n, max: (1n << (signed ? wide - 1n : wide)) - 1n };
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
  ['TIME', integer('TIME', 4, true, { shows: 'duration', countNs: MS_NS, epochMs: 0 })],
  ['LTIME', integer('LTIME', 8, true, { shows: 'duration', countNs: 1n, epochMs: 0 })],
  ['DATE', integer('DATE', 4, false, { shows: 'date', countNs: SECOND_NS, epochMs: 0 })],
  ['TIME_OF_DAY', integer('TIME_OF_DAY', 4, false, { shows: 'timeOfDay', countNs: MS_NS, epochMs: 0 })],
  ['DATE_AND_TIME', integer('DATE_AND_TIME', 4, false, { shows: 'dateTime', countNs: SECOND_NS, epochMs: 0 })],
  ['CHAR', { kind: 'text', name: 'CHAR', bytes: 1, room: 1, layout: 'zero-ended', characters: PLAIN_CHARACTERS }],
  ['WCHAR', { kind: 'text', name: 'WCHAR', bytes: 2, room: 1, layout: 'zero-ended', characters: 'utf-16' }],
]);
/** The short forms that the standard has too. */
const SHORT: Readonly<Record<string, string>> = { TOD: 'TIME_OF_DAY', DT: 'DATE_AND_TIME' };

/** Names offered to people; texts stand with an example length. */
export const DATA_TYPE_NAMES: readonly string[] = [...[...FIXED.keys()].filter((name) => !name.endsWith('CHAR')), 'STRING(16)'];

/** Wide texts, single characters, and names with words on how the value lies in memory: what they look like. */
export const LAID_OUT_NAMES: readonly string[] = [
  'WSTRING(16)',
  'CHAR',
  'UINT bcd',
  'UDINT bcd',
  'INT sign-magnitude',
  'UDINT mod10000',
  'UINT mask 16#00F0',
  'STRING(16) blank-padded',
  'STRING(16) length-byte',
  'STRING(16) length-word',
  'STRING(16) capacity-length',
  'STRING(16) utf-8',
  'DATE 16-bit d from 1990',
  'DATE_AND_TIME 64-bit ms from 1970',
  'DATE_AND_TIME parts',
  'DATE_AND_TIME bcd',
];

/** Whether values of a type are numbers, which can be scaled; without reading it to its end. */
export function isNumberType(text: string): boolean {
  return !/^\s*(BOOL|W?STRING|W?CHAR)\b/i.test(text);
}

/**
 * Reads a data type as IEC 61131-3 writes it, upper or lower case, with the words that say how it lies in memory:
 * `INT`, `STRING(20)`, `UDINT bcd`. Refuses unknown names and words, and lengths outside 1…1024 bytes.
 */
export function parseDataType(text: string): Result<DataType> {
  const known = FIXED.get(text);
  if (known) return ok(known);
  const match = /^([A-Za-z_]\w*)(?:\s*[([]\s*(\d{1,6})\s*[)\]])?(?:\s+(.*))?$/.exec(text.trim());
  const named = (match?.[1] ?? '').toUpperCase();
  const name = SHORT[named] ?? named;
  const length = match?.[2];
  const isText = name === 'STRING' || name === 'WSTRING';
  const fixed = length === undefined ? FIXED.get(name) : undefined;
  if (!match || (!fixed && !isText))
    return fail('unknown-type', `“${text.trim().slice(0, 40)}” is not a data type known here.`, 'Use one of ' + DATA_TYPE_NAMES.join(', ') + '.');
  const words = match[3]?.trim() ?? '';
  if (isText)
    return length === undefined
      ? fail('text-length', `A ${name} needs its length.`, `Write it with the length, for example ${name}(20).`)
      : parseText(name, Number(length), words);
  if (fixed === undefined || words === '') return fixed ? ok(fixed) : parseDataType(name);
  if (fixed.kind === 'text') return fixed.name === 'WCHAR' ? noWord(fixed.name, words) : parseChar(fixed, words);
  if (fixed.kind !== 'integer') return noWord(fixed.name, words);
  const read = readTypeWords(words);
  if (!read.ok) return read;
  return fixed.time === null ? laidOutNumber(fixed, read.value, words) : laidOutTime(fixed, fixed.time, read.value, words);
}

function parseText(name: 'STRING' | 'WSTRING', length: number, words: string): Result<TextType> {
  const room = name === 'WSTRING' ? length * 2 : length;
  if (length < 1 || room > MAX_TEXT_BYTES)
    return fail(
      'text-length',
      `A ${name === 'WSTRING' ? 'wide text' : 'text'} of ${length} characters is outside 1 to ${name === 'WSTRING' ? MAX_TEXT_BYTES / 2 : MAX_TEXT_BYTES}.`,
      'Give the length that the controller declares.',
    );
  let layout: TextLayout = 'zero-ended';
  let characters: CharacterSet = name === 'WSTRING' ? 'utf-16' : PLAIN_CHARACTERS;
  for (const word of words.toLowerCase().split(/\s+/).filter(Boolean)) {
    const found = TEXT_LAYOUTS.find((known) => known === word);
    const set = name === 'STRING' ? characterSet(word) : null;
    if (found) layout = found;
    else if (set) characters = set;
    else return noWord(name, word);
  }
  if (layout === 'capacity-length' && (length > 254 || name === 'WSTRING'))
    return fail('text-length', 'One byte holds a length of at most 254 bytes.', 'Use length-word, or give the length that the controller declares.');
  if (layout === 'length-byte' && length > 255)
    return fail('text-length', 'One byte holds a length of at most 255.', 'Use length-word, or give the length that the controller declares.');
  return ok({ kind: 'text', name, bytes: FRONT_BYTES[layout](name === 'WSTRING') + room, room: length, layout, characters });
}

/** What stands in front of a text. A wide text keeps its units together: a length of a byte takes a whole one. */
const FRONT_BYTES: Readonly<Record<TextLayout, (isWide: boolean) => number>> = {
  'zero-ended': () => 0,
  'blank-padded': () => 0,
  'length-byte': (isWide) => (isWide ? 2 : 1),
  'length-word': () => 2,
  'length-dword': () => 4,
  'capacity-length': () => 2,
};

/** Bytes that stand in front of a text. */
export function frontBytes({ layout, name }: TextType): number {
  return FRONT_BYTES[layout](name === 'WSTRING');
}

function parseChar(type: TextType, words: string): Result<TextType> {
  const characters = characterSet(words.toLowerCase());
  return characters && characters !== 'utf-8' ? ok({ ...type, characters }) : noWord(type.name, words);
}

function laidOutNumber(type: IntegerType, { coding, registers, mask, width, unit, epochMs }: ReadWords, words: string): Result<IntegerType> {
  if (width !== null || unit !== null || epochMs !== null || coding === 'parts') return noWord(type.name, words);
  if (mask !== null) return coding === null ? fieldOf(type, mask) : noWord(type.name, words);
  switch (coding) {
    case 'bcd':
      if (type.signed)
        return fail('type-words', `A ${type.name} has a sign, and digits in BCD have none.`, 'Choose USINT, UINT, UDINT or ULINT, with bcd.');
      return ok({ ...type, coding, max: 10n ** BigInt(type.bytes * 2) - 1n });
    case 'sign-magnitude':
      if (!type.signed) return fail('type-words', `A ${type.name} has no sign.`, 'Choose SINT, INT, DINT or LINT, with sign-magnitude.');
      return ok({ ...type, coding, min: type.min + 1n });
    case 'mod10000': {
      const count = registers ?? type.bytes / 2;
      if (count < 2 || count * 2 > type.bytes)
        return fail(
          'type-words',
          `A ${type.name} is no number of ${count} registers of 10000.`,
          'Choose UDINT for two registers, ULINT for three or four.',
        );
      const max = 10_000n ** BigInt(count) - 1n;
      return ok({ ...type, bytes: count * 2, coding, min: type.signed ? -max : 0n, max });
    }
    default:
      return noWord(type.name, words);
  }
}

function fieldOf(type: IntegerType, mask: bigint): Result<IntegerType> {
  const width = type.bytes * 8;
  const bits = mask.toString(2);
  const ones = bits.replace(/0+$/, '');
  if (mask === 0n || bits.length > width)
    return fail('type-words', `The mask 16#${mask.toString(16).toUpperCase()} has no bit of a ${type.name}.`, `It has ${width} bits.`);
  if (ones.includes('0')) return fail('type-words', 'The bits of a field lie side by side; this mask has a gap.', 'Make a tag of each run of bits.');
  const field = { low: bits.length - ones.length, bits: ones.length };
  if (field.bits === width) return ok(type);
  return ok({ ...type, ...rangeOf(field.bits, type.signed), field, isWide: type.isWide });
}

function laidOutTime(type: IntegerType, time: TimeMeaning, read: ReadWords, words: string): Result<IntegerType> {
  const { coding, registers, mask, width, unit, epochMs } = read;
  if (mask !== null || registers !== null) return noWord(type.name, words);
  if (coding === null) {
    const hasEpoch = time.shows === 'date' || time.shows === 'dateTime';
    if (epochMs !== null && !hasEpoch) return fail('type-words', `A ${type.name} begins nowhere in the calendar.`, 'Leave “from” away.');
    const bytes = width === null ? type.bytes : width / 8;
    return ok({
      ...type,
      bytes,
      ...rangeOf(bytes * 8, type.signed),
      isWide: bytes === 8,
      time: { shows: time.shows, countNs: unit ?? time.countNs, epochMs: epochMs ?? time.epochMs },
    });
  }
  if (width !== null || unit !== null || epochMs !== null || time.shows === 'duration') return noWord(type.name, words);
  // Their count is ours alone: milliseconds of a clock, seconds of parts, each counted from 1970.
  if (coding === 'parts') {
    const isWhole = time.shows === 'dateTime';
    const [min, max] = time.shows === 'timeOfDay' ? [0n, 86_399n] : [YEAR_1_S, YEAR_9999_S];
    return ok({ ...type, bytes: isWhole ? 12 : 6, signed: true, min, max, coding, time: { ...time, countNs: SECOND_NS } });
  }
  if (coding === 'bcd' && time.shows === 'dateTime')
    return ok({ ...type, bytes: 8, signed: false, min: CLOCK_FROM_MS, max: CLOCK_TO_MS, coding: 'bcd-clock', time: { ...time, countNs: MS_NS } });
  return noWord(type.name, words);
}

const YEAR_1_S = -62_135_596_800n;
const YEAR_9999_S = 253_402_300_799n;
/** Two digits of a year: 90 to 99 are 1990 to 1999, 00 to 89 are 2000 to 2089 (common practice). */
const CLOCK_FROM_MS = BigInt(Date.UTC(1990, 0, 1));
const CLOCK_TO_MS = BigInt(Date.UTC(2090, 0, 1)) - 1n;

function noWord(name: string, word: string): Result<never> {
  return fail('type-words', `“${word.slice(0, 40)}” is not a way in which a ${name} lies in memory.`, `Examples: ${LAID_OUT_NAMES.join(' · ')}.`);
}

/** The way a type is written everywhere: `INT`, `STRING(20)`, `UDINT bcd`. */
export function formatDataType(type: DataType): string {
  const words = typeWordsOf(type);
  const name = type.name === 'STRING' || type.name === 'WSTRING' ? `${type.name}(${type.room})` : type.name;
  return words === '' ? name : `${name} ${words}`;
}

/** How it lies in memory, in words; empty for the plain way. */
export function typeWordsOf(type: DataType): string {
  switch (type.kind) {
    case 'boolean':
    case 'real':
      return '';
    case 'text':
      return [
        type.layout === 'zero-ended' ? '' : type.layout,
        type.characters === PLAIN_CHARACTERS || type.characters === 'utf-16' ? '' : type.characters,
      ]
        .filter(Boolean)
        .join(' ');
    case 'integer':
      return integerWords(type);
  }
}

function integerWords(type: IntegerType): string {
  if (type.field) return `mask ${hexMask(type)}`;
  switch (type.coding) {
    case 'bcd-clock':
      return 'bcd';
    case 'bcd':
    case 'sign-magnitude':
    case 'parts':
      return type.coding;
    case 'mod10000':
      return type.bytes === 6 ? 'mod10000 in 3' : type.isWide && type.bytes === 4 ? 'mod10000 in 2' : 'mod10000';
    case 'binary': {
      const plain = FIXED.get(type.name);
      if (type.time === null || plain?.kind !== 'integer' || plain.time === null) return '';
      const isPlain = plain.bytes === type.bytes && plain.time.countNs === type.time.countNs && plain.time.epochMs === type.time.epochMs;
      if (isPlain) return '';
      const from = type.time.shows === 'date' || type.time.shows === 'dateTime' ? ` from ${epochText(type.time.epochMs)}` : '';
      return `${type.bytes * 8}-bit ${countText(type.time.countNs)}${from}`;
    }
  }
}

/** The bits of a field in hexadecimal, as wide as the type: `16#00F0`. */
export function hexMask({ bytes, field }: IntegerType): string {
  const mask = field ? ((1n << BigInt(field.bits)) - 1n) << BigInt(field.low) : (1n << BigInt(bytes * 8)) - 1n;
  return `16#${mask
    .toString(16)
    .toUpperCase()
    .padStart(bytes * 2, '0')}`;
}

function epochText(ms: number): string {
  const day = new Date(ms).toISOString().slice(0, 10);
  return day.endsWith('-01-01') ? day.slice(0, 4) : day;
}

const COUNTS: readonly (readonly [string, bigint])[] = [
  ['d', DAY_NS],
  ['h', 3600n * SECOND_NS],
  ['min', 60n * SECOND_NS],
  ['s', SECOND_NS],
  ['ms', MS_NS],
  ['us', 1000n],
  ['ns', 1n],
];

function countText(ns: bigint): string {
  const [unit, size] = COUNTS.find(([, each]) => ns % each === 0n) ?? ['ns', 1n];
  return ns === size ? unit : `${ns / size}${unit}`;
}

/** 16-bit registers that one value of the type takes; a BOOL or an 8-bit value takes one. */
export function registersOf(type: DataType): number {
  return Math.ceil(type.bytes / 2);
}

/** A text of which only the length is said, as its device lays out texts. Any other type stays as it is. */
export function textAsLaidOut(type: DataType, layout: TextLayout): DataType {
  if (type.kind !== 'text' || type.layout !== 'zero-ended' || layout === 'zero-ended' || type.name === 'CHAR' || type.name === 'WCHAR') return type;
  const laidOut = parseDataType(`${formatDataType(type)} ${layout}`);
  return laidOut.ok ? laidOut.value : type;
}
