/** What is said of an element when it is put on a page: a button does something from the first. */
import { newAction } from '@/core/panel/actions.ts';
import type { ElementKind, ElementSettings } from '@/core/panel/kinds.ts';
import type { Tag } from '@/core/project/entities.ts';

export function firstSettings(kind: ElementKind, tag: Tag | null): ElementSettings {
  if (kind !== 'button') return {};
  return { actions: [newAction(tag === null || tag.type === 'BOOL' ? 'toggle' : 'write')] };
}
