/** Who refers to whom, looked up from either end. Which fields refer is said by the kinds themselves. */
import { REFERENCES, type AnyEntity, type EntityKind, type Referring } from '@/core/project/entities.ts';

const BY_KIND = groupedBy('kind');
const BY_TARGET = groupedBy('to');

/** The fields by which entities of a kind refer to others. */
export function referencesFrom(kind: EntityKind): readonly Referring[] {
  return BY_KIND.get(kind) ?? [];
}

/** The fields by which entities refer to ones of a kind. */
export function referencesTo(kind: EntityKind): readonly Referring[] {
  return BY_TARGET.get(kind) ?? [];
}

/** The id that an entity names in a field, null where it names none. */
export function namedBy(entity: AnyEntity, { field, idIn }: Referring): string | null {
  return idIn((entity as unknown as Readonly<Record<string, unknown>>)[field]);
}

/** Entities by what they refer to. What refers by its own id is found by that id, and is not kept here. */
export class ReferenceIndex {
  readonly #ids = new Map<Referring, Map<string, Set<string>>>();

  add(kind: EntityKind, entity: AnyEntity): void {
    for (const reference of referencesFrom(kind)) {
      const target = reference.field === 'id' ? null : namedBy(entity, reference);
      if (target === null) continue;
      let byTarget = this.#ids.get(reference);
      if (!byTarget) this.#ids.set(reference, (byTarget = new Map<string, Set<string>>()));
      const ids = byTarget.get(target);
      if (ids) ids.add(entity.id);
      else byTarget.set(target, new Set([entity.id]));
    }
  }

  remove(kind: EntityKind, entity: AnyEntity): void {
    for (const reference of referencesFrom(kind)) {
      const target = reference.field === 'id' ? null : namedBy(entity, reference);
      if (target === null) continue;
      const byTarget = this.#ids.get(reference);
      const ids = byTarget?.get(target);
      ids?.delete(entity.id);
      if (ids?.size === 0) byTarget?.delete(target);
    }
  }

  /** Ids of what names a target in a field; whether that is still there is for the caller to see where the field is the id. */
  of(reference: Referring, target: string): Iterable<string> {
    return reference.field === 'id' ? [target] : (this.#ids.get(reference)?.get(target) ?? []);
  }

  count(reference: Referring, target: string): number {
    return this.#ids.get(reference)?.get(target)?.size ?? 0;
  }
}

/** The reference of a kind's field. @throws Error where there is none: a mistake of ours */
export function referenceOf(kind: EntityKind, field: string): Referring {
  const found = referencesFrom(kind).find((reference) => reference.field === field);
  if (!found) throw new Error(`${kind}.${field} refers to nothing.`);
  return found;
}

function groupedBy(end: 'kind' | 'to'): ReadonlyMap<EntityKind, readonly Referring[]> {
  const groups = new Map<EntityKind, Referring[]>();
  for (const reference of REFERENCES) groups.set(reference[end], [...(groups.get(reference[end]) ?? []), reference]);
  return groups;
}
