/**
 * Whether a number is one that a process has. Wrong orders and types give numbers next to nothing, beyond everything, or the
 * letters of a text. What is told here is a doubt, not a mistake: a range that somebody has set is asked instead.
 */
import type { RawValue } from './codec.ts';
import type { DataType } from './dataType.ts';

/** Between these lies what machines measure (common practice). */
const LEAST = 1e-20;
const MOST = 1e20;
/** Four letters read as a whole number are larger than this, and few counts are. */
const LEAST_TEXT = 1e7;
const MOST_TEXT_BYTES = 8;

/** Why a value is doubtful by itself; null where it is not. @param bytes as they came, null where it came typed */
export function implausibility(type: DataType, raw: RawValue, bytes: Uint8Array | null): string | null {
  if (typeof raw !== 'number' && typeof raw !== 'bigint') return null;
  if (type.kind === 'real') {
    const size = Math.abs(Number(raw));
    if (size > 0 && (size < LEAST || size > MOST)) return `${size < LEAST ? 'next to nothing' : 'beyond all measures'}: hardly a number of a process`;
  } else if (type.kind !== 'integer' || type.coding !== 'binary' || type.field || type.time) return null;
  if (type.bytes < 4 || bytes === null || (raw < LEAST_TEXT && raw > -LEAST_TEXT)) return null;
  const text = lettersIn(bytes);
  return text === null ? null : `its bytes read as the text “${text}”`;
}

/** The bytes as a text where all of them are letters, digits and blanks, most of them letters. */
export function lettersIn(bytes: Uint8Array): string | null {
  let letters = 0;
  for (const byte of bytes) {
    const isLetter = (byte >= 0x41 && byte <= 0x5a) || (byte >= 0x61 && byte <= 0x7a);
    if (isLetter) letters++;
    else if (byte !== 0x20 && !(byte >= 0x30 && byte <= 0x39)) return null;
  }
  return letters * 4 >= bytes.length * 3 && bytes.length <= MOST_TEXT_BYTES ? String.fromCharCode(...bytes) : null;
}

/** A step of a number with decimals from one reading to the next that no process makes, either way. */
const JUMP = 1e6;
/** So many readings without anything odd, and what was odd is forgotten. */
const CALM = 20;
/** A count that has only grown so often is taken for a counter. */
const GROWTH = 8;

/** Watches one value: whether its exponent jumps, or a counter runs backwards. */
export class PlausibilityWatch {
  #last: number | null = null;
  #growth = 0;
  #jumps = 0;
  #calm = 0;
  #doubt: string | null = null;

  /** Takes the next good value. @returns why it is doubtful by what came before; null where it is not */
  next(type: DataType, raw: RawValue): string | null {
    const value = typeof raw === 'bigint' || typeof raw === 'number' ? Number(raw) : null;
    const last = this.#last;
    if (value === null) return null;
    this.#last = value;
    if (last === null || value === last) return this.#doubt;
    const isOdd = type.kind === 'real' ? this.#jumped(last, value) : isCounter(type) && this.#ranBack(type, last, value);
    if (isOdd) this.#calm = 0;
    else if (++this.#calm >= CALM) {
      this.#doubt = null;
      this.#jumps = 0;
    }
    return this.#doubt;
  }

  #jumped(last: number, value: number): boolean {
    const ratio = last === 0 || value === 0 ? 1 : Math.abs(value / last);
    if (ratio < JUMP && ratio > 1 / JUMP) return false;
    // One may be a start; several are none.
    if (++this.#jumps >= 2) this.#doubt = 'it jumps by a factor of more than a million from reading to reading';
    return true;
  }

  #ranBack(type: DataType & { readonly kind: 'integer' }, last: number, value: number): boolean {
    if (value > last) {
      this.#growth++;
      return false;
    }
    const isReset = value < last / 10;
    const isOver = last > Number(type.max) * 0.9;
    const isOdd = this.#growth >= GROWTH && !isReset && !isOver;
    this.#growth = 0;
    if (isOdd) this.#doubt = 'it has only grown, and now ran backwards';
    return isOdd;
  }
}

/** What only grows is an unsigned count of 32 bits and more (common practice). */
function isCounter(type: DataType): type is DataType & { readonly kind: 'integer' } {
  return type.kind === 'integer' && !type.signed && type.bytes >= 4 && type.coding === 'binary' && !type.field && !type.time;
}

/** Whether the way from one reading to the next can tell something of a type. */
export function isWatched(type: DataType): boolean {
  return type.kind === 'real' || isCounter(type);
}
