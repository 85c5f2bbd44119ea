/** Other tags in the place of those that elements use: of their own, in expressions, in actions, in lists. */
import type { Element } from '../project/kinds/element.ts';
import type { Action } from './actions.ts';
import { walked } from './bound.ts';
import type { ElementSettings } from './kinds.ts';

const ID = /@([0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12})/gi;
/** Settings that are lists of tags. */
export const TAG_LISTS = ['itemTags', 'moreTags', 'cells', 'members'] as const;

/** @param other the tag that stands in the place of one; the same for one that stays */
export function settingsWithTags(settings: ElementSettings, other: (tagId: string) => string): ElementSettings {
  let next = walked(settings, (expression) => expression.replace(ID, (_, id: string) => `@${other(id.toLowerCase())}`)) as ElementSettings;
  for (const list of TAG_LISTS) {
    const ids = next[list];
    if (Array.isArray(ids)) next = { ...next, [list]: (ids as readonly string[]).map(other) };
  }
  if (Array.isArray(next.actions))
    next = {
      ...next,
      actions: (next.actions as readonly Action[]).map((action) => (action.tagId === null ? action : { ...action, tagId: other(action.tagId) })),
    };
  return next;
}

/** The fields that change; null where none does. */
export function retagged(element: Element, other: (tagId: string) => string): Partial<Pick<Element, 'tagId' | 'settings'>> | null {
  const tagId = element.tagId === null ? null : other(element.tagId);
  const settings = settingsWithTags(element.settings, other);
  const isSame = JSON.stringify(settings) === JSON.stringify(element.settings);
  if (tagId === element.tagId && isSame) return null;
  return { ...(tagId === element.tagId ? {} : { tagId }), ...(isSame ? {} : { settings }) };
}
