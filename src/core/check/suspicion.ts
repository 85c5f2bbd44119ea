/** Which single mistake would bring an unexpected value among the expected ones. Nobody has seen the right value: it is a suspicion, no finding. */
import type { Range } from '../ranges/range.ts';
import { followWire, unjudged, type SignalDefinition, type WireValue } from '../signal.ts';
import type { Mistake } from './mistakes/mistake.ts';
import { mistakesOf } from './mistakes/mistakeSpace.ts';
import { seenBetween, agreesWith } from './mistakes/observation.ts';
import { shownBy, textBy, wayOf, type Way } from './mistakes/way.ts';

export interface Suspicion {
  readonly mistake: Mistake;
  readonly way: Way;
  /** `words swapped (CDAB) would give 98.2 °C` */
  readonly sentence: string;
}

/** Any number is brought into a range by some unit, shift or neighbour: those are not suspected without a witness. */
const SUSPECTED = ['order', 'type', 'ten'];
/** Wrong orders of reals are full of numbers next to nothing. */
const NEXT_TO_NOTHING = 1e-9;

/** @returns the likeliest first; empty when the value is among the expected ones already, or nothing helps */
export function suspicionsOf(def: SignalDefinition, wire: WireValue, expected: Range): readonly Suspicion[] {
  const ours = wayOf(def);
  const observation = { sight: { wire, around: null }, seen: seenBetween(expected.low, expected.high) };
  if (agreesWith(ours, observation)) return [];
  const cells = wire.kind === 'bytes' ? { bytes: 2, name: 'register' } : null;
  const unit = def.unit === '' ? '' : ` ${def.unit}`;
  return mistakesOf(ours, cells)
    .flat()
    .filter(({ mistake, way }) => SUSPECTED.includes(mistake.kind) && isSomething(way) && agreesWith(way, observation))
    .sort((a, b) => SUSPECTED.indexOf(a.mistake.kind) - SUSPECTED.indexOf(b.mistake.kind))
    .map(({ mistake, way }) => ({ mistake, way, sentence: `${mistake.words} would give ${textBy(way, observation.sight)}${unit}` }));

  function isSomething(way: Way): boolean {
    const { type } = way.def;
    // Decimal digits in four bits each are met seldom, and any small number could be some.
    if (type.kind === 'integer' && type.coding !== 'binary' && type !== def.type) return false;
    return Math.abs(shownBy(way, observation.sight).number ?? 0) >= (way.def.scale === def.scale ? NEXT_TO_NOTHING : 0);
  }
}

/** Further from the expected values than they are apart, or less than half the least of them: no process does that. */
export function isFarOut(def: SignalDefinition, wire: WireValue, { low, high }: Range): boolean {
  const { number } = shownBy(wayOf(def), { wire, around: null });
  if (followWire(unjudged(def), wire).eng === null || number === null) return false;
  return number > high + (high - low) || number < low - (high - low) || (low > 0 && Math.abs(number) < low / 2);
}
