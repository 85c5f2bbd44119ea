/** Which tags an element uses: its own, those that it writes, those of its expressions, those that it lists. */
import { idsIn } from '../expression/references.ts';
import { ELEMENTS, actionsOf, type Kinded } from './kinds.ts';
import { isWriting } from './actions.ts';
import { expressionsIn } from './bound.ts';
import type { State } from './states.ts';

export type Using = Kinded & { readonly tagId: string | null };

/** Ids of all tags that it shows or writes, each once; also of ones that are gone. */
export function tagsUsedBy(element: Using): readonly string[] {
  const ids = new Set<string>();
  if (element.tagId !== null && ELEMENTS[element.kind].takes !== 'none') ids.add(element.tagId);
  for (const expression of expressionsIn(element.settings)) for (const id of idsIn(expression)) ids.add(id);
  for (const id of tagsListed(element)) ids.add(id);
  for (const id of tagsWritten(element)) ids.add(id);
  return [...ids];
}

/** Tags in the lists of its settings. */
export function tagsListed({ kind, settings }: Kinded): readonly string[] {
  return Object.entries(ELEMENTS[kind].settings).flatMap(([name, { control }]) =>
    control.kind === 'tags' && Array.isArray(settings[name]) ? (settings[name] as readonly string[]) : [],
  );
}

/** Tags that it may write, each once. */
export function tagsWritten(element: Using): readonly string[] {
  const { kind, tagId } = element;
  if (ELEMENTS[kind].actions) return [...new Set(actionsOf(element).flatMap((action) => (isWriting(action) ? (action.tagId ?? tagId ?? []) : [])))];
  if (ELEMENTS[kind].writesListed) return [...new Set(tagsListed(element))];
  return ELEMENTS[kind].isTouched && tagId !== null ? [tagId] : [];
}

/** Pictures that it may show, by their ids. @param states those of its own or of its list */
export function picturesUsedBy({ kind, settings }: Kinded, states: readonly State[]): readonly string[] {
  if (kind !== 'picture') return [];
  return [...new Set([settings.pictureId as string | null | undefined, ...states.map(({ pictureId }) => pictureId)].flatMap((id) => id ?? []))];
}

/** Pages that it leads to by their id. */
export function pagesLedTo(element: Kinded): readonly string[] {
  return actionsOf(element).flatMap(({ act, pageId }) => ((act === 'page' || act === 'subject') && pageId !== null ? [pageId] : []));
}
