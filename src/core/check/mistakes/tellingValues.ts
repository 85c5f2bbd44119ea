/** The fewest values by which every plausible mistake would show another text than the right mapping, and than each other. */
import type { Range } from '../../ranges/range.ts';
import { engineeringOf, exactText, planWrite, unjudged, type SignalDefinition } from '../../signal.ts';
import type { EngValue } from '../../value/engineering.ts';
import type { Mistake } from './mistake.ts';
import { FARTHEST_CELLS, mistakesOf, type Cells } from './mistakeSpace.ts';
import { markBy, wayOf, type Sight, type Way } from './way.ts';

export interface TellingValue {
  readonly value: EngValue;
  /** As it can be entered. */
  readonly text: string;
  /** What the right mapping shows of it. */
  readonly shown: string;
}

export interface TellingValues {
  readonly values: readonly TellingValue[];
  /** Mistakes that show alike at every value: no test tells them apart. */
  readonly alike: readonly (readonly Mistake[])[];
  /** Mistakes that show what the right mapping shows, at every value. */
  readonly hidden: readonly Mistake[];
  readonly mistakes: number;
}

/** Parts of the range at which values are tried, with digits and bytes that repeat as little as may be. */
const PARTS = [0.7313, 0.1379, 0.8731, 0.4177, 0.0613, 0.9571];
/** For reals of which nobody says between what they lie. */
const REALS = [271.8281, -31.41593, 1618.034, 57.72157, -0.6931472, 4669.201];
const MOST_VALUES = 3;
const NONE: ReadonlySet<string> = new Set();

/**
 * @param within  engineering values that may be tried; null for all that the type holds
 * @param sight   memory as it is around the tag; null where it is not known
 * @param except  texts of values that cannot be had
 */
export function tellingValues(
  def: SignalDefinition,
  cells: Cells | null,
  within: Range | null,
  sight: Sight | null = null,
  except: ReadonlySet<string> = NONE,
): TellingValues {
  const ours = wayOf(def);
  const tried = trials(def, within, cells, sight).filter(({ text }) => !except.has(text));
  const mistaken = mistakesOf(ours, cells).flat();
  const ways = [ours, ...mistaken.map(({ way }) => way)];
  // For each value, what each way shows as a number of its own: the first, 0, is the right one.
  const shows = tried.map(({ sight: memory }) => numbered(ways.map((way) => markBy(way, memory))));
  const best = fewest(shows, ways.length);
  const all = partsOf(shows, ways.length);
  const groups = new Map<number, Mistake[]>();
  for (const [i, { mistake }] of mistaken.entries()) {
    const part = all[i + 1] ?? 0;
    const group = groups.get(part);
    if (group) group.push(mistake);
    else groups.set(part, [mistake]);
  }
  const hidden = groups.get(all[0] ?? 0) ?? [];
  groups.delete(all[0] ?? 0);
  return {
    values: best.flatMap((at) => (tried[at] ? [told(tried[at])] : [])),
    alike: [...groups.values()].filter((group) => group.length > 1),
    hidden,
    mistakes: mistaken.length,
  };
}

/**
 * The value that tells most of some ways apart.
 * @param base    the way by which the value gets into memory: ours, or the one that is taken to be the controller's
 * @param except  texts of values that were tried already
 * @returns null where none tells any two apart
 */
export function nextTellingValue(
  ways: readonly Way[],
  base: Way,
  cells: Cells | null,
  within: Range | null,
  sight: Sight | null,
  except: ReadonlySet<string>,
): TellingValue | null {
  let best: Trial | null = null;
  let most = 1;
  for (const trial of trials(base.def, within, cells, sight, base.at)) {
    if (except.has(trial.text)) continue;
    const apart = new Set(ways.map((way) => markBy(way, trial.sight))).size;
    if (apart > most) [best, most] = [trial, apart];
  }
  return best && told(best);
}

/** Which of some ways show what the first of them shows, at every value that may be tried. */
export function notToldApart(ways: readonly Way[], base: Way, cells: Cells | null, within: Range | null, sight: Sight | null): readonly boolean[] {
  const tried = trials(base.def, within, cells, sight, base.at);
  const marks = ways.map((way) => tried.map((trial) => markBy(way, trial.sight)));
  return marks.map((each) => each.every((mark, i) => mark === marks[0]?.[i]));
}

interface Trial extends TellingValue {
  readonly sight: Sight;
}

function told({ value, text, shown }: Trial): TellingValue {
  return { value, text, shown };
}

