/** Takes a frame apart, field by field, in words. It never fails: what cannot be read is said so. */
import { counted } from '../counted.ts';
import { AREA_WORDS, formatArea, type Area } from './address.ts';
import { crc16, lrc8 } from './checkSums.ts';
import { exceptionInWords } from './exceptions.ts';
import { READ_FUNCTION } from './pdu.ts';

export type FrameForm = 'tcp' | 'rtu' | 'ascii';

export interface FrameField {
  readonly name: string;
  /** First byte of the field in the frame. */
  readonly at: number;
  readonly bytes: number;
  readonly words: string;
}

export interface Dissected {
  /** One line: `unit 1: read 2 holding registers from HR17`. */
  readonly summary: string;
  readonly unit: number | null;
  readonly fn: number | null;
  readonly fields: readonly FrameField[];
  readonly isError: boolean;
}

export const FUNCTION_WORDS: ReadonlyMap<number, string> = new Map([
  [1, 'read coils'],
  [2, 'read discrete inputs'],
  [3, 'read holding registers'],
  [4, 'read input registers'],
  [5, 'write one coil'],
  [6, 'write one register'],
  [8, 'diagnostics'],
  [15, 'write coils'],
  [16, 'write registers'],
  [17, 'report what it is'],
  [20, 'read file records'],
  [22, 'write bits of a register by masks'],
  [23, 'write registers, then read'],
  [43, 'read identification'],
]);

/** @param direction `sent` is read as a request, `received` as a reply */
export function dissect(form: FrameForm, direction: 'sent' | 'received', frame: Uint8Array): Dissected {
  const fields: FrameField[] = [];
  const add = (name: string, at: number, bytes: number, words: string): void => void fields.push({ name, at, bytes, words });
  const opened = form === 'tcp' ? openTcp(frame, add) : form === 'rtu' ? openRtu(frame, add) : openAscii(frame, add);
  if (!opened) return { summary: 'no whole frame', unit: null, fn: null, fields, isError: true };
  const { unit, pdu, width, at, isDamaged } = opened;
  const fn = pdu[0] ?? 0;
  const place = (index: number): number => at + index * width;
  const field = (name: string, from: number, count: number, words: string): void => add(name, place(from), count * width, words);
  const isException = direction === 'received' && fn >= 0x80;
  field('Function', 0, 1, isException ? `${fn & 0x7f} refused` : `${fn}, ${FUNCTION_WORDS.get(fn) ?? 'not known here'}`);
  const said = isException ? describeException(pdu, field) : direction === 'sent' ? describeRequest(pdu, field) : describeReply(pdu, field);
  const isShort = said === null;
  const summary = `unit ${unit}: ${said ?? `${FUNCTION_WORDS.get(fn) ?? `function ${fn}`}, cut short`}${isDamaged ? ' (check sum wrong)' : ''}`;
  return { summary, unit, fn: fn & 0x7f, fields, isError: isException || isDamaged || isShort };
}

type Add = (name: string, at: number, bytes: number, words: string) => void;
interface Opened {
  readonly unit: number;
  readonly pdu: Uint8Array;
  /** Where the PDU begins, and how many bytes of the frame one of its bytes takes. */
  readonly at: number;
  readonly width: 1 | 2;
  readonly isDamaged: boolean;
}

function openTcp(frame: Uint8Array, add: Add): Opened | null {
  if (frame.length < 8) return null;
  const length = word(frame, 4);
  add('Transaction', 0, 2, String(word(frame, 0)));
  add('Protocol', 2, 2, word(frame, 2) === 0 ? '0, Modbus' : `${word(frame, 2)}, not Modbus`);
  add('Length', 4, 2, `${length} bytes follow`);
  add('Unit', 6, 1, String(frame[6] ?? 0));
  return { unit: frame[6] ?? 0, pdu: frame.subarray(7, 6 + length), at: 7, width: 1, isDamaged: length !== frame.length - 6 };
}

function openRtu(frame: Uint8Array, add: Add): Opened | null {
  if (frame.length < 4) return null;
  const end = frame.length - 2;
  const [said, computed] = [word(Uint8Array.of(frame[end + 1] ?? 0, frame[end] ?? 0), 0), crc16(frame, 0, end)];
  add('Unit', 0, 1, frame[0] === 0 ? '0, broadcast' : String(frame[0] ?? 0));
  add('Check sum', end, 2, said === computed ? `${hex(said, 4)}h, correct` : `${hex(said, 4)}h, ${hex(computed, 4)}h would be correct`);
  return { unit: frame[0] ?? 0, pdu: frame.subarray(1, end), at: 1, width: 1, isDamaged: said !== computed };
}

