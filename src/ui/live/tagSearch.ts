/** Type-ahead over tags. The texts to look in are made once a project, so that a keystroke only compares. */
import type { Tag } from '@/core/project/entities.ts';
import { addressOf } from '@/core/project/tagSource.ts';

interface Indexed {
  readonly names: readonly string[];
  readonly all: readonly string[];
}

const known = new WeakMap<readonly Tag[], Indexed>();

function indexOf({ tags, groupTextOf }: Searched): Indexed {
  const found = known.get(tags);
  if (found) return found;
  const names = tags.map((t) => t.name.toLowerCase());
  const made = { names, all: tags.map((t, i) => `${names[i] ?? ''} ${addressOf(t)} ${groupTextOf(t.groupId)} ${t.comment}`.toLowerCase()) };
  known.set(tags, made);
  return made;
}

/** Of a project: the same array of tags as long as the project is the same. */
export interface Searched {
  readonly tags: readonly Tag[];
  readonly groupTextOf: (groupId: string | null) => string;
}

/**
 * Tags whose name begins with the text first, then those that hold all its words anywhere.
 * @param most  how many are wanted; the search ends when they are found
 */
export function matching(searched: Searched, text: string, only?: (tag: Tag) => boolean, most = Infinity): readonly Tag[] {
  const wanted = text.trim().toLowerCase();
  const first: Tag[] = [];
  const later: Tag[] = [];
  const { tags } = searched;
  const { names, all } = indexOf(searched);
  const words = wanted.split(/\s+/);
  for (let i = 0; i < tags.length && first.length < most; i++) {
    const tag = tags[i];
    if (!tag) break;
    const begins = (names[i] ?? '').startsWith(wanted);
    if (!begins && (later.length >= most || !words.every((word) => (all[i] ?? '').includes(word)))) continue;
    if (!only || only(tag)) (begins ? first : later).push(tag);
  }
  return [...first, ...later].slice(0, most);
}
