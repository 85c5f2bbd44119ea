/** What an element draws of a tag, in the unit that it shows. */
import type { DrawnSample } from '@/core/panel/element.ts';
import { textOn } from '@/core/panel/shownOn.ts';
import { engineeringOf, type SignalDefinition } from '@/core/signal.ts';
import { isDecimal } from '@/core/value/decimal.ts';
import { asNumber, fromJson } from '@/core/value/engineering.ts';
import type { TagView } from '../live/liveClient.ts';

export interface Shown {
  readonly sample: DrawnSample;
  /** The number in the unit that is shown; null for a state, a text, and where there is no value. */
  readonly number: number | null;
}

/** @param def  of the tag, @param shown  as the panel shows it; null where the settings of the tag do not fit together */
export function drawnOf(view: TagView | null, def: SignalDefinition | null, shown: SignalDefinition | null): Shown | null {
  if (!view?.sample) return null;
  const raw = view.sample.raw ? fromJson(view.sample.raw) : null;
  const value = raw?.ok && view.level !== 'bad' && !isDecimal(raw.value) ? raw.value : null;
  const text = def && shown && value !== null ? textOn(def, shown, value, view.text) : view.text;
  const number = shown && value !== null && typeof value !== 'boolean' && typeof value !== 'string' ? asNumber(engineeringOf(shown, value)) : null;
  const state = view.sample.eng?.kind === 'boolean' ? view.sample.eng.value === true : null;
  return { sample: { text, level: view.level, state }, number };
}