function openAscii(frame: Uint8Array, add: Add): Opened | null {
  const text = String.fromCharCode(...frame);
  const digits = /^:((?:[0-9a-f]{2}){3,})\r\n$/i.exec(text)?.[1];
  if (digits === undefined) return null;
  const bytes = Uint8Array.from({ length: digits.length / 2 }, (_, i) => Number.parseInt(digits.slice(2 * i, 2 * i + 2), 16));
  add('Unit', 1, 2, bytes[0] === 0 ? '0, broadcast' : String(bytes[0] ?? 0));
  const isDamaged = lrc8(bytes) !== 0;
  add('Check sum', 1 + 2 * (bytes.length - 1), 2, isDamaged ? `wrong, ${hex(lrc8(bytes.subarray(0, -1)), 2)}h would be correct` : 'correct');
  return { unit: bytes[0] ?? 0, pdu: bytes.subarray(1, -1), at: 3, width: 2, isDamaged };
}

type Tell = (name: string, from: number, count: number, words: string) => void;

function describeException(pdu: Uint8Array, tell: Tell): string {
  tell('Exception', 1, 1, exceptionInWords(pdu[1] ?? 0));
  return `refuses function ${(pdu[0] ?? 0) & 0x7f} with ${exceptionInWords(pdu[1] ?? 0)}`;
}

/** @returns what is asked in words, null when the frame is too short for it */
function describeRequest(pdu: Uint8Array, tell: Tell): string | null {
  const fn = pdu[0] ?? 0;
  const area = areaOf(fn);
  const address = word(pdu, 1);
  const count = word(pdu, 3);
  switch (fn) {
    case 1:
    case 2:
    case 3:
    case 4:
      if (pdu.length < 5) return null;
      tell('Address', 1, 2, placeWords(area, address));
      tell('Count', 3, 2, String(count));
      return `read ${counted(count, AREA_WORDS[area])} from ${nameOf(area, address)}`;
    case 5:
    case 6: {
      if (pdu.length < 5) return null;
      const value = fn === 5 ? (count === 0xff00 ? 'on' : count === 0 ? 'off' : `${hex(count, 4)}h, neither on nor off`) : valueWords(count);
      tell('Address', 1, 2, placeWords(area, address));
      tell('Value', 3, 2, value);
      return `write ${value} to ${nameOf(area, address)}`;
    }
    case 15:
    case 16:
      if (pdu.length < 6 || pdu.length < 6 + (pdu[5] ?? 0)) return null;
      tell('Address', 1, 2, placeWords(area, address));
      tell('Count', 3, 2, String(count));
      tell('Bytes', 5, 1, String(pdu[5] ?? 0));
      tellValues(pdu, 6, pdu[5] ?? 0, fn === 16, tell);
      return `write ${counted(count, AREA_WORDS[area])} from ${nameOf(area, address)}`;
    case 22:
      if (pdu.length < 7) return null;
      tell('Address', 1, 2, placeWords('HR', address));
      tell('Kept bits', 3, 2, `${hex(word(pdu, 3), 4)}h`);
      tell('Set bits', 5, 2, `${hex(word(pdu, 5), 4)}h`);
      return `write bits of ${nameOf('HR', address)}: keep ${hex(word(pdu, 3), 4)}h, set ${hex(word(pdu, 5), 4)}h`;
    case 23:
      if (pdu.length < 10 + (pdu[9] ?? 0)) return null;
      tell('Read from', 1, 2, placeWords('HR', address));
      tell('Read count', 3, 2, String(count));
      tell('Write from', 5, 2, placeWords('HR', word(pdu, 5)));
      tell('Write count', 7, 2, String(word(pdu, 7)));
      tell('Bytes', 9, 1, String(pdu[9] ?? 0));
      tellValues(pdu, 10, pdu[9] ?? 0, true, tell);
      return `write ${word(pdu, 7)} registers from ${nameOf('HR', word(pdu, 5))}, read ${count} from ${nameOf('HR', address)}`;
    case 8:
      if (pdu.length < 5) return null;
      tell('Sub-function', 1, 2, address === 0 ? '0, echo' : `${address}, a counter`);
      tell('Data', 3, 2, `${hex(count, 4)}h`);
      return address === 0 ? `echo ${hex(count, 4)}h` : `counter ${address}`;
    case 43:
      if (pdu.length < 4) return null;
      tell('Kind', 1, 1, pdu[1] === 14 ? '14, device identification' : String(pdu[1]));
      tell('Extent', 2, 1, ['', 'basic', 'regular', 'extended', 'one object'][pdu[2] ?? 0] ?? String(pdu[2]));
      tell('First object', 3, 1, String(pdu[3] ?? 0));
      return 'read its identification';
    default:
      if (pdu.length > 1) tell('Data', 1, pdu.length - 1, hexOf(pdu.subarray(1)));
      return FUNCTION_WORDS.get(fn) ?? `function ${fn}`;
  }
}

