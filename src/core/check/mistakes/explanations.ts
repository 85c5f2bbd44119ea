/** Which plausible mistakes, one or two at once, explain all that was seen of a value. */
import { countWorth } from '../../scaling/scale.ts';
import { engineeringOf, planWrite, type SignalDefinition } from '../../signal.ts';
import { asNumber } from '../../value/engineering.ts';
import { SECOND_MISTAKE_COST, type Mistake } from './mistake.ts';
import { mistakesOf, type Cells, type Mistaken } from './mistakeSpace.ts';
import { agreesWith, isWrittenSo, seenNumber, type Observation } from './observation.ts';
import { otherPointsOf } from './otherPoints.ts';
import { probesAround } from './probes.ts';
import { bytesReadBy, shownBy, textBy, wayOf, type Sight, type Way } from './way.ts';

export interface Explanation extends Candidate {
  /** What it shows at each thing seen. */
  readonly texts: readonly string[];
  /** Others that show the same for whatever the memory holds: no value tells them apart. */
  readonly alike: readonly Candidate[];
}

export interface Candidate {
  /** One or two, in the order of the signal path. */
  readonly mistakes: readonly Mistake[];
  readonly way: Way;
  /** The simplest have the lowest. */
  readonly cost: number;
}

/** One thing seen, and the value that was set at the controller before; null where it was there, or came through our mapping. */
export interface Evidence extends Observation {
  readonly setThere: string | null;
}

/** A real that is next to nothing, as wrong orders give them. */
const NEXT_TO_NOTHING = 1e-9;
/** Digits that were written otherwise make an explanation less likely; so does a controller that holds another value than the one it was given. */
const OTHERWISE_WRITTEN = 0.6;
const OTHERWISE_HELD = 2.2;
const FAR_OFF = 0.8;
/** Of another point: it is the very number, or one near it. */
const NOT_EXACT = 0.8;
/** Memory that moved when the value was set, and that an explanation accounts for, makes it likelier. */
const ACCOUNTED_BYTE = 0.25;
const MOST_OFFERED = 24;
const MOST_COMPARED = 160;
/** What costs more explains anything. */
const DEAREST = 5.2;

/**
 * @param seen  at least one
 * @param most  mistakes at once, 1 or 2
 * @returns the explanations, simplest first; empty where the mapping agrees with everything, and where nothing explains it
 */
export function explanationsOf(def: SignalDefinition, cells: Cells | null, seen: readonly Evidence[], most: 1 | 2 = 2): readonly Explanation[] {
  const ours = wayOf(def);
  if (seen.length === 0 || explains(ours, seen)) return [];
  const moved = movedBytes(seen);
  const found: Candidate[] = [];
  for (const candidate of candidatesOf(ours, cells, most))
    if (explains(candidate.way, seen))
      found.push({ ...candidate, cost: candidate.cost + doubtOf(candidate.way, seen) - ACCOUNTED_BYTE * accounted(candidate.way, moved) });
  for (const { mistake, way } of otherPointsOf(
    ours,
    seen.map(({ sight }) => sight),
  ))
    if (explains(way, seen))
      found.push({ mistakes: [mistake], way, cost: mistake.cost + doubtOf(way, seen) + (seen.every((each) => isExact(way, each)) ? 0 : NOT_EXACT) });
  return grouped(
    found.filter(({ cost }) => cost <= DEAREST),
    seen,
  ).slice(0, MOST_OFFERED);
}

/** Every way to which one mistake leads, or two of different kinds. */
function* candidatesOf(ours: Way, cells: Cells | null, most: 1 | 2): Generator<Candidate> {
  for (const [kind, singles] of mistakesOf(ours, cells).entries())
    for (const first of singles) {
      yield { mistakes: [first.mistake], way: first.way, cost: first.mistake.cost };
      if (most === 2) yield* pairsOf(first, kind, cells);
    }
}

function* pairsOf(first: Mistaken, kind: number, cells: Cells | null): Generator<Candidate> {
  for (const seconds of mistakesOf(first.way, cells, kind + 1))
    for (const second of seconds)
      yield { mistakes: [first.mistake, second.mistake], way: second.way, cost: first.mistake.cost + second.mistake.cost + SECOND_MISTAKE_COST };
}

function explains(way: Way, seen: readonly Observation[]): boolean {
  return seen.every((each) => agreesWith(way, each));
}

function doubtOf(way: Way, seen: readonly Evidence[]): number {
  const far = Math.max(...seen.map((each) => farFrom(way, each)));
  return (
    (seen.every((each) => isAsWritten(way, each)) ? 0 : OTHERWISE_WRITTEN) +
    (seen.every((each) => isAsHeld(way, each)) ? 0 : OTHERWISE_HELD) +
    far * FAR_OFF
  );
}

