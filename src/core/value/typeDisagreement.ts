/** Where a tag is read as another type than its list, or its device, says it has. */
import { formatDataType, type DataType } from './dataType.ts';

/**
 * What reading one type as another does to the value, in a sentence; null where both read the same, or where the tag only
 * says more than was said: a WORD is bits without a meaning, and digits, fields and times are ways to read one.
 *
 * @param told what the list or the device says
 * @param read how the tag is read
 */
export function typeDisagreement(told: DataType, read: DataType): string | null {
  if (formatDataType(told) === formatDataType(read)) return null;
  if (told.kind === 'text' || read.kind === 'text') return ofTexts(told, read);
  if (told.bytes !== read.bytes && told.kind !== 'boolean' && read.kind !== 'boolean')
    return `It takes ${inBytes(told)}, and ${inBytes(read)} are read${told.kind === read.kind && read.bytes < told.bytes ? ': larger values are cut off' : ''}.`;
  if (told.kind !== read.kind) {
    if (told.kind === 'boolean' || read.kind === 'boolean') return `A ${told.name} read as a ${read.name} is another value.`;
    return told.kind === 'real'
      ? 'The pattern of a number with decimals is read as a whole number.'
      : isBits(told)
        ? null
        : 'A whole number is read as the pattern of a number with decimals.';
  }
  if (told.kind !== 'integer' || read.kind !== 'integer' || isBits(told)) return null;
  if (told.time && !read.time) return `It is a ${told.time.shows === 'duration' ? 'duration' : 'date or time'}, and shown as a plain count.`;
  if (read.time && told.time) return 'It is a time of another kind.';
  // A tag that says how the number lies in memory knows more than the list.
  if (read.time || read.coding !== told.coding || read.field) return told.coding === 'binary' ? null : 'It lies in memory in another way.';
  if (told.signed && !read.signed) return `Values below zero are read as ${read.max} and less.`;
  if (!told.signed && read.signed && !isBits(read)) return `Values from ${read.max + 1n} on are read as numbers below zero.`;
  return null;
}

function ofTexts(told: DataType, read: DataType): string | null {
  if (told.kind !== 'text' || read.kind !== 'text') return told.kind === 'text' ? 'It is a text.' : 'It is no text.';
  if (told.name !== read.name) return 'Its characters have another width.';
  if (read.room < told.room) return `It has room for ${told.room} characters, and ${read.room} are read: longer texts are cut off.`;
  // A list seldom says where a text ends, or its characters.
  return null;
}

function isBits(type: DataType): boolean {
  return type.kind === 'integer' && ['BYTE', 'WORD', 'DWORD', 'LWORD'].includes(type.name);
}

function inBytes({ bytes }: DataType): string {
  return bytes === 1 ? '1 byte' : `${bytes} bytes`;
}
