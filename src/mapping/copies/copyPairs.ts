/** What a copy rule copies, pair by pair, and what keeps it from doing so. Pure: server and pages share it. */
import type { CopyRule, Device, Link, Member, Tag } from '@/core/project/entities.ts';
import { fail, ok, type Problem, type Result } from '@/core/result.ts';
import { parseFor, type SignalDefinition } from '@/core/signal.ts';
import { unitRelation } from '@/core/units/unitLine.ts';
import { formatDataType } from '@/core/value/dataType.ts';
import type { EngValue } from '@/core/value/engineering.ts';
import type { EffectiveSignal } from '../effective.ts';

/** The project that rules stand in. */
export interface CopyProject {
  readonly copyRules: readonly CopyRule[];
  tag(id: string): Tag | null;
  link(id: string): Link | null;
  device(id: string): Device | null;
  effective(tagId: string): Result<EffectiveSignal>;
  membersOf(blockId: string): readonly Member[];
  /** Calculated tags that use some of these, and those that use them in turn. */
  usersOf(tagIds: Iterable<string>): ReadonlySet<string>;
  /** Tags that some expression uses. */
  usedInExpressions(): Iterable<string>;
}

export interface CopyPair {
  readonly fromId: string;
  readonly toId: string;
}

/** The tags that a rule names, two by two: members of blocks by their paths. Members that only one of them has are left out. */
export function copyPairs(rule: CopyRule, project: Pick<CopyProject, 'membersOf'>): readonly CopyPair[] {
  const { fromTagId, toTagId, fromBlockId, toBlockId } = rule;
  if (fromTagId !== null && toTagId !== null) return [{ fromId: fromTagId, toId: toTagId }];
  if (fromBlockId === null || toBlockId === null) return [];
  const targets = new Map(project.membersOf(toBlockId).map(({ id, path }) => [path.toLowerCase(), id]));
  return project.membersOf(fromBlockId).flatMap(({ id, path }) => {
    const toId = targets.get(path.toLowerCase());
    return toId === undefined ? [] : [{ fromId: id, toId }];
  });
}

/** Why a rule cannot copy, as far as settings tell; null where it can. */
export function copyProblem(rule: CopyRule, project: CopyProject): Problem | null {
  const pairs = copyPairs(rule, project);
  if (pairs.length === 0) return { code: 'copy-nothing', message: 'The two blocks have no member in common.', place: 'toBlockId' };
  for (const { fromId, toId } of pairs) {
    const [from, to] = [project.tag(fromId), project.tag(toId)];
    if (!from || !to) return { code: 'gone', message: 'A tag of it is not there any more.' };
    const problem = pairProblem(from, project.effective(fromId), to, project.effective(toId));
    if (problem) return problem;
  }
  const trigger = rule.triggerTagId === null ? null : project.effective(rule.triggerTagId);
  if (trigger?.ok && trigger.value.def.type.kind !== 'boolean')
    return { code: 'copy-trigger', message: 'What starts it must be on or off.', remedy: 'Choose a BOOL.', place: 'triggerTagId' };
  return null;
}

function pairProblem(from: Tag, source: Result<EffectiveSignal>, to: Tag, target: Result<EffectiveSignal>): Problem | null {
  if (!source.ok) return { ...source.problem, message: `${from.name}: ${source.problem.message}`, place: 'fromTagId' };
  if (!target.ok) return { ...target.problem, message: `${to.name}: ${target.problem.message}`, place: 'toTagId' };
  if (!target.value.writable)
    return {
      code: 'read-only',
      message: `${to.name} is not written.`,
      remedy: 'Set its access to read and write in Map, if the controller takes writes to it.',
      place: 'toTagId',
    };
  if (from.unit !== '' && to.unit !== '' && unitRelation(from.unit, to.unit) !== 'same')
    return {
      code: 'copy-units',
      message: `${from.name} is in ${from.unit}, ${to.name} in ${to.unit}: the number would be copied as it is.`,
      remedy: 'Copy a calculated tag that converts it.',
      place: 'toTagId',
    };
  const [a, b] = [source.value.def.type, target.value.def.type];
  const number = (kind: typeof a.kind): boolean => kind === 'integer' || kind === 'real';
  if (a.kind === b.kind || (number(a.kind) && number(b.kind)) || b.kind === 'text' || (a.kind === 'boolean' && number(b.kind))) return null;
  return {
    code: 'copy-types',
    message: `A ${formatDataType(a)} cannot become a ${formatDataType(b)} (${from.name} to ${to.name}).`,
    remedy: 'Copy a calculated tag that says how.',
    place: 'toTagId',
  };
}

/**
 * The engineering value of one tag as another takes it: numbers as they are, on and off as 1 and 0, anything as its text.
 * Ranges and types are asked by the write that follows.
 * @param text of the value, as its tag shows it
 */
export function copiedValue(value: EngValue, text: string, target: SignalDefinition): Result<EngValue> {
  const { kind } = target.type;
  if (kind === 'text') return ok(typeof value === 'string' ? value : text);
  if (typeof value === 'string') return parseFor(target, value);
  if (kind === 'boolean') return typeof value === 'boolean' ? ok(value) : fail('copy-types', 'A number is neither on nor off.');
  return ok(typeof value === 'boolean' ? Number(value) : value);
}
