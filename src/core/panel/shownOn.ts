/** How a panel shows a tag: in which unit, between which ends. Drawing and checking both go by it. */
import type { Range } from '../ranges/range.ts';
import { drawnSpan, toEngineering } from '../scaling/scale.ts';
import { engineeringOf, textOf, type SignalDefinition } from '../signal.ts';
import { rangeIn, shownIn } from '../units/shownIn.ts';
import type { RawValue } from '../value/codec.ts';
import { asNumber } from '../value/engineering.ts';
import { barEnds, type ElementSettings } from './element.ts';

/** Tags of one unit are shown in another one. */
export interface ShownUnit {
  readonly from: string;
  readonly to: string;
}

/** The unit that an element has of itself, or of its panel, or of its tag. */
export function unitOn(def: SignalDefinition, units: readonly ShownUnit[], { unit = '' }: ElementSettings): string {
  return unit !== '' ? unit : (units.find(({ from }) => from === def.unit)?.to ?? def.unit);
}

/** As the panel shows it. A unit that the tag's own does not convert into is not taken: no number stands beside a wrong unit. */
export function shownOn(def: SignalDefinition, units: readonly ShownUnit[], settings: ElementSettings): SignalDefinition {
  const shown = shownIn(def, unitOn(def, units, settings));
  return shown.ok ? shown.value : def;
}

/** The text of a raw value there. @param text  as the tag itself shows it */
export function textOn(def: SignalDefinition, shown: SignalDefinition, raw: RawValue | null, text: string): string {
  return shown === def || raw === null ? text : textOf(shown, engineeringOf(shown, raw));
}

/** The ends of a bar: those of its element or its tag, both in the tag's unit, as they are shown. */
export function endsOn(def: SignalDefinition, shown: SignalDefinition, settings: ElementSettings): Range {
  return rangeIn(def, shown, barEnds(settings, endsOf(def)));
}

/** Between which values it is drawn: as the tag says, or where it is expected, or where its scale has its points. */
export function endsOf(def: SignalDefinition): Range | null {
  const given = def.display ?? def.range;
  if (given) return given;
  const ends = drawnSpan(def.scale)?.map((raw) => asNumber(toEngineering(def.scale, raw).value) ?? NaN);
  const [a = NaN, b = NaN] = ends ?? [];
  return Number.isFinite(a) && Number.isFinite(b) && a !== b ? { low: Math.min(a, b), high: Math.max(a, b) } : null;
}
