/** Expressions come with the paths of tags and are kept with their ids, so that a new name changes nothing. */
import { withBoundIds } from '@/core/panel/bound.ts';
import { idsIn, withIds } from '@/core/expression/references.ts';
import type { Alarm, AnyEntity, Element, Entities, EntityKind, Tag } from '@/core/project/entities.ts';
import { tagAt, tagPathParts } from '@/core/project/tagPath.ts';
import { expressionField, expressionIn, withExpression } from '@/core/project/tagSource.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import type { Look } from './fits.ts';

interface Names {
  readonly look: Look;
  /** The id of what has a name before the command. */
  readonly named: (kind: EntityKind, among: string, name: string) => string | undefined;
}

type Planned = ReadonlyMap<string, { readonly kind: EntityKind; readonly entity: AnyEntity | null }>;

interface BoundEntity {
  readonly kind: 'tag' | 'element' | 'alarm';
  readonly entity: Tag | Element | Alarm;
}

/** @returns tags, elements and alarms whose expressions have ids in place of names; refuses expressions that cannot be read, and circles */
export function bindNames(planned: Planned, names: Names): Result<readonly BoundEntity[]> {
  const tags = bindTags(planned, names);
  const elements = tags.ok ? bindSettings(planned, names) : tags;
  return tags.ok && elements.ok ? ok([...tags.value, ...elements.value]) : elements;
}

/** Of elements and of alarms: expressions stand in their settings. */
function bindSettings(planned: Planned, names: Names): Result<readonly BoundEntity[]> {
  const bound: BoundEntity[] = [];
  for (const { kind, entity } of planned.values()) {
    if ((kind !== 'element' && kind !== 'alarm') || entity === null) continue;
    const holder = entity as Element | Alarm;
    const settings = withBoundIds<object>(holder.settings, (parts) => resolve(parts, planned, names));
    if (!settings.ok) return { ok: false, problem: { ...settings.problem, place: `${kind} ${holder.id} settings` } };
    if (settings.value !== holder.settings) bound.push({ kind, entity: { ...holder, settings: settings.value } as Element | Alarm });
  }
  return ok(bound);
}

function bindTags(planned: Planned, names: Names): Result<readonly BoundEntity[]> {
  const using: { readonly tag: Tag; readonly expression: string }[] = [];
  for (const { kind, entity } of planned.values()) {
    const expression = kind === 'tag' && entity ? expressionIn(entity as Tag) : null;
    if (expression !== null) using.push({ tag: entity as Tag, expression });
  }
  const bound: { id: string; tag: Tag }[] = [];
  for (const { tag, expression } of using) {
    const stored = withIds(expression, (parts) => resolve(parts, planned, names));
    if (!stored.ok) return { ok: false, problem: { ...stored.problem, place: `tag ${tag.id} ${expressionField(tag)}` } };
    if (stored.value !== expression) bound.push({ id: tag.id, tag: withExpression(tag, stored.value) });
  }
  const renewed = new Map(bound.map(({ id, tag }) => [id, tag]));
  for (const { tag } of using) {
    const circle = circleFrom(renewed.get(tag.id) ?? tag, (id) => renewed.get(id) ?? names.look('tag', id));
    if (circle)
      return fail(
        'circle',
        `It would need itself: ${circle.map(({ name }) => name).join(' → ')}.`,
        'A tag cannot use itself, nor a tag that uses it.',
        `tag ${tag.id} ${expressionField(tag)}`,
      );
  }
  return ok(bound.map(({ tag }) => ({ kind: 'tag', entity: tag })));
}

/** What the path names when the command is done: what it brings goes before what was there. */
function resolve(parts: readonly string[], planned: Planned, { look, named }: Names): string | null {
  const context = { group: (id: string) => look('group', id), device: (id: string) => look('device', id) };
  const path = parts.join('\0').toLowerCase();
  for (const { kind, entity } of planned.values())
    if (
      kind === 'tag' &&
      entity &&
      tagPathParts(entity as Tag, context)
        .join('\0')
        .toLowerCase() === path
    )
      return entity.id;
  const id = tagAt(parts, named);
  // It may have been renamed or removed in the same command.
  const tag: Entities['tag'] | null = id === null ? null : look('tag', id);
  return tag && tagPathParts(tag, context).join('\0').toLowerCase() === path ? tag.id : null;
}

/** The tags from one back to itself, or null. */
function circleFrom(tag: Tag, look: (id: string) => Tag | null): readonly Tag[] | null {
  const done = new Set<string>();
  const path: Tag[] = [];
  const walk = (at: Tag): boolean => {
    path.push(at);
    for (const id of idsIn(expressionIn(at) ?? '')) {
      if (id === tag.id) {
        path.push(tag);
        return true;
      }
      const next = done.has(id) ? null : look(id);
      done.add(id);
      if (next && walk(next)) return true;
    }
    path.pop();
    return false;
  };
  return walk(tag) ? path : null;
}
