/** Which tags this browser watches: they are there again when the view is opened again. */
import { jsonObjectIn } from '@/core/jsonText.ts';

const KEY = 'mill-latch.watched';
export const MOST_WATCHED = 60;

export function watchedTags(): readonly string[] {
  const tags = jsonObjectIn(localStorage.getItem(KEY) ?? '')?.tags;
  return Array.isArray(tags) ? tags.filter((id): id is string => typeof id === 'string') : [];
}

export function rememberWatched(tagIds: readonly string[]): void {
  localStorage.setItem(KEY, JSON.stringify({ tags: tagIds.slice(0, MOST_WATCHED) }));
}
