/** What a block of known values says of the controller that filled it. Pure. */
import type { Declarations, Member } from '../taglist/declared.ts';
import { Layouts, LAYOUTS, type Layout } from '../taglist/layout.ts';
import { ORDERS, orderInWords, toWireOrder, type ByteOrder } from '../value/byteOrder.ts';
import { TEXT_LAYOUT_WORDS, type TextLayout } from '../value/dataType.ts';
import { fail, ok, type Result } from '../result.ts';
import { FENCES, FLAGS, INNER, LONG, LONG_REAL, MARKS, REAL, SET_BIT, TEXT, TEXT_ROOM, WHOLE } from './pattern.ts';

/** One thing that was found out, with the bytes that show it. */
export interface SignatureEvidence {
  readonly title: string;
  /** What it is, in words; null where the block does not show it. */
  readonly found: string | null;
  /** Bytes as they came, in hex; empty where there are none to show. */
  readonly seen: string;
}

/** What is not known is null. */
export interface Signature {
  /** Words from the first that was looked at to the first of the block. */
  readonly at: number;
  readonly order16: ByteOrder;
  readonly order32: ByteOrder | null;
  readonly order64: ByteOrder | null;
  readonly orderText: ByteOrder | null;
  readonly bits: { readonly from: 'least' | 'most'; readonly base: 0 | 1 } | null;
  readonly textLayout: TextLayout | null;
  readonly structures: Exclude<Layout, 'none'> | null;
  readonly evidence: readonly SignatureEvidence[];
}

/**
 * Looks for the block among words that were read.
 *
 * @param words two bytes each as they came over the wire, null where none came
 * @returns a problem where the block is not among them
 */
export function recognise(words: readonly (Uint8Array | null)[]): Result<Signature> {
  for (const order16 of ORDERS[2]) {
    const values = words.map((word) => word && (order16 === 'AB' ? ((word[0] ?? 0) << 8) | (word[1] ?? 0) : ((word[1] ?? 0) << 8) | (word[0] ?? 0)));
    const at = values.findIndex((_value, i) => MARKS.every((mark, n) => values[i + n] === mark));
    if (at >= 0) return ok(new Reading(words, values, at, order16).signature());
  }
  return fail('signature', 'The block is not there.', 'Check that its program runs, and at which word it begins.');
}

class Reading {
  readonly #words: readonly (Uint8Array | null)[];
  readonly #values: readonly (number | null)[];
  readonly #at: number;
  readonly #order16: ByteOrder;
  readonly #orderText: ByteOrder | null;
  /** Bytes as the controller counts them, from the first of the words on; -1 where none came. */
  readonly #memory: readonly number[];
  readonly #evidence: SignatureEvidence[] = [];

  constructor(words: readonly (Uint8Array | null)[], values: readonly (number | null)[], at: number, order16: ByteOrder) {
    this.#words = words;
    this.#values = values;
    this.#at = at;
    this.#order16 = order16;
    const raw = words.flatMap((word) => (word ? [word[0] ?? 0, word[1] ?? 0] : [-1, -1]));
    // A text is written byte by byte: where it reads as one, the bytes are in the controller's order.
    this.#orderText = ORDERS[2].find((order) => indexOf(order === 'AB' ? raw : swapped(raw), TEXT_BYTES, at * 2) >= 0) ?? null;
    this.#memory = this.#orderText === 'BA' ? swapped(raw) : raw;
  }

