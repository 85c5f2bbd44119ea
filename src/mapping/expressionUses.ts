/** Which tags use a tag in their expression: those that are calculated, and those whose address it moves. */
import { idsIn } from '@/core/expression/references.ts';
import type { Tag } from '@/core/project/entities.ts';
import { expressionIn } from '@/core/project/tagSource.ts';

export class ExpressionUses {
  readonly #users = new Map<string, Set<string>>();

  add(tag: Tag): void {
    const expression = expressionIn(tag);
    if (expression === null) return;
    const { id } = tag;
    for (const used of idsIn(expression)) {
      const users = this.#users.get(used);
      if (users) users.add(id);
      else this.#users.set(used, new Set([id]));
    }
  }

  remove(tag: Tag): void {
    const expression = expressionIn(tag);
    if (expression === null) return;
    const { id } = tag;
    for (const used of idsIn(expression)) {
      const users = this.#users.get(used);
      users?.delete(id);
      if (users?.size === 0) this.#users.delete(used);
    }
  }

  /** Tags that some expression uses. */
  get used(): Iterable<string> {
    return this.#users.keys();
  }

  /** Tags that use some of these, and tags that use those, without the ones that were given. */
  of(tagIds: Iterable<string>): ReadonlySet<string> {
    const found = new Set<string>();
    if (this.#users.size === 0) return found;
    const open = [...tagIds];
    const given = new Set(open);
    for (let id = open.pop(); id !== undefined; id = open.pop())
      for (const user of this.#users.get(id) ?? [])
        if (!found.has(user)) {
          found.add(user);
          open.push(user);
        }
    for (const id of given) found.delete(id);
    return found;
  }
}
