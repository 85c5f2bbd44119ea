/**
 * How wide a text is in parts of its size, a little more rather than less: as the faces that ship have it at weight 600, measured in
 * the browser. What another face has to draw is taken for as wide as the widest of them.
 */
export type Face = 'mono' | 'sans';

const MONO_EM = 0.632;
/** Of the text face, by what a character is at most. */
const NARROW: readonly (readonly [characters: string, em: number])[] = [
  [" !'|,.:;ijl·", 0.31],
  ['"()-/[\\]_`{}frtI°', 0.43],
  ['1*csxyvz?^', 0.56],
];
const WIDE = new Set('%@MWmwÆæŒœ');
const CAPITAL = /\p{Lu}|[#&0]/u;
const LATIN = /^[\p{Script=Latin}\p{N}\p{P}\p{Zs}+<=>~$€£|`^°−×·]$/u;
const EM_OF = new Map(NARROW.flatMap(([characters, em]) => [...characters].map((character) => [character, em] as const)));
const FOREIGN_EM = 1.25;
const PLAIN = /^[ -~]*$/;

const SEGMENTER = new Intl.Segmenter('en', { granularity: 'grapheme' });

/** @returns in parts of the size of the text */
export function textEms(text: string, face: Face): number {
  let ems = 0;
  if (PLAIN.test(text)) {
    for (const character of text) ems += face === 'mono' ? MONO_EM : emOf(character, face);
    return ems;
  }
  for (const { segment } of SEGMENTER.segment(text)) ems += emOf(segment, face);
  return ems;
}

function emOf(character: string, face: Face): number {
  const [bare = ''] = character.normalize('NFD');
  if (!LATIN.test(bare)) return FOREIGN_EM;
  if (face === 'mono') return MONO_EM;
  return EM_OF.get(bare) ?? (WIDE.has(bare) ? 0.96 : CAPITAL.test(bare) ? 0.76 : bare > '~' ? 0.86 : 0.64);
}