  signature(): Signature {
    const [order16, start, end] = [this.#order16, (this.#at + MARKS.length) * 2, this.#memory.length];
    this.#say('Order of 16-bit values', `${order16}, ${orderInWords(order16)}`, this.#at * 2, start);
    const fences = this.#fences(start);
    const order32 = this.#order(ORDERS[4], 'Order of 32-bit values', [WHOLE, REAL.bits], start, fences[0] ?? end);
    const order64 = this.#order(ORDERS[8], 'Order of 64-bit values', [LONG, LONG_REAL.bits], fences[4] ?? start, fences[5] ?? end);
    const [, bitsPart, flagsPart, textPart, innerPart] = fences.map((fence, i): Part | null => {
      const before = i === 0 ? start - 2 : fences[i - 1];
      return typeof before === 'number' && fence !== null ? { from: before + 2, to: fence } : null;
    });
    const bits = this.#bits(bitsPart ?? null);
    const flags = this.#flags(flagsPart ?? null);
    const textLayout = this.#text(textPart ?? null);
    const structures = this.#structures(innerPart ?? null, flags);
    return { at: this.#at, order16, order32, order64, orderText: this.#orderText, bits, textLayout, structures, evidence: this.#evidence };
  }

  /** Where each begins, in bytes, null from the first on that is not there. */
  #fences(start: number): readonly (number | null)[] {
    let from: number | null = start;
    return FENCES.map((fence) => {
      const at: number = from === null ? -1 : indexOf(this.#memory, this.#wordBytes(fence), from);
      from = at < 0 ? null : at + 2;
      return at < 0 ? null : at;
    });
  }

  /** A word as it lies in the controller's memory. */
  #wordBytes(value: number): readonly number[] {
    const isHighFirst = this.#order16 === (this.#orderText ?? 'AB');
    return isHighFirst ? [value >> 8, value & 0xff] : [value & 0xff, value >> 8];
  }

  /** @param from first byte and the one after the last, which are shown with the words that they are part of, as they came */
  #say(title: string, found: string | null, from = 0, to = 0): void {
    const seen = this.#words.slice(Math.floor(from / 2), Math.ceil(to / 2)).map((word) => {
      return word ? Array.from(word, (byte) => byte.toString(16).toUpperCase().padStart(2, '0')).join(' ') : '·· ··';
    });
    this.#evidence.push({ title, found, seen: seen.join('  ') });
  }

  /** The order in which a whole number lies, and whether one with decimals lies in the same. */
  #order(orders: readonly ByteOrder[], title: string, values: readonly [whole: bigint, real: bigint], from: number, to: number): ByteOrder | null {
    const [ofWhole, ofReal] = values.map((value) => this.#placeOf(orders, value, from, to));
    const found = ofWhole ?? ofReal ?? null;
    const width = (orders[0] ?? '').length;
    if (!found) this.#say(title, null);
    else this.#say(title, `${found.order}, ${orderInWords(found.order)}`, found.at, found.at + width);
    if (ofWhole && ofReal && ofReal.order !== ofWhole.order)
      this.#say('… of numbers with decimals', `${ofReal.order}, not that of whole numbers: set it at those tags`, ofReal.at, ofReal.at + width);
    return found?.order ?? null;
  }

  #placeOf(orders: readonly ByteOrder[], value: bigint, from: number, to: number): { readonly order: ByteOrder; readonly at: number } | null {
    const width = (orders[0] ?? '').length;
    const plain = Uint8Array.from({ length: width }, (_, i) => Number((value >> BigInt(8 * (width - 1 - i))) & 0xffn));
    for (const order of orders) {
      const wire = [...toWireOrder(plain, order)];
      const at = indexOf(this.#memory, this.#orderText === 'BA' ? swapped(wire) : wire, from);
      if (at >= 0 && at + width <= to) return { order, at };
    }
    return null;
  }

  #bits(part: Part | null): Signature['bits'] {
    const bytes = part ? this.#memory.slice(part.from, part.to) : [];
    const [first = 0, second = 0] = this.#wordBytes(0x0100)[0] === 1 ? bytes : [...bytes].reverse();
    const value = bytes.length === 2 ? first * 256 + second : 0;
    const fromLeast = value <= 0 || (value & (value - 1)) !== 0 ? -1 : Math.log2(value);
    const ways = [
      { from: 'least', base: 0, at: SET_BIT },
      { from: 'least', base: 1, at: SET_BIT - 1 },
      { from: 'most', base: 0, at: 15 - SET_BIT },
      { from: 'most', base: 1, at: 16 - SET_BIT },
    ] as const;
    const way = ways.find(({ at }) => at === fromLeast);
    this.#say('Bits of a word', way ? `counted from the ${way.from} significant, the first is ${way.base}` : null, part?.from, part?.to);
    return way ? { from: way.from, base: way.base } : null;
  }

  /** Bytes that an array of BOOL takes. */
  #flags(part: Part | null): number | null {
    const bytes = part ? this.#memory.slice(part.from, part.to) : [];
    const words = FLAG_WORDS[bytes.length];
    const isKnown = words !== undefined && bytes.some((byte) => byte > 0);
    this.#say(`An array of ${FLAGS} BOOL`, isKnown ? words : null, part?.from, part?.to);
    return isKnown ? bytes.length : null;
  }

  #text(part: Part | null): TextLayout | null {
    const at = part ? indexOf(this.#memory, TEXT_BYTES, part.from) : -1;
    const isThere = part !== null && at >= 0 && at < part.to && this.#orderText !== null;
    if (this.#orderText !== null) this.#say('Order of texts', `${this.#orderText}, ${orderInWords(this.#orderText)}`, part?.from, part?.to);
    const layout = isThere ? layoutOf(this.#memory.slice(part.from, part.to), at - part.from, this.#wordBytes(TEXT.length)) : null;
    this.#say('Texts', layout && TEXT_LAYOUT_WORDS[layout], part?.from, part?.to);
    return layout;
  }

  /** The layout by which every byte of the structure is where it was found. */
  #structures(part: Part | null, flags: number | null): Signature['structures'] {
    /** Of a layout: what stands before the first member is padding. */
    const begin = (layout: Layout): number => {
      const value = INNER[0]?.value ?? 0;
      return part ? indexOf(this.#memory, layout === 'words' ? this.#wordBytes(value) : [value], part.from) : -1;
    };
    const found = part
      ? LAYOUTS.find((layout): layout is Exclude<Layout, 'none'> => {
          if (layout === 'none' || (flags !== null && (layout === 'words') !== (flags === FLAGS * 2))) return false;
          const places = new Layouts(NO_TYPES, layout).placed(INNER_MEMBERS);
          return INNER.every(({ type, value }, i) => {
            const place = (places[i] ?? -8) / 8 + begin(layout);
            if (type !== 'BYTE') return true;
            // Where every member begins a word, a byte is the low one of it.
            return layout === 'words' ? indexOf(this.#memory, this.#wordBytes(value), place) === place : this.#memory[place] === value;
          });
        })
      : undefined;
    this.#say('Members of structures', found ? LAYOUT_WORDS[found] : null, part?.from, part?.to);
    return found ?? null;
  }
}

/** Bytes of memory between two fences. */
interface Part {
  readonly from: number;
  readonly to: number;
}

const FLAG_WORDS: Readonly<Record<number, string>> = { 2: 'sixteen in a word', [FLAGS]: 'a byte each', [FLAGS * 2]: 'a word each' };
const TEXT_BYTES = Array.from(TEXT, (sign) => sign.charCodeAt(0));

const NO_TYPES: Declarations['types'] = new Map();
const INNER_MEMBERS: readonly Member[] = INNER.map(({ name, type }) => ({
  name,
  type: { kind: 'elementary', text: type },
  initial: null,
  comment: '',
  isForPanel: false,
  atBit: null,
}));

const LAYOUT_WORDS: Readonly<Record<Exclude<Layout, 'none'>, string>> = {
  words: 'each begins a 16-bit word',
  bytes: 'one after another',
  even: 'one after another, values of two bytes and more at even ones',
  aligned: 'each at a multiple of its own size',
};
function swapped(bytes: readonly number[]): readonly number[] {
  return bytes.map((_byte, i) => bytes[i ^ 1] ?? 0);
}

/** Where some bytes begin among others; -1 where they do not. */
function indexOf(bytes: readonly number[], wanted: readonly number[], from: number): number {
  for (let at = Math.max(0, from); at + wanted.length <= bytes.length; at++) if (wanted.every((byte, n) => bytes[at + n] === byte)) return at;
  return -1;
}

/** @param at where the text begins among its bytes; @param word its length as a word in memory */
function layoutOf(bytes: readonly number[], at: number, word: readonly number[]): TextLayout | null {
  const front = bytes.slice(0, at);
  const { length } = TEXT;
  if (at === 0) {
    const next = bytes[length];
    return next === 0 ? 'zero-ended' : next === 0x20 ? 'blank-padded' : null;
  }
  if (at === 1 && front[0] === length) return 'length-byte';
  if (at === 2) return front[0] === TEXT_ROOM && front[1] === length ? 'capacity-length' : indexOf(front, word, 0) === 0 ? 'length-word' : null;
  return at === 4 && front.filter((byte) => byte === length).length === 1 && front.filter((byte) => byte === 0).length === 3 ? 'length-dword' : null;
}
