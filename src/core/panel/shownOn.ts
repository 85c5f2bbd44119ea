/** How a panel shows a tag: in which unit, with how many decimals, between which ends. Drawing and checking both go by it. */
import type { Range } from '../ranges/range.ts';
import { drawnSpan, toEngineering } from '../scaling/scale.ts';
import { engineeringOf, textOf, type SignalDefinition } from '../signal.ts';
import { rangeIn, shownIn } from '../units/shownIn.ts';
import type { RawValue } from '../value/codec.ts';
import { asNumber } from '../value/engineering.ts';
import type { ElementSettings } from './kinds.ts';

/** Tags of one unit are shown in another one. */
export interface ShownUnit {
  readonly from: string;
  readonly to: string;
}

/** The unit that an element has of itself, or of its panel, or of its tag. */
export function unitOn(def: SignalDefinition, units: readonly ShownUnit[], { unit }: ElementSettings): string {
  return typeof unit === 'string' && unit !== '' ? unit : (units.find(({ from }) => from === def.unit)?.to ?? def.unit);
}

const withDecimals = new WeakMap<SignalDefinition, Map<number, SignalDefinition>>();

/** As the panel shows it. A unit that the tag's own does not convert into is not taken: no number stands beside a wrong unit. */
export function shownOn(def: SignalDefinition, units: readonly ShownUnit[], settings: ElementSettings): SignalDefinition {
  const inUnit = shownIn(def, unitOn(def, units, settings));
  const shown = inUnit.ok ? inUnit.value : def;
  const { decimals } = settings;
  if (typeof decimals !== 'number' || decimals === shown.decimals || !isNumber(shown)) return shown;
  let known = withDecimals.get(shown);
  if (!known) withDecimals.set(shown, (known = new Map<number, SignalDefinition>()));
  let found = known.get(decimals);
  if (!found) known.set(decimals, (found = { ...shown, decimals }));
  return found;
}

function isNumber({ type }: SignalDefinition): boolean {
  return type.kind === 'integer' || type.kind === 'real';
}

/** The text of a raw value there. @param text  as the tag itself shows it */
export function textOn(def: SignalDefinition, shown: SignalDefinition, raw: RawValue | null, text: string): string {
  return shown === def || raw === null ? text : textOf(shown, engineeringOf(shown, raw));
}

/** The ends that it is drawn between: what its element says, or its tag, both in the tag's unit, as they are shown. */
export function endsOn(def: SignalDefinition, shown: SignalDefinition, own: Partial<Range>): Range {
  return rangeIn(def, shown, drawnEnds(own, endsOf(def)));
}

/** Ends that are said, or those of the tag. */
export function drawnEnds(own: Partial<Range>, ofTag: Range | null): Range {
  const [low, high] = [own.low ?? ofTag?.low ?? 0, own.high ?? ofTag?.high ?? 100];
  return high > low ? { low, high } : { low, high: low + 100 };
}

/** Where a value lies between two ends, 0…1; null when there is none to draw. */
export function partOf({ low, high }: Range, value: number | null): number | null {
  return value === null ? null : Math.min(1, Math.max(0, (value - low) / (high - low)));
}

/** Between which values it is drawn: as the tag says, or where it is expected, or where its scale has its points. */
export function endsOf(def: SignalDefinition): Range | null {
  const given = def.display ?? def.range;
  if (given) return given;
  const ends = drawnSpan(def.scale)?.map((raw) => asNumber(toEngineering(def.scale, raw).value) ?? NaN);
  const [a = NaN, b = NaN] = ends ?? [];
  return Number.isFinite(a) && Number.isFinite(b) && a !== b ? { low: Math.min(a, b), high: Math.max(a, b) } : null;
}
