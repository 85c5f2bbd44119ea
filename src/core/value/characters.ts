/**
 * Between bytes and characters. The tables of legacy character sets are those of the platform (WHATWG Encoding, 4.2);
 * a text is encoded by looking up what would decode to it.
 */
import { fail, ok, type Result } from '../result.ts';

const SETS = [
  'latin-1',
  'ascii',
  'utf-8',
  'utf-16',
  'iso-8859-2',
  'iso-8859-5',
  'iso-8859-7',
  'iso-8859-9',
  'iso-8859-15',
  'windows-1250',
  'windows-1251',
  'windows-1252',
  'windows-1253',
  'windows-1254',
  'koi8-r',
  'shift_jis',
  'gbk',
  'big5',
  'euc-kr',
] as const;
export type CharacterSet = (typeof SETS)[number];

/** What a text has where nothing is said: ISO 8859-1, one byte a character. */
export const PLAIN_CHARACTERS: CharacterSet = 'latin-1';

/** Character sets that a text of single bytes may have, by name. */
export const CHARACTER_SETS: readonly CharacterSet[] = SETS.filter((set) => set !== 'utf-16');

/** Names that mean the same. */
const ALSO: ReadonlyMap<string, CharacterSet> = new Map(
  Object.entries({
    utf8: 'utf-8',
    latin1: 'latin-1',
    'iso-8859-1': 'latin-1',
    'us-ascii': 'ascii',
    sjis: 'shift_jis',
  }),
);

export function characterSet(name: string): CharacterSet | null {
  return CHARACTER_SETS.find((set) => set === name) ?? ALSO.get(name) ?? null;
}

const MOST_UNITS = 8192;

/** 80h to 9Fh of windows-1252, the rest of which is ISO 8859-1; the decoder of Node 20 takes it for that altogether. */
const WINDOWS_1252 = '€\u0081‚ƒ„…†‡ˆ‰Š‹Œ\u008dŽ\u008f\u0090‘’“”•–—˜™š›œ\u009džŸ';

/**
 * The characters of some bytes. Refuses bytes that are none of the set; never replaces them.
 * @param bytes for `utf-16` the high byte of each unit first
 */
export function decodeCharacters(bytes: Uint8Array, set: CharacterSet): Result<string> {
  switch (set) {
    case 'latin-1':
      return ok(singleBytes(bytes));
    case 'ascii': {
      const at = bytes.findIndex((byte) => byte > 127);
      return at < 0 ? ok(singleBytes(bytes)) : notOf(set, bytes, at);
    }
    case 'utf-16':
      return ok(String.fromCharCode(...unitsOf(bytes)));
    case 'windows-1252':
      return ok(singleBytes(bytes).replace(/[\u0080-\u009f]/g, (control) => WINDOWS_1252[control.charCodeAt(0) - 0x80] ?? control));
    default:
      try {
        return ok(decoderOf(set).decode(bytes));
      } catch {
        return notOf(set, bytes, 0);
      }
  }
}

function singleBytes(bytes: Uint8Array): string {
  let text = '';
  for (const byte of bytes) text += String.fromCharCode(byte);
  return text;
}

function unitsOf(bytes: Uint8Array): number[] {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  return Array.from({ length: Math.min(bytes.length >> 1, MOST_UNITS) }, (_, i) => view.getUint16(i * 2));
}

function notOf(set: CharacterSet, bytes: Uint8Array, at: number): Result<never> {
  const near = [...bytes.slice(at, at + 4)].map((byte) => byte.toString(16).toUpperCase().padStart(2, '0')).join(' ');
  return fail('character', `The bytes ${near} … are no text in ${set}.`, 'Check the character set, the order and the length of the text.');
}

/** The inverse of {@link decodeCharacters}. Refuses characters that the set does not have. */
export function encodeCharacters(text: string, set: CharacterSet): Result<Uint8Array> {
  if (set === 'utf-8') {
    return /[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/.test(text)
      ? fail('character', 'Half a character cannot be encoded.', 'Enter the whole character.')
      : ok(new TextEncoder().encode(text));
  }
  const bytes: number[] = [];
  if (set === 'utf-16') {
    for (let i = 0; i < text.length; i++) bytes.push(text.charCodeAt(i) >> 8, text.charCodeAt(i) & 0xff);
    return ok(Uint8Array.from(bytes));
  }
  const most = set === 'ascii' ? 127 : 255;
  const table = set === 'ascii' || set === 'latin-1' ? null : tableOf(set);
  for (const character of text) {
    const code = character.codePointAt(0) ?? 0;
    const coded = table ? table.get(character) : code <= most ? [code] : undefined;
    if (!coded)
      return fail(
        'character',
        `The character “${character}” cannot be held in ${set === 'latin-1' ? 'a STRING of single bytes' : set}.`,
        set === 'latin-1' ? 'Use ISO 8859-1 characters.' : 'Leave it away, or check the character set of the tag.',
      );
    bytes.push(...coded);
  }
  return ok(Uint8Array.from(bytes));
}

type TableSet = Exclude<CharacterSet, 'utf-8' | 'utf-16' | 'ascii' | 'latin-1'>;

const decoders = new Map<CharacterSet, TextDecoder>();
const tables = new Map<TableSet, ReadonlyMap<string, readonly number[]>>();
const WIDE: ReadonlySet<CharacterSet> = new Set(['shift_jis', 'gbk', 'big5', 'euc-kr']);

function decoderOf(set: CharacterSet): TextDecoder {
  const known = decoders.get(set);
  if (known) return known;
  const made = new TextDecoder(set, { fatal: true, ignoreBOM: true });
  decoders.set(set, made);
  return made;
}

/** For each character the bytes that decode to it, the first that do. */
function tableOf(set: TableSet): ReadonlyMap<string, readonly number[]> {
  const known = tables.get(set);
  if (known) return known;
  const made = new Map<string, readonly number[]>();
  const take = (...bytes: number[]): boolean => {
    const read = decodeCharacters(Uint8Array.from(bytes), set);
    if (read.ok && [...read.value].length === 1 && !made.has(read.value)) made.set(read.value, bytes);
    return read.ok;
  };
  for (let lead = 0; lead < 256; lead++) {
    if (take(lead) || !WIDE.has(set) || lead < 0x80) continue;
    for (let trail = 0x40; trail < 0xff; trail++) take(lead, trail);
  }
  tables.set(set, made);
  return made;
}
