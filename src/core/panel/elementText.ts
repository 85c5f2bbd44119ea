/** The exact text that an element draws for a value. Drawing (the glass), checking and the signal path all call this. */
import { engineeringOf, NO_VALUE_TEXT, type SignalDefinition } from '../signal.ts';
import type { RawValue } from '../value/codec.ts';
import { asNumber } from '../value/engineering.ts';
import type { QualityLevel } from '../value/quality.ts';
import { hasRadix, rawIn } from '../value/radix.ts';
import type { Shown } from './elementKind.ts';
import type { Kinded } from './kinds.ts';
import { shownOn, textOn, type ShownUnit } from './shownOn.ts';
import { stateAt, type State } from './states.ts';

/** What a panel has that texts go by. */
export interface Texts {
  readonly units: readonly ShownUnit[];
  readonly statesIn: (stateListId: string) => readonly State[] | null;
  /** Words of controllers and names of values in its language. */
  readonly word: (text: string) => string;
}

/** A value as it comes: raw, with the text that its tag shows. */
export interface Seen {
  readonly raw: RawValue | null;
  readonly text: string;
  readonly level: QualityLevel;
}

/** The states of an element: its own, or those of its list. */
export function statesOf({ settings }: Pick<Kinded, 'settings'>, { statesIn }: Pick<Texts, 'statesIn'>): readonly State[] {
  const own = settings.states as readonly State[] | undefined;
  if (own && own.length > 0) return own;
  return typeof settings.stateListId === 'string' ? (statesIn(settings.stateListId) ?? []) : [];
}

/** What an element draws of a value of a tag. */
export function shownOf(element: Kinded, def: SignalDefinition, { raw, text, level }: Seen, { units, word }: Pick<Texts, 'units' | 'word'>): Shown {
  const shown = shownOn(def, units, element.settings);
  const isState = typeof raw === 'boolean';
  const number = raw === null || typeof raw === 'string' || level === 'bad' ? null : asNumber(isState ? raw : engineeringOf(shown, raw));
  return { text: hexOf(element, def, raw) ?? worded(def, textOn(def, shown, raw, text), word), level, number, isState };
}

/** What a tag shows in the language of its panel: numbers are none of any. */
export function worded({ type, names }: SignalDefinition, text: string, word: Texts['word']): string {
  return type.kind === 'text' || type.kind === 'boolean' || (names && names.length > 0) ? word(text) : text;
}

/** The raw value in hexadecimal, where the element shows that and the value has it. */
function hexOf({ settings }: Kinded, { type }: SignalDefinition, raw: RawValue | null): string | null {
  return settings.shows === 'hex' && raw !== null && type.kind === 'integer' && hasRadix(type, raw) ? rawIn(type, raw, 16) : null;
}

/** A bad value is never drawn as a number or a state. */
export function elementText(element: Kinded, shown: Shown | null, texts: Pick<Texts, 'statesIn'>): string {
  if (shown === null || shown.level === 'bad') return NO_VALUE_TEXT;
  if (element.settings.shows === 'hidden') return '••••';
  const state = stateAt(statesOf(element, texts), shown.number);
  if (state && state.text !== '') return state.text;
  const { length } = element.settings;
  return typeof length === 'number' && length > 0 ? cut(shown.text, length) : shown.text;
}

/** By characters as they are read, not by their parts. */
function cut(text: string, length: number): string {
  const characters = [...new Intl.Segmenter('en', { granularity: 'grapheme' }).segment(text)];
  return characters.length <= length
    ? text
    : characters
        .slice(0, length)
        .map(({ segment }) => segment)
        .join('');
}
