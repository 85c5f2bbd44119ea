/** Names that must be the only ones of their kind among their siblings, as {@link nameKey} compares them. */
import { ENTITY_KINDS, KINDS, type AnyEntity, type EntityKind } from '@/core/project/entities.ts';
import type { Siblings } from '@/core/project/kinds/kind.ts';
import { nameKey } from '@/core/project/nameKey.ts';

const RULES = new Map(
  ENTITY_KINDS.flatMap((kind) => {
    const { siblings } = KINDS[kind];
    return siblings ? [[kind, siblings as Siblings<AnyEntity>] as const] : [];
  }),
);

/** What two siblings of one name have in common; null where names of the kind are free. */
export function siblingKey(kind: EntityKind, entity: AnyEntity): string | null {
  const rule = RULES.get(kind);
  return rule ? keyOf(kind, rule.among(entity), rule.nameOf(entity)) : null;
}

export function nameTaken(kind: EntityKind, entity: AnyEntity): string {
  const rule = RULES.get(kind);
  return rule?.taken(rule.nameOf(entity)) ?? '';
}

export class SiblingNames {
  readonly #ids = new Map<string, string>();

  add(kind: EntityKind, entity: AnyEntity): void {
    const key = siblingKey(kind, entity);
    if (key !== null) this.#ids.set(key, entity.id);
  }

  remove(kind: EntityKind, entity: AnyEntity): void {
    const key = siblingKey(kind, entity);
    if (key !== null && this.#ids.get(key) === entity.id) this.#ids.delete(key);
  }

  /** Who has the key, if anybody. */
  holder(key: string): string | undefined {
    return this.#ids.get(key);
  }

  /** Who has a name. @param among as the kind tells siblings */
  named(kind: EntityKind, among: string, name: string): string | undefined {
    return this.#ids.get(keyOf(kind, among, name));
  }
}

function keyOf(kind: EntityKind, among: string, name: string): string {
  return `${kind} ${among} ${nameKey(name)}`;
}

export function hasKey(kind: EntityKind, entity: AnyEntity | null, key: string): boolean {
  return entity !== null && siblingKey(kind, entity) === key;
}