function trials(def: SignalDefinition, within: Range | null, cells: Cells | null, sight: Sight | null, at = 0): readonly Trial[] {
  const bare = unjudged(def);
  const found: Trial[] = [];
  for (const wanted of wantedValues(bare, within)) {
    const plan = planWrite(bare, wanted);
    if (!plan.ok) continue;
    const { achieved, bytes, raw, text } = plan.value;
    if (within && typeof achieved !== 'boolean' && typeof achieved !== 'string' && (Number(text) < within.low || Number(text) > within.high))
      continue;
    if (found.some((other) => other.shown === text)) continue;
    const wire: Sight = def.isTyped ? { wire: { kind: 'typed', value: raw }, around: null } : written(bytes, cells, sight, at);
    found.push({ value: achieved, text: exactText(def, achieved), shown: text, sight: wire });
  }
  return found;
}

function* wantedValues(def: SignalDefinition, within: Range | null): Iterable<EngValue> {
  const { type } = def;
  if (type.kind === 'boolean') yield* [true, false];
  else if (type.kind === 'text') yield* ['Ab3', 'xYz9', ''].filter((text) => text.length <= type.room);
  else if (within) for (const part of PARTS) yield within.low + (within.high - within.low) * part;
  else if (type.kind === 'real') yield* REALS;
  else
    for (const part of PARTS) {
      const raw = type.min + ((type.max - type.min) * BigInt(Math.round(part * 1e6))) / 1_000_000n;
      yield engineeringOf(def, type.isWide ? raw : Number(raw));
    }
}

/** Memory around the tag with the bytes written into it. */
function written(bytes: Uint8Array, cells: Cells | null, sight: Sight | null, at: number): Sight {
  const margin = (cells?.bytes ?? 0) * FARTHEST_CELLS;
  const around = sight?.around ?? { bytes: FILLED.subarray(0, 2 * margin + 16), at: margin };
  const memory = around.bytes.slice();
  if (around.at + at >= 0 && around.at + at + bytes.length <= memory.length) memory.set(bytes, around.at + at);
  const size = sight?.wire?.kind === 'bytes' ? sight.wire.bytes.length : bytes.length;
  return { wire: { kind: 'bytes', bytes: memory.subarray(around.at, around.at + size) }, around: { bytes: memory, at: around.at } };
}

/** Memory as it would be with a value in it, written as one way has it. */
export function sightWith(base: Way, { value }: TellingValue, cells: Cells | null, sight: Sight | null): Sight {
  const plan = planWrite(base.def, value);
  if (!plan.ok) return sight ?? { wire: { kind: 'bytes', bytes: new Uint8Array() }, around: null };
  return base.def.isTyped ? { wire: { kind: 'typed', value: plan.value.raw }, around: null } : written(plan.value.bytes, cells, sight, base.at);
}

/** Something that no neighbour is likely to hold twice. */
const FILLED = Uint8Array.from({ length: 96 }, (_, i) => (i * 97 + 43 + (i >> 3) * 31) & 0xff);

function numbered(marks: readonly (string | number)[]): readonly number[] {
  const numbers = new Map<string | number, number>();
  return marks.map((mark) => {
    const number = numbers.get(mark) ?? numbers.size;
    numbers.set(mark, number);
    return number;
  });
}

/** The part each way falls into by what it shows at some values. */
function partsOf(shows: readonly (readonly number[])[], count: number): readonly number[] {
  let parts: readonly number[] = new Array<number>(count).fill(0);
  for (const row of shows) parts = refined(parts, row, count);
  return parts;
}

function refined(parts: readonly number[], row: readonly number[], count: number): readonly number[] {
  const numbers = new Map<number, number>();
  return parts.map((part, i) => {
    const key = part * count + (row[i] ?? 0);
    const number = numbers.get(key) ?? numbers.size;
    numbers.set(key, number);
    return number;
  });
}

/** The smallest set of values that tells apart all that all of them together do: all sets of one, of two, of three; then the best next. */
function fewest(shows: readonly (readonly number[])[], count: number): readonly number[] {
  const goal = 1 + Math.max(...partsOf(shows, count));
  let best: { readonly at: readonly number[]; readonly apart: number } = { at: [], apart: 1 };
  let level: { readonly at: readonly number[]; readonly parts: readonly number[] }[] = [{ at: [], parts: new Array<number>(count).fill(0) }];
  for (let size = 1; size <= MOST_VALUES; size++) {
    const next: typeof level = [];
    for (const { at, parts } of level)
      for (let i = (at.at(-1) ?? -1) + 1; i < shows.length; i++) {
        const with_ = refined(parts, shows[i] ?? [], count);
        const apart = 1 + Math.max(...with_);
        if (apart > best.apart) best = { at: [...at, i], apart };
        if (apart === goal) return best.at;
        next.push({ at: [...at, i], parts: with_ });
      }
    level = next;
  }
  return best.at;
}