/** Whether it shows what was told to the last shown place: others hold numbers that are only near it. */
function isExact(way: Way, { sight, seen }: Evidence): boolean {
  if (seen.kind !== 'number' || seen.text !== null) return true;
  const { number } = shownBy(way, sight);
  const told = asNumber(seen.value);
  return number !== null && told !== null && Math.abs(number - told) <= 0.5 * 10 ** -(way.def.decimals ?? 6);
}

/** How far from what was told a number lies, of what was left to it because the process moves: 0 to 1. */
function farFrom(way: Way, { sight, seen }: Evidence): number {
  if (seen.kind !== 'number' || seen.text !== null || seen.high <= seen.low) return 0;
  const { number } = shownBy(way, sight);
  return number === null ? 1 : Math.min(1, Math.abs(number - (seen.low + seen.high) / 2) / ((seen.high - seen.low) / 2));
}

/** Not by a number next to nothing that happens to lie beside a seen zero: wrong orders of reals are full of them. */
function isAsWritten(way: Way, { sight, seen }: Evidence): boolean {
  const { number } = shownBy(way, sight);
  const isNothing = way.def.type.kind === 'real' && number !== null && number !== 0 && Math.abs(number) < NEXT_TO_NOTHING;
  return !isNothing && isWrittenSo(way, sight, seen);
}

/** Whether a controller of this way, given the value that was set there, holds what was seen. */
function isAsHeld({ def, bits, point }: Way, { seen, setThere }: Evidence): boolean {
  const wanted = setThere === null || seen.kind !== 'number' ? null : seenNumber(setThere);
  if (seen.kind !== 'number' || wanted?.kind !== 'number') return true;
  const plan = planWrite(def, point === 0 ? wanted.value : (asNumber(wanted.value) ?? NaN) / 10 ** point);
  // What it cannot hold it refuses or cuts off: that says nothing.
  if (!plan.ok) return true;
  const { raw } = plan.value;
  if (typeof raw === 'boolean' || typeof raw === 'string') return true;
  const held = bits > 0 && def.type.kind === 'integer' ? (BigInt(raw) >> BigInt(bits)) << BigInt(bits) : raw;
  const number = (asNumber(engineeringOf(def, typeof raw === 'number' ? Number(held) : held)) ?? NaN) * 10 ** point;
  // Its last count may be rounded otherwise.
  const count = countWorth(def.scale, Number(held)) * 10 ** point + Math.abs(number) * 1e-6;
  return number >= seen.low - count && number <= seen.high + count;
}

/** Places of the memory around the tag, counted from its first byte, whose content changed between two things seen. */
function movedBytes(seen: readonly Evidence[]): ReadonlySet<number> {
  const moved = new Set<number>();
  const [first] = seen;
  if (!first?.sight.around || first.setThere === null) return moved;
  const { bytes, at } = first.sight.around;
  for (const { sight } of seen)
    if (sight.around?.at === at) for (let i = 0; i < bytes.length; i++) if (sight.around.bytes[i] !== bytes[i]) moved.add(i - at);
  return moved;
}

function accounted(way: Way, moved: ReadonlySet<number>): number {
  const [from, size] = bytesReadBy(way);
  let count = 0;
  for (const place of moved) if (place >= from && place < from + size) count++;
  return count;
}

/** Those that show the same whatever the memory holds are one, told by its simplest. */
function grouped(found: readonly Candidate[], seen: readonly Evidence[]): readonly Explanation[] {
  const probes = probesAround(seen.map(({ sight }) => sight));
  const groups = new Map<string, Candidate[]>();
  for (const candidate of [...found].sort((a, b) => a.cost - b.cost).slice(0, MOST_COMPARED)) {
    // What another point holds was seen, and can only be told from what was seen.
    const key = candidate.way.place ?? behaviourOf(candidate.way, probes);
    const group = groups.get(key);
    if (group) group.push(candidate);
    else groups.set(key, [candidate]);
  }
  return [...groups.values()].flatMap(([first, ...alike]) =>
    first ? [{ ...first, texts: seen.map(({ sight }) => textBy(first.way, sight)), alike }] : [],
  );
}

/** What a way shows at each probe, to the digits that no arithmetic loses. */
function behaviourOf(way: Way, probes: readonly Sight[]): string {
  return probes
    .map((sight) => {
      const { value, number } = shownBy(way, sight);
      return typeof value === 'string' ? value : number === null ? '' : number.toPrecision(11);
    })
    .join('|');
}
