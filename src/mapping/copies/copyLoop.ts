/** Whether a copy rule would feed itself: through calculations, other rules, other names of one place, another device too. */
import { describeDriver } from '@/drivers/descriptions.ts';
import { spansTouch } from '@/core/address/memoryMap.ts';
import { deviceIdOf } from '@/core/project/tagSource.ts';
import type { CopyRule } from '@/core/project/entities.ts';
import type { Problem } from '@/core/result.ts';
import { copyPairs, type CopyProject } from './copyPairs.ts';

/** Why a rule may not stand; null where it may. */
export function loopProblem(rule: CopyRule, project: CopyProject): Problem | null {
  const way = copyLoop(rule, project);
  return (
    way && {
      code: 'copy-loop',
      message: `It would feed itself: what it writes comes back to it by ${way.join(', then ')}.`,
      remedy: 'Copy to a place that nothing here goes by.',
      place: 'toTagId',
    }
  );
}

/** The names on the way from a tag that the rule writes back to one that it goes by; null where there is no such way. */
export function copyLoop(rule: CopyRule, project: CopyProject): readonly string[] | null {
  const goesBy = startsOf(rule, project);
  const others = [...project.copyRules.filter(({ id, isOn }) => isOn && id !== rule.id), rule].map((other) => ({
    starts: startsOf(other, project),
    targets: copyPairs(other, project).map(({ toId }) => toId),
  }));
  /** Only from these does a value go on: by a rule, or by an expression. */
  const leading = new Set([...others.flatMap(({ starts }) => [...starts]), ...project.usedInExpressions()]);
  /** How each tag was come to. */
  const from = new Map<string, string | null>();
  const open: string[] = [];
  const reach = (id: string, by: string | null): void => {
    if (from.has(id)) return;
    from.set(id, by);
    open.push(id);
  };
  for (const { toId } of copyPairs(rule, project)) reach(toId, null);
  for (let id = open.shift(); id !== undefined; id = open.shift()) {
    if (goesBy.has(id)) return wayTo(id, from, project);
    for (const same of samePlace(id, leading, project)) reach(same, id);
    for (const user of project.usersOf([id])) reach(user, id);
    for (const { starts, targets } of others) if (starts.has(id)) for (const target of targets) reach(target, id);
  }
  return null;
}

/** Tags by whose values a rule goes. */
function startsOf(rule: CopyRule, project: CopyProject): ReadonlySet<string> {
  const ids = copyPairs(rule, project).map(({ fromId }) => fromId);
  return new Set(rule.triggerTagId === null ? ids : [...ids, rule.triggerTagId]);
}

function wayTo(end: string, from: ReadonlyMap<string, string | null>, project: CopyProject): readonly string[] {
  const way: string[] = [];
  for (let id: string | null = end; id !== null; id = from.get(id) ?? null) way.unshift(project.tag(id)?.name ?? id);
  return way;
}

/**
 * Those of some tags that have bits of memory in common with one, under whatever name of whatever device: two may be one
 * party. A place that an index moves may be any of its party.
 */
function samePlace(tagId: string, among: ReadonlySet<string>, project: CopyProject): readonly string[] {
  const place = placeOf(tagId, project);
  if (!place) return [];
  return [...among].filter((other) => {
    const found = other === tagId ? null : placeOf(other, project);
    if (found?.party !== place.party) return false;
    if (found.moves || place.moves || found.canonical === place.canonical) return true;
    return found.span !== null && place.span !== null && found.span.area === place.span.area && spansTouch(found.span, place.span);
  });
}

function placeOf(tagId: string, project: CopyProject) {
  const tag = project.tag(tagId);
  const device = tag && project.device(deviceIdOf(tag) ?? '');
  const signal = project.effective(tagId);
  if (!device || !signal.ok) return null;
  const { canonical, index, span } = signal.value;
  return { party: partyOf(device.id, project), canonical, moves: index !== null, span };
}

/** Who is reached: two devices of a project may be one machine. */
function partyOf(deviceId: string, project: CopyProject): string | null {
  const device = project.device(deviceId);
  const link = device && project.link(device.linkId);
  if (!device || !link) return null;
  const driver = describeDriver(link.driver);
  return driver && `${driver.id} ${driver.target(link.settings).toLowerCase()} ${driver.party(device.settings)}`;
}
