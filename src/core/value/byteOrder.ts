/**
 * The order of a value's bytes on the wire, as a permutation written in letters: A is the most significant
 * byte. `CDAB` means that the wire carries the third byte first: words swapped.
 */
import { fail, ok, type Result } from '../result.ts';
import type { DataType } from './dataType.ts';

export type ByteOrder = string;
/** Bytes that an order permutes. */
export type OrderWidth = 2 | 4 | 6 | 8;

/** Every order met in practice, by width in bytes: bytes, words and double words each swapped or not. */
export const ORDERS: Readonly<Record<OrderWidth, readonly ByteOrder[]>> = {
  2: ['AB', 'BA'],
  4: ['ABCD', 'CDAB', 'BADC', 'DCBA'],
  6: ['ABCDEF', 'EFCDAB', 'BADCFE', 'FEDCBA'],
  8: ['ABCDEFGH', 'GHEFCDAB', 'BADCFEHG', 'HGFEDCBA', 'CDABGHEF', 'EFGHABCD', 'DCBAHGFE', 'FEHGBADC'],
};

const WORDS: Readonly<Record<string, string>> = {
  AB: 'high byte first',
  BA: 'bytes swapped',
  ABCD: 'high word first',
  CDAB: 'words swapped',
  BADC: 'bytes swapped',
  DCBA: 'words and bytes swapped',
  ABCDEF: 'high word first',
  EFCDAB: 'words swapped',
  BADCFE: 'bytes swapped',
  FEDCBA: 'words and bytes swapped',
  ABCDEFGH: 'high word first',
  GHEFCDAB: 'words swapped',
  BADCFEHG: 'bytes swapped',
  HGFEDCBA: 'words and bytes swapped',
  CDABGHEF: 'words swapped within each half',
  EFGHABCD: 'halves swapped',
  DCBAHGFE: 'all bytes swapped within each half',
  FEHGBADC: 'halves and bytes swapped',
};

/**
 * Width in bytes that the order of a type permutes. Registers come in twos; texts, and dates in pieces, swap within each
 * register alone.
 */
export function orderWidth(type: DataType): OrderWidth {
  switch (type.kind) {
    case 'boolean':
    case 'text':
      return 2;
    case 'real':
      return type.bytes;
    case 'integer':
      return type.bytes === 1 || type.coding === 'parts' || type.coding === 'bcd-clock' ? 2 : (type.bytes as OrderWidth);
  }
}

/** An order of one width that moves words and bytes as one of another width does: `CDAB` is `EFCDAB` of three registers. */
export function orderLike(order: ByteOrder, width: OrderWidth): ByteOrder {
  const moves = WORDS[order];
  return ORDERS[width].find((other) => WORDS[other] === moves) ?? (ORDERS[width][0] as ByteOrder);
}

/** The order of a type whose bytes nobody has moved. */
export function plainOrder(type: DataType): ByteOrder {
  return ORDERS[orderWidth(type)][0] ?? 'AB';
}

/** The order in plain words, such as “words swapped”. */
export function orderInWords(order: ByteOrder): string {
  return WORDS[order] ?? order;
}

/** Accepts an order for a type, or says which ones fit. */
export function parseOrder(text: string, type: DataType): Result<ByteOrder> {
  const order = text.trim().toUpperCase();
  const fitting = ORDERS[orderWidth(type)];
  if (fitting.includes(order)) return ok(order);
  return fail('order-unfit', `“${text.trim().slice(0, 20)}” is not an order of a ${type.name}.`, `Use one of ${fitting.join(', ')}.`);
}

function placesOf(order: ByteOrder): readonly number[] {
  return Array.from(order, (_, i) => order.indexOf(String.fromCharCode(65 + i)));
}

const PLACES: ReadonlyMap<ByteOrder, readonly number[]> = new Map(
  Object.values(ORDERS)
    .flat()
    .map((order) => [order, placesOf(order)]),
);

/** Places, in the wire's bytes, of one value's bytes from the most significant on. */
export function placesIn(order: ByteOrder): readonly number[] {
  return PLACES.get(order) ?? placesOf(order);
}

/** Whether the wire carries the most significant byte first, so that nothing has to be moved. */
export function isPlain(order: ByteOrder): boolean {
  return order === 'AB' || order === 'ABCD' || order === 'ABCDEF' || order === 'ABCDEFGH';
}

/**
 * Brings wire bytes into the order most significant first, group by group of the order's width.
 * @param bytes a whole number of groups; @returns a new array of the same length
 */
export function fromWireOrder(bytes: Uint8Array, order: ByteOrder): Uint8Array {
  const places = placesIn(order);
  const out = new Uint8Array(bytes.length);
  for (let group = 0; group < bytes.length; group += places.length)
    for (let i = 0; i < places.length; i++) out[group + i] = bytes[group + (places[i] ?? 0)] ?? 0;
  return out;
}

/** The inverse of {@link fromWireOrder}. */
export function toWireOrder(bytes: Uint8Array, order: ByteOrder): Uint8Array {
  const places = placesIn(order);
  const out = new Uint8Array(bytes.length);
  for (let group = 0; group < bytes.length; group += places.length)
    for (let i = 0; i < places.length; i++) out[group + (places[i] ?? 0)] = bytes[group + i] ?? 0;
  return out;
}
