/** The longest text that an element may have to show: all digits of its range or type, all its states, all its names. */
import { engineeringOf, textOf, type SignalDefinition } from '../signal.ts';
import type { RawValue } from '../value/codec.ts';
import type { State } from './states.ts';

/** @param def  as it is shown. @param states  of the element, or of its list */
export function longestText(def: SignalDefinition, states: readonly State[], length: number): string {
  const texts = [...states.map(({ text }) => text), ...(def.names ?? []).map(({ name }) => name), ...extremes(def)];
  if (def.type.kind === 'text') texts.push('M'.repeat(length > 0 ? Math.min(length, def.type.room) : def.type.room));
  return texts.reduce((longest, text) => (text.length > longest.length ? text : longest), '');
}

/** What its ends look like: of the range that is expected, else of all that its type holds. */
function extremes(def: SignalDefinition): readonly string[] {
  const { type, range, display } = def;
  if (type.kind === 'boolean') return ['off'];
  if (type.kind === 'text') return [];
  const ends = range ?? display;
  if (ends) return [ends.low, ends.high].map((end) => textOf(def, end));
  if (type.kind === 'real') return [textOf(def, -1234.5)];
  const raws: readonly RawValue[] = type.isWide ? [type.min, type.max] : [Number(type.min), Number(type.max)];
  return raws.map((raw) => textOf(def, engineeringOf(def, raw)));
}
