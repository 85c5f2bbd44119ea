/** Texts in memory: where one ends, and what stands in front of it. Both directions side by side. */
import { fail, ok, type Result } from '../result.ts';
import { decodeCharacters, encodeCharacters } from './characters.ts';
import { formatDataType, frontBytes, type TextType } from './dataType.ts';

/**
 * @param bytes     whole registers, the bytes of the text in their order
 * @param isSwapped whether the wire had the bytes of each register the other way round: a length in a register of its own
 *                  is a number of the controller and has its high byte first on the wire all the same (common practice)
 */
export function decodeText(type: TextType, bytes: Uint8Array, isSwapped: boolean): Result<string> {
  const front = frontBytes(type);
  if (type.name === 'CHAR') return decodeCharacters(bytes.subarray(bytes[1] === 0 ? 2 : 1, 2), type.characters);
  const size = type.name === 'STRING' ? 1 : 2;
  const text = bytes.subarray(front, type.bytes);
  const length = lengthOf(type, bytes, isSwapped);
  if (length === null) {
    const end = endOf(text, size);
    const read = decodeCharacters(text.subarray(0, end), type.characters);
    return read.ok && type.layout === 'blank-padded' ? ok(read.value.replace(/ +$/, '')) : read;
  }
  if (length > type.room)
    return fail(
      'text-length',
      `Its length is given as ${length}, and ${formatDataType(type)} has room for ${type.room}.`,
      'Check the address, the order and how the controller keeps its texts.',
    );
  return decodeCharacters(text.subarray(0, length * size), type.characters);
}

/** What stands in front of the text as its length; null where nothing does. */
function lengthOf({ layout, name }: TextType, bytes: Uint8Array, isSwapped: boolean): number | null {
  const register = (at: number): number =>
    isSwapped ? ((bytes[at + 1] ?? 0) << 8) | (bytes[at] ?? 0) : ((bytes[at] ?? 0) << 8) | (bytes[at + 1] ?? 0);
  switch (layout) {
    case 'zero-ended':
    case 'blank-padded':
      return null;
    case 'length-byte':
      return name === 'WSTRING' ? register(0) : (bytes[0] ?? 0);
    case 'length-word':
      return register(0);
    case 'length-dword':
      return isSwapped ? register(2) * 65_536 + register(0) : register(0) * 65_536 + register(2);
    case 'capacity-length':
      return bytes[1] ?? 0;
  }
}

function endOf(bytes: Uint8Array, size: 1 | 2): number {
  for (let i = 0; i + size <= bytes.length; i += size) if (bytes[i] === 0 && (size === 1 || bytes[i + 1] === 0)) return i;
  return bytes.length;
}

/** The inverse of {@link decodeText}; what the text does not fill is 0, or blank where blanks fill it. */
export function encodeText(type: TextType, text: string, isSwapped: boolean): Result<Uint8Array> {
  if (text.includes('\0')) return fail('character', 'A text cannot hold the character NUL, which ends it.', 'Leave it away.');
  const coded = encodeCharacters(text, type.characters);
  if (!coded.ok) return coded;
  const size = type.name === 'STRING' || type.name === 'CHAR' ? 1 : 2;
  const length = coded.value.length / size;
  if (length > type.room)
    return fail(
      'out-of-type',
      `The text has ${length} ${type.characters === 'utf-8' ? 'bytes' : 'characters'}, the tag holds ${type.room}.`,
      'Shorten it.',
    );
  const out = new Uint8Array(type.bytes + (type.bytes % 2));
  if (type.name === 'CHAR')
    return fail('byte-alone', 'Half a register cannot be written alone.', 'Let the controller offer the value as a whole register.');
  const front = frontBytes(type);
  if (type.layout === 'blank-padded')
    for (let i = front; i < type.bytes; i += size) {
      out[i + size - 1] = 0x20;
    }
  out.set(coded.value, front);
  const register = (at: number, value: number): void => {
    out[isSwapped ? at + 1 : at] = value >> 8;
    out[isSwapped ? at : at + 1] = value & 0xff;
  };
  switch (type.layout) {
    case 'zero-ended':
    case 'blank-padded':
      break;
    case 'length-byte':
      if (type.name === 'WSTRING') register(0, length);
      else out[0] = length;
      break;
    case 'length-word':
      register(0, length);
      break;
    case 'length-dword':
      register(isSwapped ? 0 : 2, length);
      break;
    case 'capacity-length':
      out[0] = type.room;
      out[1] = length;
      break;
  }
  return ok(out);
}
