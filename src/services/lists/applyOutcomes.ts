/** From what becomes of each tag of a list to changes of the project: what was made by hand stays. */
import { v7 as uuid } from 'uuid';
import type { Change } from '@/core/project/command.ts';
import type { Source, Tag } from '@/core/project/entities.ts';
import { groupText } from '@/core/project/tagPath.ts';
import { deviceIdOf, newPoint, pointIn, withPoint } from '@/core/project/tagSource.ts';
import { nameKey } from '@/core/project/nameKey.ts';
import { sameJson } from '@/core/project/sameJson.ts';
import type { Outcome, TagUses } from '@/core/taglist/draft.ts';
import { fieldsOf } from '@/core/taglist/newTags.ts';
import type { ListTag } from '@/core/taglist/understand.ts';
import type { ProjectModel } from '@/model/projectModel.ts';

/** Taken from the list whenever it changes them: the controller's program is the authority on where and what a tag is. */
const FROM_THE_LIST = ['address', 'type', 'access'] as const;
/** Taken only where nobody changed them here since. */
const MAY_BE_MINE = ['name', 'group', 'order', 'periodMs', 'unit', 'decimals', 'rangeLow', 'rangeHigh', 'comment', 'initial', 'names'] as const;

/** The tags that a source has brought, by their names in it. */
export function tagsOfSource(model: ProjectModel, source: Pick<Source, 'id' | 'deviceId'>): ReadonlyMap<string, Tag> {
  const tags = new Map<string, Tag>();
  for (const tag of model.tagsOf(source.deviceId)) if (tag.listId === source.id) tags.set(nameKey(tag.listName), tag);
  return tags;
}

/** What a tag takes part in: one that is used is not removed with its row. */
export function usesOf(model: ProjectModel, isProven: (tagId: string) => boolean, tag: Tag): TagUses {
  const device = model.get('device', deviceIdOf(tag) ?? '');
  return {
    elements: model.elementsOf(tag.id).length,
    isProven: isProven(tag.id),
    isNamed: [device?.identityTagId, device?.lifeTagId, device?.ownLifeTagId].includes(tag.id) || model.isFollowed(tag.id),
    hasScale: model.get('scale', tag.id) !== null,
  };
}

/** What a list is taken over with. */
export interface Taking {
  readonly source: Pick<Source, 'id' | 'deviceId'>;
  /** Tags that it has brought before, by their names in it. */
  readonly known: ReadonlyMap<string, Tag>;
  /** The group that each text of the list stands for. */
  readonly groups: ReadonlyMap<string, string>;
  readonly model: ProjectModel;
  readonly isUsed: (tag: Tag) => boolean;
}

export function* changesFor(outcome: Outcome, taking: Taking): Generator<Change> {
  const { known, isUsed } = taking;
  if (outcome.kind === 'gone') {
    const tag = known.get(nameKey(outcome.tag.listName));
    if (!tag) return;
    const was = seen(tag, ['name', 'source', 'isGone', 'listId']);
    if (isUsed(tag)) yield { kind: 'tag', id: tag.id, set: { isGone: true }, was };
    else yield { kind: 'tag', id: tag.id, set: null, was };
    return;
  }
  const before = outcome.kind === 'update' ? outcome.before : null;
  const after = outcome.kind === 'update' ? outcome.after : outcome.tag;
  // One that went and stayed because it is used comes back as itself.
  const tag = known.get(nameKey((before ?? after).listName));
  if (!tag) yield* newTag(after, taking);
  else yield* updated(tag, before, after, taking);
}

function* newTag(after: ListTag, { source, groups }: Taking): Generator<Change> {
  const id = uuid();
  const { group, address, order, periodMs, ...rest } = fieldsOf(after);
  const set = {
    ...rest,
    groupId: groups.get(group) ?? null,
    source: newPoint(source.deviceId, address, { order, periodMs }),
    listId: source.id,
    listName: after.listName,
    listType: after.type,
  };
  yield { kind: 'tag', id, set };
  if (after.scale) yield { kind: 'scale', id, set: { scale: after.scale } };
}

function* updated(tag: Tag, before: ListTag | null, after: ListTag, { model, groups }: Taking): Generator<Change> {
  const [now, was, own] = [fieldsOf(after), before ? fieldsOf(before) : null, asListed(tag, model)];
  const set: Partial<ReturnType<typeof fieldsOf>> & { listName?: string; isGone?: boolean } = {};
  const take = <F extends keyof typeof now>(field: F): void => void (set[field] = now[field]);
  for (const field of FROM_THE_LIST) if (!was || was[field] !== now[field]) take(field);
  for (const field of MAY_BE_MINE) if (was && !sameJson(was[field], now[field]) && sameJson(own[field], was[field])) take(field);
  // An order is one of its type's width: what was set by hand for another width means nothing any more.
  if ('type' in set && own.order !== '') take('order');
  // The two ends of a range belong together.
  if ('rangeLow' in set !== 'rangeHigh' in set && was && (tag.rangeLow !== was.rangeLow || tag.rangeHigh !== was.rangeHigh)) {
    delete set.rangeLow;
    delete set.rangeHigh;
  }
  const { group, address, order, periodMs, ...rest } = set;
  const point = Object.fromEntries(Object.entries({ address, order, periodMs }).filter(([, value]) => value !== undefined));
  const whole: Partial<Tag> = {
    ...rest,
    ...(group === undefined ? {} : { groupId: groups.get(group) ?? null }),
    ...(Object.keys(point).length === 0 ? {} : withPoint(tag, point)),
    ...(tag.listName === after.listName ? {} : { listName: after.listName }),
    ...(tag.listType === after.type ? {} : { listType: after.type }),
    ...(tag.isGone ? { isGone: false } : {}),
  };
  const fields = Object.fromEntries(Object.entries(whole).filter(([field, value]) => !sameJson(tag[field as keyof Tag], value)));
  if (Object.keys(fields).length > 0) yield { kind: 'tag', id: tag.id, set: fields, was: seen(tag, Object.keys(fields)) };
  const scale = model.get('scale', tag.id)?.scale ?? null;
  const isMine = before !== null && !sameJson(scale, before.scale);
  if (before && !isMine && !sameJson(before.scale, after.scale))
    yield { kind: 'scale', id: tag.id, set: after.scale ? { scale: after.scale } : null, was: { scale: scale ?? undefined } };
}

/** The tag as a list would have it. */
export function asListed(tag: Tag, model: ProjectModel): ReturnType<typeof fieldsOf> {
  const { name, type, access, unit, decimals, rangeLow, rangeHigh, comment, initial, names } = tag;
  const { address = '', order = '', periodMs = null } = pointIn(tag) ?? {};
  const group = groupText(tag.groupId, { group: (id) => model.get('group', id) });
  return { name, group, address, type, order, periodMs, access, unit, decimals, rangeLow, rangeHigh, comment, initial, names };
}

/** What the taking saw of a tag: when it is something else by then, the taking is refused. */
function seen(tag: Tag, fields: readonly string[]): Readonly<Record<string, unknown>> {
  return Object.fromEntries(fields.map((field) => [field, tag[field as keyof Tag]]));
}
