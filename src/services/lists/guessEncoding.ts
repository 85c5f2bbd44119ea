/**
 * Finds the encoding of a short list. Statistics need pages of text and lists have three words beyond ASCII, so what
 * counts here is whether the letters are those of one language, and signs the trade writes everywhere: °C, µm, m³.
 */
import { analyse } from 'chardet';
import { decode, encode } from 'iconv-lite';
import { ENCODINGS, type Encoding } from '@/core/taglist/written.ts';

export interface EncodingGuess {
  readonly encoding: Encoding;
  /** 0 to 1. */
  readonly confidence: number;
}

/** Letters beyond ASCII that a language writes, lower case; from common knowledge of the alphabets. */
const LATIN: readonly string[] = [
  'äöüß', // German
  'àâæçéèêëîïôœùûüÿ', // French
  'áéíñóúü', // Spanish
  'àèéìíîòóùú', // Italian
  'ãáàâçéêíóôõúü', // Portuguese
  'åæøäöéü', // Scandinavian
  'àáäèéëïöüç', // Dutch, Catalan
  'ąćęłńóśźż', // Polish
  'áčďéěíňóřšťúůýžäľĺôŕ', // Czech, Slovak
  'áéíóöőúüű', // Hungarian
  'čćđšžáéíóúàèìòù', // Slovene, Croatian
  'ăâîșțşţ', // Romanian
  'çğıöşüâîİ', // Turkish
  'āčēģīķļņšūžąęėįų', // Baltic
];
/** Signs that stand in lists of any language, where they stand in a unit or a number. */
const SIGNS: readonly (readonly [sign: RegExp, before: RegExp, after: RegExp])[] = [
  [/°/, /^$|[\d\s[(/.,;"'=-]/, /^$|[CFKRcf\s\])/.,;"'\d]/],
  [/[µμ]/, /^$|[\d\s[(/.,;"'=*]/, /[mslgAVWSFHL\s]/],
  [/[²³]/, /[msnt]/, /^$|[\s\])/.,;"'*/hs]/],
  [/[±×·÷§Ø½¼¾Ω≤≥]/, /^$|[\d\s[(/.,;"'=-]/, /^$|[\d\s\])/.,;"'-]/],
  [/[€£“”„‘’–—…«»]/, /[^]?/, /[^]?/],
];
const SCRIPTS = [
  [/\p{Script=Cyrillic}/u, ['windows-1251', 'koi8-r', 'iso-8859-5']],
  [/\p{Script=Greek}/u, ['windows-1253', 'iso-8859-7']],
  [/\p{Script=Hebrew}/u, ['windows-1255']],
  [/\p{Script=Arabic}/u, ['windows-1256']],
] as const;
/** What the package that guesses calls them, where its word is another. */
const GUESSED: Readonly<Record<string, Encoding>> = {
  'iso-8859-1': 'windows-1252',
  'iso-8859-9': 'windows-1254',
  'iso-8859-6': 'windows-1256',
  'iso-8859-8': 'windows-1255',
  gb2312: 'gb18030',
};
/** Bytes that are looked at, from lines with bytes beyond ASCII: enough for any list. */
const LOOKED_AT = 20_000;
const WIDE: ReadonlySet<Encoding> = new Set<Encoding>(['shift_jis', 'euc-jp', 'gb18030', 'big5', 'euc-kr']);

/** @param bytes neither UTF-8 nor UTF-16, with at least one byte beyond ASCII */
export function guessEncoding(bytes: Uint8Array): EncodingGuess {
  const lines = foreignLines(bytes);
  const statistics = statisticsOf(lines);
  const scored = ENCODINGS.flatMap(([encoding]) => {
    if (encoding.startsWith('utf')) return [];
    const text = decode(Buffer.from(lines), encoding);
    if (text.includes('\uFFFD')) return [];
    return [
      { encoding, text, score: (WIDE.has(encoding) ? wideScore(text, encoding) : narrowScore(text, encoding)) + (statistics.get(encoding) ?? 0) },
    ];
  });
  const best = scored.reduce<(typeof scored)[number] | null>((a, b) => (a === null || b.score > a.score + 1e-9 ? b : a), null);
  if (!best) return { encoding: 'windows-1252', confidence: 0.1 };
  const rival = Math.max(-1, ...scored.filter((s) => s.text !== best.text).map((s) => s.score));
  const confidence = Math.min(0.95, Math.max(0.1, 0.55 + 0.6 * (best.score - rival) - Math.max(0, 0.9 - best.score)));
  // Several encodings may read the same in it: the first is the more usual.
  return { encoding: scored.find((s) => s.text === best.text)?.encoding ?? best.encoding, confidence };
}

/** How far the characters beyond ASCII are those of one language, about −1.5 to 1. */
function narrowScore(text: string, encoding: Encoding): number {
  const alphabets = LATIN.map((letters) => new Set(letters));
  const script = SCRIPTS.find(([, encodings]) => (encodings as readonly string[]).includes(encoding))?.[0] ?? null;
  const totals = alphabets.map(() => 0);
  let common = 0;
  let count = 0;
  for (let at = 0; at < text.length; at++) {
    const char = text[at] ?? '';
    if (char <= '\u007f') continue;
    count++;
    const [before, after] = [text[at - 1] ?? '', text[at + 1] ?? ''];
    if (isSign(char, before, after)) common += 1;
    else if (!/\p{L}/u.test(char)) common -= 1.2;
    else if (script) common += script.test(char) ? scriptScore(char, before, after) : -1.2;
    else if (/\p{Script=Latin}/u.test(char)) {
      const isOdd = /\p{Ll}/u.test(before) && /\p{Lu}/u.test(char);
      for (const [i, alphabet] of alphabets.entries())
        totals[i] = (totals[i] ?? 0) + (isOdd ? -1.2 : alphabet.has(char.toLowerCase()) || alphabet.has(char) ? 1 : -1.2);
    } else common -= 1.2;
  }
  return count === 0 ? 0 : (common + (script ? 0 : Math.max(...totals))) / count;
}

function isSign(char: string, before: string, after: string): boolean {
  return SIGNS.some(([sign, b, a]) => sign.test(char) && b.test(before) && a.test(after));
}

/** Letters of another script stand in words of their own, and are lower case inside of one. */
function scriptScore(char: string, before: string, after: string): number {
  if (/[A-Za-z]/.test(before) || /[A-Za-z]/.test(after)) return -0.8;
  if (/\p{Lu}/u.test(char) && /\p{Ll}/u.test(before)) return -1;
  return before > '\u007f' || after > '\u007f' ? 1 : 0;
}

/** How far the characters of two bytes are those that are used most, in the encoding's own order of them. */
function wideScore(text: string, encoding: Encoding): number {
  let total = 0;
  let count = 0;
  let kana = 0;
  for (let at = 0; at < text.length; at++) {
    const char = text[at] ?? '';
    if (char <= '\u007f') continue;
    const bytes = char >= '\uff61' && char <= '\uff9f' ? 1 : 2;
    count += bytes;
    const neighbours = (text[at - 1] ?? '') + (text[at + 1] ?? '');
    if (/[\u3040-\u30ff]/.test(char)) kana++;
    total += bytes * (commonness(char, encoding) - (/\p{L}/u.test(char) && /[A-Za-z]/.test(neighbours) ? 0.7 : 0));
  }
  if (count === 0) return 0;
  const isJapanese = encoding === 'shift_jis' || encoding === 'euc-jp';
  // Japanese of any length has syllables beside its characters; the others have none.
  const penalty = isJapanese ? (kana === 0 && count >= 4 ? 0.25 : 0) : kana > 0 ? 0.5 : 0;
  return total / count - penalty;
}

function commonness(char: string, encoding: Encoding): number {
  if (/[\u3000-\u303f\uff00-\uff60]/.test(char)) return 0.6;
  if (char >= '\uff61' && char <= '\uff9f') return -0.5;
  if (/[\u3040-\u30ff]/.test(char)) return encoding === 'shift_jis' || encoding === 'euc-jp' ? 1 : -0.5;
  if (/\p{Script=Hangul}/u.test(char)) return encoding === 'euc-kr' ? 1 : -1;
  if (!/\p{Script=Han}/u.test(char)) return -0.6;
  if (encoding === 'euc-kr') return -0.6;
  return isFirstLevel(char, encoding) ? 0.95 : -0.8;
}

/** Each standard puts the characters in daily use first: GB 2312 rows 16–55, JIS X 0208 rows 16–47, Big5 A440–C67E. */
function isFirstLevel(char: string, encoding: Encoding): boolean {
  const [lead = 0, trail = 0] = encode(char, encoding);
  if (encoding === 'gb18030') return lead >= 0xb0 && lead <= 0xd7 && trail >= 0xa1;
  if (encoding === 'euc-jp') return lead >= 0xb0 && lead <= 0xcf;
  if (encoding === 'shift_jis') return lead >= 0x88 && lead <= 0x98;
  return lead >= 0xa4 && lead <= 0xc6;
}

/** A little for what statistics say: it decides between encodings whose letters fit equally well. */
function statisticsOf(lines: Uint8Array): ReadonlyMap<Encoding, number> {
  const words = new Map<Encoding, number>();
  for (const { name, confidence } of analyse(lines)) {
    const label = name.toLowerCase();
    const encoding = GUESSED[label] ?? ENCODINGS.find(([id]) => id === label)?.[0];
    if (encoding && !words.has(encoding)) words.set(encoding, (0.12 * confidence) / 100);
  }
  return words;
}

/** The lines that hold bytes beyond ASCII. */
function foreignLines(bytes: Uint8Array): Uint8Array {
  const found: Uint8Array[] = [];
  let length = 0;
  for (let from = 0; from < bytes.length && length < LOOKED_AT;) {
    let end = from;
    let isForeign = false;
    for (; end < bytes.length && bytes[end] !== 0x0a && end - from < LOOKED_AT; end++) isForeign ||= (bytes[end] ?? 0) >= 0x80;
    if (isForeign) {
      found.push(bytes.subarray(from, end + 1));
      length += end + 1 - from;
    }
    from = end + 1;
  }
  return Buffer.concat(found);
}
