/** What a tag may be set to for a check: nothing, until a person says so, and between which ends. */
import type { Range } from '../../ranges/range.ts';
import { fail, ok, type Problem, type Result } from '../../result.ts';
import { parseFor, type SignalDefinition } from '../../signal.ts';
import { asNumber, formatValue, type EngValue } from '../../value/engineering.ts';

export interface DrivePermission {
  readonly tagId: string;
  /** Of the signal path that it was given for: it holds for no other. */
  readonly digest: string;
  /** Engineering values; null where the tag has states or texts, and any of them may be set. */
  readonly range: Range | null;
  /** Whether setting it may move or heat something: a command or a set point. */
  readonly moves: boolean;
  readonly who: string;
  /** ISO time. */
  readonly at: string;
}

/** What has ends: anything but states and texts. */
export function hasEnds({ type }: Pick<SignalDefinition, 'type'>): boolean {
  return type.kind !== 'boolean' && type.kind !== 'text';
}

/**
 * Between which values a tag may be set, as a person entered them.
 * @returns null for states and texts; refused: ends that are no numbers, in the wrong order, or outside the tag's own range
 */
export function rangeEntered(def: SignalDefinition, low: string, high: string): Result<Range | null> {
  if (!hasEnds(def)) return ok(null);
  const ends: number[] = [];
  for (const [place, text] of Object.entries({ low, high })) {
    const parsed = parseFor(def, text);
    const number = parsed.ok ? asNumber(parsed.value) : null;
    if (number === null || !Number.isFinite(number))
      return fail('range', `“${text}” is no number.`, 'Enter the least and the most that may be set.', place);
    if (def.range && (number < def.range.low || number > def.range.high))
      return fail(
        'range',
        `${formatValue(number, null)} is outside the tag’s own range, ${def.range.low} to ${def.range.high}.`,
        'Enter ends inside it.',
        place,
      );
    ends.push(number);
  }
  const [least = 0, most = 0] = ends;
  return least < most
    ? ok({ low: least, high: most })
    : fail('range', 'The least has to be less than the most.', 'Enter the two ends of what may be set.', 'high');
}

/** Why a value may not be set; null where it may. */
export function drivingProblem(permission: Pick<DrivePermission, 'range'>, value: EngValue): Problem | null {
  const { range } = permission;
  if (range === null) return null;
  const number = asNumber(value);
  if (number !== null && number >= range.low && number <= range.high) return null;
  return {
    code: 'out-of-range',
    message: `${formatValue(value, null)} is outside what may be set for a check, ${range.low} to ${range.high}.`,
    remedy: 'Set a value inside it, or give the permission anew.',
    place: 'value',
  };
}
