/** How exact a tag can be: what a count is worth, what is lost when it is written, what a straight line would be off. */
import { engineeringOf, engineeringText, planWrite, textOf, unjudged, type SignalDefinition } from './signal.ts';
import { asNumber } from './value/engineering.ts';
import { countWorth, drawnSpan, pointMoved, scaleTraits, toEngineering, type Scale } from './scaling/scale.ts';

export interface ErrorBudget {
  /** What one count is worth in engineering units, at the least and at the most between the ends. */
  readonly worth: { readonly least: number; readonly most: number } | null;
  /** Decimals that a count changes; one more says nothing. Null where the value has as many as it is given. */
  readonly decimals: number | null;
  /** How far what is written may be from what was asked. */
  readonly writing: number | null;
  /** What showing it with the decimals of the tag rounds away at most; 0 where they show every count. */
  readonly showing: number;
  /** Raw values in the middle that are shown alike, so that entering what is shown leads to one of them; null where each is told. */
  readonly alike: { readonly text: string; readonly from: number; readonly to: number } | null;
  /** What a straight line between the ends would be off at most; null where the scale is one. */
  readonly straightLine: StraightLineError | null;
  /** A value in the middle, all the way round; null where nothing is written back. */
  readonly example: RoundTrip | null;
}

export interface StraightLineError {
  /** In engineering units. */
  readonly most: number;
  /** Of the span between the ends, 0 to 1. */
  readonly part: number;
  /** The raw value where it is that. */
  readonly at: number;
}

/** What is asked, what the controller holds then, and what is shown of that. */
export interface RoundTrip {
  readonly asked: string;
  readonly held: string;
  readonly shown: string;
}

const PLACES = 200;

/** Null for a tag that holds no number. */
export function errorBudget(def: SignalDefinition): ErrorBudget | null {
  const { type, scale } = def;
  if (type.kind !== 'integer' && type.kind !== 'real') return null;
  const span = spanOf(def);
  const worth = type.kind === 'integer' ? worthBetween(scale, span) : null;
  const step = worth?.most ?? null;
  return {
    worth,
    decimals: step === null ? null : Math.max(0, -Math.floor(Math.log10(step) + 1e-9)),
    writing: scaleTraits(scale).inverse === 'none' ? null : step === null ? 0 : pointMoved(scale) === 0 ? 0.5 : step / 2,
    showing: def.decimals === null || (step !== null && 10 ** -def.decimals <= step * (1 + 1e-9)) ? 0 : 10 ** -def.decimals / 2,
    alike: type.kind === 'integer' ? alikeAround(def, Math.round((span[0] + span[1]) / 2)) : null,
    straightLine: straightLineError(scale, ...span),
    example: exampleOf(def, span),
  };
}

/** The raw values that matter: those of the scale, or all of the type. */
function spanOf({ type, scale, rawRange }: SignalDefinition): readonly [low: number, high: number] {
  if (rawRange) return [rawRange.low, rawRange.high];
  const drawn = drawnSpan(scale);
  if (drawn) return drawn;
  return type.kind === 'integer' ? [Math.max(Number(type.min), -32_768), Math.min(Number(type.max), 32_767)] : [0, 100];
}

function worthBetween(scale: Scale, [low, high]: readonly [number, number]): ErrorBudget['worth'] {
  let [least, most] = [Infinity, 0];
  for (let i = 0; i <= PLACES; i++) {
    const worth = countWorth(scale, Math.round(low + ((high - low) * i) / PLACES));
    if (!(worth > 0) || !Number.isFinite(worth)) continue;
    least = Math.min(least, worth);
    most = Math.max(most, worth);
  }
  return most === 0 ? null : { least, most };
}

/** Raw values to either side that are looked at: a display that shows more of them alike shows nothing of them. */
const MOST_ALIKE = 2000;

function alikeAround(def: SignalDefinition, raw: number): ErrorBudget['alike'] {
  if (def.type.kind !== 'integer' || BigInt(raw) < def.type.min || BigInt(raw) > def.type.max) return null;
  const { min, max } = def.type;
  const textAt = (count: number): string | null =>
    BigInt(count) < min || BigInt(count) > max
      ? null
      : textOf(def, engineeringOf(def, def.type.kind === 'integer' && def.type.isWide ? BigInt(count) : count));
  const text = textAt(raw);
  if (text === null) return null;
  let [from, to] = [raw, raw];
  while (raw - from < MOST_ALIKE && textAt(from - 1) === text) from--;
  while (to - raw < MOST_ALIKE && textAt(to + 1) === text) to++;
  return from === to ? null : { text, from, to };
}

/** The most that the line through both ends of a span is off; null where it is the scale itself, or has no ends. */
export function straightLineError(scale: Scale, low: number, high: number): StraightLineError | null {
  const value = (raw: number): number => asNumber(toEngineering(scale, raw).value) ?? NaN;
  const [first, last] = [value(low), value(high)];
  if (!Number.isFinite(first) || !Number.isFinite(last) || first === last) return null;
  let [most, at] = [0, low];
  for (let i = 1; i < PLACES; i++) {
    const raw = low + ((high - low) * i) / PLACES;
    const off = Math.abs(value(raw) - (first + ((last - first) * i) / PLACES));
    if (off > most) [most, at] = [off, raw];
  }
  const part = most / Math.abs(last - first);
  return part < 1e-9 ? null : { most, part, at };
}

/** A third of the way, and a part of a digit more than is shown: a value that somebody may ask for. */
function exampleOf(def: SignalDefinition, [low, high]: readonly [number, number]): RoundTrip | null {
  const raw = Math.round(low + (high - low) / 3);
  const asked = asNumber(engineeringOf(def, raw));
  if (asked === null || !Number.isFinite(asked)) return null;
  const places = def.decimals ?? 1;
  const text = asked.toFixed(places);
  const plan = planWrite(unjudged(def), Number(text));
  return plan.ok ? { asked: text, held: engineeringText({ ...def, decimals: null }, plan.value.achieved), shown: plan.value.text } : null;
}