function describeReply(pdu: Uint8Array, tell: Tell): string | null {
  const fn = pdu[0] ?? 0;
  const area = areaOf(fn);
  switch (fn) {
    case 1:
    case 2:
    case 3:
    case 4:
    case 23: {
      const bytes = pdu[1];
      if (bytes === undefined || pdu.length < 2 + bytes) return null;
      tell('Bytes', 1, 1, String(bytes));
      tellValues(pdu, 2, bytes, fn > 2, tell);
      return fn > 2
        ? `${bytes >> 1} register${bytes === 2 ? '' : 's'}: ${hexOf(pdu.subarray(2, 10))}${bytes > 8 ? ' …' : ''}`
        : `bits from the first: ${bitsOf(pdu.subarray(2, 2 + Math.min(bytes, 4)))}${bytes > 4 ? ' …' : ''}`;
    }
    case 5:
    case 6:
    case 15:
    case 16:
      if (pdu.length < 5) return null;
      tell('Address', 1, 2, placeWords(area, word(pdu, 1)));
      tell(fn < 10 ? 'Value' : 'Count', 3, 2, fn < 10 ? valueWords(word(pdu, 3)) : String(word(pdu, 3)));
      return fn < 10 ? `took the write to ${nameOf(area, word(pdu, 1))}` : `took ${word(pdu, 3)} from ${nameOf(area, word(pdu, 1))}`;
    case 43: {
      if (pdu.length < 7) return null;
      tell('Conformity', 3, 1, `${hex(pdu[3] ?? 0, 2)}h`);
      tell('More follows', 4, 1, pdu[4] ? `yes, from object ${pdu[5] ?? 0}` : 'no');
      let at = 7;
      for (let i = 0; i < (pdu[6] ?? 0) && at + 1 < pdu.length; i++) {
        const length = pdu[at + 1] ?? 0;
        tell(`Object ${pdu[at] ?? 0}`, at, 2 + length, `“${String.fromCharCode(...pdu.subarray(at + 2, at + 2 + length))}”`);
        at += 2 + length;
      }
      return 'says what it is';
    }
    default:
      if (pdu.length > 1) tell('Data', 1, pdu.length - 1, hexOf(pdu.subarray(1)));
      return FUNCTION_WORDS.get(fn) ?? `function ${fn}`;
  }
}

/** Registers one by one as they are read by most: hexadecimal, and decimal with and without a sign. */
function tellValues(pdu: Uint8Array, from: number, bytes: number, isRegisters: boolean, tell: Tell): void {
  if (!isRegisters) return tell('Bits', from, bytes, bitsOf(pdu.subarray(from, from + bytes)));
  for (let i = 0; i + 1 < bytes; i += 2) tell(`Register +${i / 2}`, from + i, 2, valueWords(word(pdu, from + i)));
}

/** In the order of their addresses: the first is the least significant of the first byte (V1.1b3, 6.1). */
function bitsOf(bytes: Uint8Array): string {
  return Array.from(bytes, (b) => [...b.toString(2).padStart(8, '0')].reverse().join('')).join(' ');
}

function valueWords(value: number): string {
  return `${hex(value, 4)}h, ${value}${value > 0x7fff ? ` or ${value - 0x10000}` : ''}`;
}

function areaOf(fn: number): Area {
  const read = (Object.keys(READ_FUNCTION) as Area[]).find((area) => READ_FUNCTION[area] === fn);
  return read ?? (fn === 5 || fn === 15 ? 'CO' : 'HR');
}

function nameOf(area: Area, offset: number): string {
  return formatArea({ area, offset, bit: null });
}

function placeWords(area: Area, offset: number): string {
  return `${nameOf(area, offset)}, ${AREA_WORDS[area]} ${offset} counted from 0`;
}

function word(bytes: Uint8Array, at: number): number {
  return ((bytes[at] ?? 0) << 8) | (bytes[at + 1] ?? 0);
}

function hex(value: number, digits: number): string {
  return value.toString(16).toUpperCase().padStart(digits, '0');
}

function hexOf(bytes: Uint8Array): string {
  return Array.from(bytes, (b) => hex(b, 2)).join(' ');
}
