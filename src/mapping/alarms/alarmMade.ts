/** An alarm made ready: its condition, what suppresses it, and the places of its text. */
import type { AlarmCondition } from '@/core/alarm/condition.ts';
import { isBound, textParts } from '@/core/panel/bound.ts';
import { formulaOf, RunningFormula, type Formula } from '@/core/panel/formula.ts';
import { loneTag } from '@/core/panel/placeValue.ts';
import type { Alarm } from '@/core/project/entities.ts';
import type { SceneTag } from '@/core/panel/scene.ts';
import type { ValueKind } from '@/core/expression/tree.ts';

export interface AlarmPlace {
  readonly by: string;
  /** The tag that stands there alone; null for an expression. */
  readonly tagId: string | null;
  readonly formula: RunningFormula | null;
}

export interface AlarmMade {
  readonly condition: Formula | null;
  readonly suppressed: Formula | null;
  readonly places: readonly AlarmPlace[];
  /** All that it goes by. */
  readonly tagIds: ReadonlySet<string>;
  /** Expressions that change with time alone. */
  readonly usesTime: boolean;
  /** What does not fit together; empty where it does. */
  readonly problem: string;
}

const boundIn = (condition: AlarmCondition): readonly [string, ValueKind] | null => {
  if (condition.kind === 'formula') return [condition.holds.by, 'boolean'];
  return condition.kind === 'limit' && isBound(condition.limit) ? [condition.limit.by, 'number'] : null;
};

/** Also shows what a form has to say of one that is being written. */
export function alarmMade(
  { tagId, ackTagId, settings }: Pick<Alarm, 'tagId' | 'ackTagId' | 'settings'>,
  tag: (id: string) => SceneTag | null,
): AlarmMade {
  const { condition, suppressed, template } = settings;
  const problems: string[] = [];
  const made = (by: string, kind: ValueKind | null): Formula | null => {
    const formula = formulaOf(by, kind, tag);
    if (!formula.ok) problems.push(formula.problem.message);
    return formula.ok ? formula.value : null;
  };
  const bound = boundIn(condition);
  const ofCondition = bound && made(...bound);
  const ofSuppressed = suppressed && made(suppressed.by, 'boolean');
  const places = [...new Set(textParts(template).flatMap(({ by }) => by ?? []))].map((by): AlarmPlace => {
    const alone = loneTag(by);
    const formula = alone === null ? made(by, null) : null;
    return { by, tagId: alone, formula: formula && new RunningFormula(formula) };
  });
  if (condition.kind !== 'formula') {
    const type = tagId === null ? null : (tag(tagId)?.def?.type.kind ?? null);
    if (tagId === null) problems.push('It watches no tag.');
    else if (condition.kind === 'bit' && type !== 'boolean') problems.push('A bit is on or off: its tag is neither.');
    else if (condition.kind === 'limit' && (type === 'boolean' || type === 'text')) problems.push('A limit needs a tag that is a number.');
    else if (condition.kind === 'ofTag' && (tag(tagId)?.def?.limits?.[condition.key] ?? null) === null)
      problems.push('Its tag has no such limit: give it one in the step Scale.');
  }
  const formulas = [ofCondition, ofSuppressed].flatMap((formula) => formula ?? []);
  return {
    condition: ofCondition,
    suppressed: ofSuppressed,
    places,
    tagIds: new Set([
      ...(tagId === null ? [] : [tagId]),
      ...(ackTagId === null ? [] : [ackTagId]),
      ...formulas.flatMap(({ program }) => program.inputs),
      ...places.flatMap((place) => place.tagId ?? place.formula?.formula.program.inputs ?? []),
    ]),
    usesTime: formulas.some(({ program }) => program.usesTime),
    problem: problems[0] ?? '',
  };
}
