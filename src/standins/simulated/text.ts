/** Texts of a simulated device. Their characters come from a library that the product does not read them with. */
import { decode, encode } from 'iconv-lite';
import { reorder } from './byteGroups.ts';
import type { SimulatedTag } from './value.ts';

export interface SimulatedText {
  /** `zero-ended`, `blank-padded`, or what stands in front: `length-byte`, `length-word`, `length-dword`, `capacity-length`. */
  readonly layout: string;
  readonly characters: string;
  /** Bytes of one unit of its length. */
  readonly unit: 1 | 2;
}

const NAMES: Readonly<Record<string, string>> = { 'utf-16': 'utf-16be', 'latin-1': 'iso-8859-1' };
const FRONT: Readonly<Record<string, number>> = { 'length-byte': 1, 'length-word': 2, 'length-dword': 4, 'capacity-length': 2 };

function frontOf({ layout, unit }: SimulatedText): number {
  const front = FRONT[layout] ?? 0;
  return Math.ceil(front / unit) * unit;
}

/** A length in registers of its own is a number there, however the bytes of the text are swapped. */
function lengthRegister(layout: SimulatedText, order: string): number | null {
  if (layout.layout === 'length-word' || (layout.layout === 'length-byte' && layout.unit === 2)) return 0;
  return layout.layout === 'length-dword' ? (order === 'BA' ? 0 : 2) : null;
}

export function textBytes({ bytes, order }: SimulatedTag, text: SimulatedText, shown: string): Buffer {
  const front = frontOf(text);
  const plain = Buffer.alloc(bytes + (bytes % 2));
  const cut = encode(shown, NAMES[text.characters] ?? text.characters).subarray(0, bytes - front);
  if (text.layout === 'blank-padded') for (let i = 0; i < bytes; i += text.unit) plain[i + text.unit - 1] = 0x20;
  cut.copy(plain, bytes === 1 ? 1 : front);
  const length = cut.length / text.unit;
  if (text.layout === 'length-byte' && text.unit === 1) plain[0] = length;
  if (text.layout === 'capacity-length') [plain[0], plain[1]] = [bytes - front, length];
  const wire = reorder(plain, order, false);
  const register = lengthRegister(text, order);
  if (register !== null) wire.writeUInt16BE(length, register);
  return wire;
}

export function textOf({ bytes, order }: SimulatedTag, text: SimulatedText, held: Buffer): string {
  const plain = reorder(held, order, true);
  const front = bytes === 1 ? 1 : frontOf(text);
  const register = lengthRegister(text, order);
  const length =
    register !== null ? held.readUInt16BE(register) : text.layout === 'capacity-length' ? plain[1] : text.layout === 'length-byte' ? plain[0] : null;
  const room = plain.subarray(front, bytes === 1 ? 2 : bytes);
  const shown = decode(
    length === null || length === undefined ? room : room.subarray(0, length * text.unit),
    NAMES[text.characters] ?? text.characters,
  );
  if (length !== null) return shown;
  const ended = shown.includes('\0') ? shown.slice(0, shown.indexOf('\0')) : shown;
  return text.layout === 'blank-padded' ? ended.replace(/ +$/, '') : ended;
}
