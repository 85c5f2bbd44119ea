/** Dates and times in pieces: each in a register, or as BCD in the bytes of a clock. Both directions side by side. */
import { fail, ok, type Result } from '../result.ts';
import { digitsOf } from './digits.ts';
import type { IntegerType } from './dataType.ts';
import { dayMs } from './timeText.ts';

interface Parts {
  readonly year: number;
  readonly month: number;
  readonly day: number;
  readonly hour: number;
  readonly minute: number;
  readonly second: number;
  readonly ms: number;
}
const MIDNIGHT = { hour: 0, minute: 0, second: 0, ms: 0 };
const DAY_ONE = { year: 1970, month: 1, day: 1 };

/** Milliseconds since 1970-01-01; refuses what no calendar or clock has. */
function msOf({ year, month, day, hour, minute, second, ms }: Parts): Result<bigint> {
  const at = dayMs(year, month, day);
  const shown = `${year}-${month}-${day} ${hour}:${minute}:${second}`;
  return at === null || hour > 23 || minute > 59 || second > 59
    ? fail(
        'not-a-date',
        `${shown} is no date and time.`,
        'Check the address and how the controller keeps its clock; a clock that was never set is met too.',
      )
    : ok(BigInt(at) + BigInt(((hour * 60 + minute) * 60 + second) * 1000 + ms));
}

function partsOf(ms: bigint): Parts {
  const at = new Date(Number(ms));
  return {
    year: at.getUTCFullYear(),
    month: at.getUTCMonth() + 1,
    day: at.getUTCDate(),
    hour: at.getUTCHours(),
    minute: at.getUTCMinutes(),
    second: at.getUTCSeconds(),
    ms: at.getUTCMilliseconds(),
  };
}

/** @returns seconds since 1970-01-01, or since midnight. @param bytes the high byte of each register first */
export function decodeParts(type: IntegerType, bytes: Uint8Array): Result<bigint> {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const of = (register: number): number => view.getUint16(register * 2);
  const date = type.time?.shows === 'timeOfDay' ? DAY_ONE : { year: of(0), month: of(1), day: of(2) };
  const from = type.time?.shows === 'dateTime' ? 3 : 0;
  const time = type.time?.shows === 'date' ? MIDNIGHT : { hour: of(from), minute: of(from + 1), second: of(from + 2), ms: 0 };
  const ms = msOf({ ...date, ...time });
  return ms.ok ? ok(ms.value / 1000n) : ms;
}

/** The inverse of {@link decodeParts}. */
export function encodeParts(type: IntegerType, seconds: bigint): Uint8Array {
  const { year, month, day, hour, minute, second } = partsOf(seconds * 1000n);
  const registers =
    type.time?.shows === 'date'
      ? [year, month, day]
      : type.time?.shows === 'timeOfDay'
        ? [hour, minute, second]
        : [year, month, day, hour, minute, second];
  const out = new Uint8Array(type.bytes);
  const view = new DataView(out.buffer);
  registers.forEach((value, i) => view.setUint16(i * 2, value));
  return out;
}

/**
 * Eight bytes: year, month, day, hour, minute, second, two digits of milliseconds, the third with the day of the week,
 * which is 1 on Sunday (common practice). Years of two digits are 1990 to 2089.
 * @returns milliseconds since 1970-01-01
 */
export function decodeClock(bytes: Uint8Array): Result<bigint> {
  const digits = digitsOf(bytes.subarray(0, 8));
  if (!/^\d{15}/.test(digits))
    return fail('not-digits', `16#${digits.toUpperCase()} holds a digit above 9, so it is no clock in BCD.`, 'Check order and address.');
  const two = (at: number): number => Number(digits.slice(at * 2, at * 2 + 2));
  const year = two(0) + (two(0) < 90 ? 2000 : 1900);
  return msOf({ year, month: two(1), day: two(2), hour: two(3), minute: two(4), second: two(5), ms: Number(digits.slice(12, 15)) });
}

/** The inverse of {@link decodeClock}. */
export function encodeClock(ms: bigint): Uint8Array {
  const { year, month, day, hour, minute, second, ms: rest } = partsOf(ms);
  const two = (value: number): string => String(value % 100).padStart(2, '0');
  const weekday = new Date(Number(ms)).getUTCDay() + 1;
  const digits = [year, month, day, hour, minute, second].map(two).join('') + String(rest).padStart(3, '0') + weekday;
  return Uint8Array.from({ length: 8 }, (_, i) => parseInt(digits.slice(i * 2, i * 2 + 2), 16));
}
