/** One way to read a tag: where, as what, and how it is shown. Ours is one; each mistake leads to another. */
import { followToValue, textOf, unjudged, type SignalDefinition, type WireValue } from '../../signal.ts';
import { asNumber, type EngValue } from '../../value/engineering.ts';
import type { OtherPoints } from './otherPoints.ts';

export interface Way {
  readonly def: SignalDefinition;
  /** Bytes from the first one of the tag as it is mapped. */
  readonly at: number;
  /** The raw value is shifted to the left by so many bits, to the right where it is negative. */
  readonly bits: number;
  /** The decimal point stands so many places further to the right than the value has it. */
  readonly point: number;
  /** Address of another point of the device that is read in its place; null for its own. */
  readonly place: string | null;
}

/** What was seen on the wire at one moment: the tag's own value, and the memory around it where there is some. */
export interface Sight {
  /** Null where the device refuses to tell it. */
  readonly wire: WireValue | null;
  /** Memory in the order of the wire; `at` is the tag's first byte in it. */
  readonly around: { readonly bytes: Uint8Array; readonly at: number } | null;
  /** Other points of the device, where its points have names. */
  readonly others?: OtherPoints | null;
}

/** What a way shows; null where it shows nothing. */
export interface Shown {
  readonly value: EngValue | null;
  readonly number: number | null;
}

const NOTHING: Shown = { value: null, number: null };

/** The way that a tag is mapped. */
export function wayOf(def: SignalDefinition): Way {
  return { def: unjudged(def), at: 0, bits: 0, point: 0, place: null };
}

/** The bytes that a way reads; null where they were not seen. */
export function wireOf({ def, at, place }: Way, { wire, around, others }: Sight): WireValue | null {
  if (place !== null) return others?.points.get(place)?.wire ?? null;
  if (wire === null) return null;
  if (wire.kind !== 'bytes' || (at === 0 && def.type.bytes === wire.bytes.length)) return wire;
  const size = def.type.kind === 'boolean' ? wire.bytes.length : def.type.bytes;
  // A value of one byte in a register is taken out of its two by the codec.
  const taken = size === 1 && wire.bytes.length === 2 ? 2 : size;
  if (at === 0 && taken === wire.bytes.length) return wire;
  const from = (around?.at ?? 0) + at;
  if (!around || from < 0 || from + taken > around.bytes.length) return null;
  return { kind: 'bytes', bytes: around.bytes.subarray(from, from + taken) };
}

/** The first byte that a way reads, counted from the tag's own, and how many. */
export function bytesReadBy({ def, at }: Way): readonly [from: number, size: number] {
  return [at, def.type.kind === 'boolean' ? 2 : def.type.bytes];
}

export function shownBy(way: Way, sight: Sight): Shown {
  const wire = wireOf(way, sight);
  if (wire === null) return NOTHING;
  const { def, bits, point } = way;
  let { raw, eng } = followToValue(def, wire);
  if (bits !== 0 && raw !== null && typeof raw !== 'string' && typeof raw !== 'boolean') {
    raw = shifted(def, raw, bits);
    eng = raw === null ? null : followToValue(def, { kind: 'typed', value: raw }).eng;
  }
  if (eng === null) return NOTHING;
  const number = typeof eng === 'string' ? null : asNumber(eng);
  if (number !== null && !Number.isFinite(number)) return NOTHING;
  return point === 0 || number === null ? { value: eng, number } : { value: eng, number: number * 10 ** point };
}

/** The text of what a way shows. */
export function textBy(way: Way, sight: Sight): string {
  const { value, number } = shownBy(way, sight);
  if (way.point === 0 || number === null) return textOf(way.def, value);
  const plain = textOf(way.def, value);
  const places = plain.includes('.') ? plain.length - plain.indexOf('.') - 1 : 0;
  return number.toFixed(Math.max(0, places - way.point));
}

/** What tells two texts apart, without the text, which is dear to make: the number to the places that are shown, or the value. */
export function markBy(way: Way, sight: Sight): string | number {
  const { value, number } = shownBy(way, sight);
  if (typeof value === 'boolean' || typeof value === 'string') return String(value);
  if (number === null) return 'nothing';
  const { decimals } = way.def;
  if (decimals === null) return number;
  const places = Math.max(0, decimals - way.point);
  return Math.round(number * 10 ** places) / 10 ** places;
}

/** Bits that leave the value are lost, as in a register. Reals have no bits to shift. */
function shifted({ type }: SignalDefinition, raw: number | bigint, bits: number): number | bigint | null {
  if (type.kind !== 'integer') return null;
  const wide = bits > 0 ? BigInt(raw) << BigInt(bits) : BigInt(raw) >> BigInt(-bits);
  const width = type.bytes * 8;
  const held = type.signed ? BigInt.asIntN(width, wide) : BigInt.asUintN(width, wide);
  if (held < type.min || held > type.max) return null;
  return type.isWide ? held : Number(held);
}
