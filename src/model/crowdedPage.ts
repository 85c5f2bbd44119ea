/** Refuses a page with more elements than anybody could look at. */
import type { AnyEntity, Element, EntityKind } from '@/core/project/entities.ts';
import { MOST_ELEMENTS } from '@/core/project/kinds/element.ts';
import type { Problem } from '@/core/result.ts';

interface Pages {
  /** An element as it stands before what is planned. */
  readonly before: (id: string) => Element | null;
  readonly countOn: (pageId: string) => number;
}

/** @param planned entities after a command, by kind and id */
export function crowdedPage(
  planned: ReadonlyMap<string, { readonly kind: EntityKind; readonly entity: AnyEntity | null }>,
  { before, countOn }: Pages,
): Problem | null {
  const more = new Map<string, number>();
  const add = (pageId: string, count: number): void => void more.set(pageId, (more.get(pageId) ?? 0) + count);
  for (const [key, { kind, entity }] of planned) {
    if (kind !== 'element') continue;
    const was = before(key.slice(kind.length + 1));
    if (was) add(was.pageId, -1);
    if (entity) add((entity as Element).pageId, 1);
  }
  for (const [pageId, count] of more) {
    const total = countOn(pageId) + count;
    if (count > 0 && total > MOST_ELEMENTS)
      return {
        code: 'too-many',
        message: `A page holds at most ${MOST_ELEMENTS} elements; with these it would have ${total}.`,
        remedy: 'Spread them over several pages.',
        place: 'pageId',
      };
  }
  return null;
}
