/**
 * The texts of panels in other languages. A text is known by what it says, its values as numbered places: `{1} of {2} bags`. So what
 * many elements say is translated once, and a translation may have the values in another order; it never loses one.
 */
import { fail, ok, type Result } from '../result.ts';
import { isNamedPlace, textParts } from './bound.ts';

/** A language that a panel speaks; its first one is that which its texts are written in. */
export interface PanelLanguage {
  /** BCP 47, as `de` or `pt-BR`. */
  readonly code: string;
  /** By which buttons, tags and controllers choose it. */
  readonly number: number;
}
export const MOST_LANGUAGES = 40;
export const LONGEST_SOURCE = 2000;

/** What texts are in a language, by what they are known by. */
export type Wording = ReadonlyMap<string, string>;

/** The same text whichever computer it was written on. */
export const withPlainEnds = (text: string): string => text.replace(/\r\n?/g, '\n');

const escaped = (text: string): string => text.replace(/[{}]/g, '$&$&');

interface Taken {
  readonly source: string;
  /** The expression behind each numbered place. */
  readonly places: readonly string[];
}

function takenOf(template: string, isPlain: boolean): Taken {
  const places: string[] = [];
  const source = textParts(withPlainEnds(template)).map(({ text, by }) => {
    if (by === null) return escaped(text);
    if (isNamedPlace(by)) return `{${by}}`;
    if (isPlain) return `{{${escaped(by)}}}`;
    if (!places.includes(by)) places.push(by);
    return `{${places.indexOf(by) + 1}}`;
  });
  return { source: source.join(''), places };
}

/** What a text with places for values is known by. */
export const sourceOf = (template: string): string => takenOf(template, false).source;

/** What a text without them is known by. Of its braces only those of `{subject}` are a place. */
export const plainSource = (text: string): string => takenOf(text, true).source;

const placesIn = (source: string): ReadonlySet<string> => new Set(textParts(source).flatMap(({ by }) => (by === null ? [] : [by])));

/** Whether a text may stand for another one: it has the same places. */
export function translationOf(source: string, text: string): Result<string> {
  const [wanted, has] = [placesIn(source), placesIn(text)];
  const list = (places: Iterable<string>): string => [...places].map((place) => `{${place}}`).join(', ');
  const missing = [...wanted].filter((place) => !has.has(place));
  if (missing.length > 0) return fail('places', `It leaves out ${list(missing)}.`, 'A value stands in each place: keep them all.', 'text');
  const unknown = [...has].filter((place) => !wanted.has(place));
  if (unknown.length > 0)
    return fail('places', `${list(unknown)} ${unknown.length === 1 ? 'is no place' : 'are no places'} of this text.`, 'A brace of the text itself is written twice.', 'text'); // prettier-ignore
  return ok(text);
}

/** A text with places in a language; itself where nobody has said it, or what was said would lose a value. */
export function wordedTemplate(template: string, wording: Wording): string {
  const { source, places } = takenOf(template, false);
  const said = wording.get(source);
  if (said === undefined || !translationOf(source, said).ok) return template;
  return textParts(said)
    .map(({ text, by }) => (by === null ? escaped(text) : `{${isNamedPlace(by) ? by : (places[Number(by) - 1] ?? '')}}`))
    .join('');
}

/** The same for a text without places. */
export function wordedPlain(text: string, wording: Wording): string {
  const source = plainSource(text);
  const said = wording.get(source);
  if (said === undefined || !translationOf(source, said).ok) return text;
  return textParts(said)
    .map((part) => (part.by === null ? part.text : `{${part.by}}`))
    .join('');
}

/** The name of a language in itself, for who is to find it; its code where nobody knows one. */
export function languageName(code: string, inCode = code): string {
  try {
    return new Intl.DisplayNames([inCode], { type: 'language' }).of(code) ?? code;
  } catch {
    return code;
  }
}

/** A code as it is written, or that it is none. */
export function languageCode(text: string): Result<string> {
  try {
    const [code] = Intl.getCanonicalLocales(text.trim());
    if (code !== undefined) return ok(code);
  } catch {
    // Told below.
  }
  return fail('language', `“${text.slice(0, 40)}” is no code of a language.`, 'As de, fr or pt-BR (BCP 47).', 'code');
}

/** What the program says itself, with values in its places. */
export function saidIn(source: string, values: readonly string[], wording: Wording): string {
  const said = wording.get(source);
  const text = said !== undefined && translationOf(source, said).ok ? said : source;
  return textParts(text)
    .map((part) => (part.by === null ? part.text : (values[Number(part.by) - 1] ?? `{${part.by}}`)))
    .join('');
}
