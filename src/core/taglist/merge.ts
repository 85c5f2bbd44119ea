/**
 * Compares two versions of a list tag by tag, by name first. Nothing is decided here: a rename is only proposed, and
 * only where the old name is gone, the new one is new and the types agree.
 */
import type { ListTag } from './understand.ts';
import { proposeRenames, type Proposal } from './renames.ts';

/** The fields that a version can change, in the order in which they are shown. */
export const COMPARED = [
  'address',
  'type',
  'order',
  'access',
  'unit',
  'decimals',
  'rangeLow',
  'rangeHigh',
  'scale',
  'periodMs',
  'group',
  'comment',
  'isForPanel',
] as const;
export type ComparedField = (typeof COMPARED)[number];

export interface Difference {
  readonly field: ComparedField;
  readonly from: ListTag[ComparedField];
  readonly to: ListTag[ComparedField];
}
export interface ChangedTag {
  readonly before: ListTag;
  readonly after: ListTag;
  readonly differences: readonly Difference[];
  /** Its length or the meaning of its bytes is another one: held back until it is accepted. */
  readonly changesBytes: boolean;
}
export interface ListMerge {
  readonly same: readonly ListTag[];
  readonly changed: readonly ChangedTag[];
  readonly added: readonly ListTag[];
  readonly gone: readonly ListTag[];
  readonly proposals: readonly Proposal[];
}

export function mergeLists(before: readonly ListTag[], after: readonly ListTag[]): ListMerge {
  const old = new Map(before.map((tag) => [keyOf(tag), tag]));
  const same: ListTag[] = [];
  const changed: ChangedTag[] = [];
  const added: ListTag[] = [];
  for (const tag of after) {
    const key = keyOf(tag);
    const was = old.get(key);
    if (!was) {
      added.push(tag);
      continue;
    }
    old.delete(key);
    const differences = differencesOf(was, tag);
    if (differences.length === 0) same.push(tag);
    else changed.push({ before: was, after: tag, differences, changesBytes: was.type !== tag.type });
  }
  const gone = [...old.values()];
  return { same, changed, added, gone, proposals: proposeRenames(gone, added) };
}

/** Names are compared without regard to case, as names here are. */
export function keyOf(tag: Pick<ListTag, 'listName'>): string {
  return tag.listName.toLowerCase();
}

/** An address counts as another one only when it leads elsewhere, not when it is written in another way. */
export function differencesOf(before: ListTag, after: ListTag): readonly Difference[] {
  const found: Difference[] = [];
  for (const field of COMPARED) {
    const isOther =
      field === 'address'
        ? before.canonical !== after.canonical
        : field === 'scale'
          ? JSON.stringify(before.scale) !== JSON.stringify(after.scale)
          : before[field] !== after[field];
    if (isOther) found.push({ field, from: before[field], to: after[field] });
  }
  return found;
}
