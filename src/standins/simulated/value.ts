/**
 * One value of a simulated device in its registers, and back. Written apart from the product's codec, so that a
 * wrong order or scale in the one shows against the other.
 */
import { reorder } from './byteGroups.ts';
import { dateBytes, dateOf, digitsIn, writeDigits } from './digits.ts';
import { textBytes, textOf, type SimulatedText } from './text.ts';

export interface SimulatedTag {
  readonly name: string;
  readonly area: 'HR' | 'IR' | 'CO' | 'DI';
  /** Counted from 0; of registers. */
  readonly offset: number;
  /** Bit inside a register, counted from the least significant; null for a whole value. */
  readonly bit: number | null;
  readonly kind: 'boolean' | 'signed' | 'unsigned' | 'real' | 'text' | 'date';
  readonly bytes: number;
  /** `binary`, `bcd`, `sign-magnitude`, `mod10000`; of dates `parts` or `bcd-clock` with what they show. */
  readonly coding: string;
  /** Only these bits of the registers are the value. */
  readonly field: { readonly low: number; readonly bits: number } | null;
  readonly text: SimulatedText | null;
  /** Letters of the bytes in the order of the wire, A the most significant. */
  readonly order: string;
  /** Shown = raw × factor + shift. */
  readonly factor: number;
  readonly shift: number;
  readonly unit: string;
  readonly low: number;
  readonly high: number;
  /** Values that the device takes from a panel stand still until somebody sets them. */
  readonly isSetPoint: boolean;
}

export type Shown = number | boolean | string;

/** Bytes as they lie in the registers. @param before what lies there now, of which a value of some bits leaves the rest */
export function toBytes(tag: SimulatedTag, shown: Shown, before: Buffer): Buffer {
  if (tag.text) return textBytes(tag, tag.text, String(shown));
  const width = tag.bytes + (tag.bytes % 2);
  const plain = Buffer.alloc(width);
  if (tag.kind === 'date') dateBytes(tag, String(shown)).copy(plain);
  else {
    const raw = (Number(shown) - tag.shift) / tag.factor;
    if (tag.field) putField(plain, reorder(before, tag.order, true), wholeOf(raw), tag.field);
    else if (tag.coding !== 'binary') writeDigits(plain, wholeOf(raw), tag);
    else if (tag.kind !== 'real') writeWhole(plain, wholeOf(raw), tag);
    else if (tag.bytes === 4) plain.writeFloatBE(raw);
    else plain.writeDoubleBE(raw);
  }
  return reorder(plain, tag.order, false);
}

export function fromBytes(tag: SimulatedTag, held: Buffer): Shown {
  if (tag.text) return textOf(tag, tag.text, held);
  const plain = reorder(held, tag.order, true);
  if (tag.kind === 'date') return dateOf(tag, plain);
  let raw: number;
  if (tag.kind === 'real') raw = tag.bytes === 4 ? plain.readFloatBE() : plain.readDoubleBE();
  else if (tag.coding !== 'binary') raw = Number(digitsIn(plain, tag));
  else {
    const bits = tag.field?.bits ?? tag.bytes * 8;
    const whole = plain.reduce((n, byte) => (n << 8n) | BigInt(byte), 0n);
    const cut = BigInt.asUintN(bits, whole >> BigInt(tag.field?.low ?? 0));
    raw = Number(tag.kind === 'signed' ? BigInt.asIntN(bits, cut) : cut);
  }
  return raw * tag.factor + tag.shift;
}

/** Beyond 64 bits it is as good as at their end; a scale that leads nowhere leads to 0. */
function wholeOf(raw: number): bigint {
  return Number.isNaN(raw) ? 0n : BigInt(Math.round(Math.min(2 ** 64, Math.max(-(2 ** 64), raw))));
}

/** Keeps inside what the type holds. */
function writeWhole(into: Buffer, raw: bigint, { kind, bytes }: SimulatedTag): void {
  const bits = BigInt(bytes * 8);
  const [least, most] = kind === 'signed' ? [-(1n << (bits - 1n)), (1n << (bits - 1n)) - 1n] : [0n, (1n << bits) - 1n];
  let rest = BigInt.asUintN(into.length * 8, raw < least ? least : raw > most ? most : raw);
  for (let i = into.length - 1; i >= 0; i--) {
    into[i] = Number(rest & 0xffn);
    rest >>= 8n;
  }
}

/** Bits of a word that are a value; the others stay. */
function putField(into: Buffer, before: Buffer, raw: bigint, { low, bits }: NonNullable<SimulatedTag['field']>): void {
  const all = before.reduce((n, byte) => (n << 8n) | BigInt(byte), 0n);
  const mask = ((1n << BigInt(bits)) - 1n) << BigInt(low);
  let rest = (all & ~mask) | ((raw << BigInt(low)) & mask);
  for (let i = into.length - 1; i >= 0; i--) {
    into[i] = Number(rest & 0xffn);
    rest >>= 8n;
  }
}
