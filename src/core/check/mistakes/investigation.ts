/** What all that was seen of one value comes to: the mapping is right so far, or what explains it, and what to look at next. */
import type { Range } from '../../ranges/range.ts';
import type { SignalDefinition } from '../../signal.ts';
import { asNumber } from '../../value/engineering.ts';
import { explanationsOf, type Explanation } from './explanations.ts';
import type { Cells } from './mistakeSpace.ts';
import { agreesWith, seenNumber, type Observation } from './observation.ts';
import { nextTellingValue, notToldApart, tellingValues, type TellingValue } from './tellingValues.ts';
import { wayOf } from './way.ts';

export interface Looked extends Observation {
  /** The value that was tried, as it was entered; null for one that was there. */
  readonly tried: string | null;
}

export interface Investigated {
  readonly agrees: boolean;
  /** Simplest first; empty where the mapping agrees, and where nothing explains what was seen. */
  readonly explanations: readonly Explanation[];
  /** How many of them, from the first on, no value that may be tried tells from each other. */
  readonly undecided: number;
  /** What to try next to decide; null where no further value would tell more. */
  readonly next: TellingValue | null;
}

/** Whether what was seen is what was set. */
function isHeld({ tried, seen }: Looked): boolean {
  const wanted = tried === null ? null : seenNumber(tried);
  if (seen.kind !== 'number' || wanted?.kind !== 'number') return true;
  const number = asNumber(wanted.value) ?? NaN;
  // A count of the controller may be coarser than ours.
  const room = (seen.high - seen.low) * 2 + Math.abs(number) * 0.02;
  return number >= seen.low - room && number <= seen.high + room;
}

/** One value may agree with a wrong explanation by chance; it takes another one to believe it. */
const ENOUGH = 2;

/**
 * @param within  engineering values that may be tried; null for all that the type holds
 * @param setAt   who turns the value into memory: the controller, whose mapping is in question, or our own mapping
 */
export function investigate(
  def: SignalDefinition,
  cells: Cells | null,
  within: Range | null,
  looked: readonly Looked[],
  setAt: 'controller' | 'mapping',
): Investigated {
  const ours = wayOf(def);
  const last = looked.at(-1)?.sight ?? null;
  const tried = new Set(looked.flatMap((each) => (each.tried === null ? [] : [each.tried])));
  if (looked.every((each) => agreesWith(ours, each))) {
    // A controller that does not hold what was set there has shown something else than what was to be shown.
    const refused = new Set(looked.flatMap((each) => (setAt === 'controller' && each.tried !== null && !isHeld(each) ? [each.tried] : [])));
    const next = tellingValues(def, cells, within, last, refused).values.find(({ text }) => !tried.has(text)) ?? null;
    return { agrees: true, explanations: [], undecided: 0, next };
  }
  const found = explanationsOf(
    def,
    cells,
    looked.map((each) => ({ ...each, setThere: setAt === 'controller' ? each.tried : null })),
  );
  const [first] = found;
  if (!first) return { agrees: false, explanations: found, undecided: 0, next: null };
  if (first.way.place !== null) return { agrees: false, explanations: found, undecided: 0, next: null };
  const base = setAt === 'controller' ? first.way : ours;
  const ways = found.map(({ way }) => way);
  const isAlike = notToldApart(ways, base, cells, within, last);
  const explanations = [...found.filter((_, i) => isAlike[i]), ...found.filter((_, i) => !isAlike[i])];
  const splitting = nextTellingValue(ways, base, cells, within, last, tried);
  // One explanation that stands alone is tried against the mapping itself.
  const next = splitting ?? (looked.length < ENOUGH ? nextTellingValue([first.way, ours], ours, cells, within, last, tried) : null);
  return { agrees: false, explanations, undecided: isAlike.filter(Boolean).length, next };
}
