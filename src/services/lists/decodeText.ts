/** From the bytes of a file to its text: the encoding is found, or named by the engineer. */
import { isUtf8 } from 'node:buffer';
import { decode } from 'iconv-lite';
import { fail, ok, type Result } from '@/core/result.ts';
import { ENCODINGS, type Encoding } from '@/core/taglist/written.ts';
import { guessEncoding, type EncodingGuess } from './guessEncoding.ts';

export interface DecodedText {
  readonly text: string;
  readonly encoding: Encoding;
  /** How sure the guess is, 0 to 1; 1 where a mark or the form of the bytes says so, or a person did. */
  readonly confidence: number;
}

export function encodingNamed(label: string): Encoding | null {
  return ENCODINGS.find(([id]) => id === label)?.[0] ?? null;
}

/** @param wanted null to find it */
export function decodeText(bytes: Uint8Array, wanted: Encoding | null): Result<DecodedText> {
  const { encoding, confidence } = wanted ? { encoding: wanted, confidence: 1 } : encodingOf(bytes);
  const own = Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  // The platform's own decoder takes Windows-1252 for ISO-8859-1 in Node 20, and loses € and quotes.
  const text = encoding === 'utf-8' ? own.toString('utf8').replace(/^\uFEFF/, '') : decode(own, encoding);
  // What an encoding does not know becomes this sign; in UTF-8 it may also stand in the file.
  if (encoding === 'utf-8' ? !isUtf8(bytes) : text.includes('\uFFFD'))
    return fail(
      'encoding',
      `The file is no text in ${wordsOf(encoding)}.`,
      wanted ? 'Choose another encoding.' : 'Choose its encoding, or save it as CSV in UTF-8.',
    );
  if (text.includes('\u0000'))
    return fail('not-text', 'The file holds NUL bytes, so it is no text.', 'Choose its encoding, or export it as CSV again.', nulPlace(text));
  return ok({ text, encoding, confidence });
}

export function wordsOf(encoding: Encoding): string {
  return ENCODINGS.find(([id]) => id === encoding)?.[1] ?? encoding;
}

/** Characters of a line that are shown, so many of them before the first beyond ASCII. */
const SHOWN = 200;
const SHOWN_BEFORE = 100;

/** Lines with characters beyond ASCII, or the part of them that has one: by these a person sees whether the encoding is right. */
export function accentedLines(text: string, most: number): readonly string[] {
  const found: string[] = [];
  const accented = /[\u0080-\uffff]/g;
  for (let match = accented.exec(text); match !== null && found.length < most; match = accented.exec(text)) {
    const before = text.slice(Math.max(0, match.index - SHOWN_BEFORE), match.index);
    const start = match.index - before.length + Math.max(before.lastIndexOf('\n'), before.lastIndexOf('\r')) + 1;
    const [line = ''] = text.slice(start, start + SHOWN).split(/[\r\n]/, 1);
    found.push(line);
    const end = text.indexOf('\n', match.index);
    if (end < 0) break;
    accented.lastIndex = end;
  }
  return found;
}

function encodingOf(bytes: Uint8Array): EncodingGuess {
  const [first, second, third] = bytes;
  if (first === 0xef && second === 0xbb && third === 0xbf) return { encoding: 'utf-8', confidence: 1 };
  if (first === 0xff && second === 0xfe) return { encoding: 'utf-16le', confidence: 1 };
  if (first === 0xfe && second === 0xff) return { encoding: 'utf-16be', confidence: 1 };
  const wide = wideWithoutMark(bytes);
  if (wide) return { encoding: wide, confidence: 0.95 };
  if (isUtf8(bytes)) return { encoding: 'utf-8', confidence: 1 };
  return guessEncoding(bytes);
}

/** UTF-16 without a mark: in a list every other byte of most characters is 0. */
function wideWithoutMark(bytes: Uint8Array): Encoding | null {
  if (bytes.length < 4 || bytes.length % 2 === 1) return null;
  const zeros = [0, 0];
  const looked = Math.min(bytes.length, 4000);
  for (let i = 0; i < looked; i++) if (bytes[i] === 0) zeros[i % 2] = (zeros[i % 2] ?? 0) + 1;
  const [even = 0, odd = 0] = zeros.map((n) => n / (looked / 2));
  return odd > 0.4 && even < 0.05 ? 'utf-16le' : even > 0.4 && odd < 0.05 ? 'utf-16be' : null;
}

function nulPlace(text: string): string {
  const before = text.slice(0, text.indexOf('\u0000'));
  return `row ${before.split('\n').length}`;
}
