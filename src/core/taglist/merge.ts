/**
 * Compares two versions of a list tag by tag, by name first. Nothing is decided here: a rename is only proposed, and
 * only where the old name is gone, the new one is new and the types agree.
 */
import type { ListTag } from './understand.ts';
import { nameKey } from '../project/nameKey.ts';
import { COLUMN_KEYS, type ColumnKey } from './columns.ts';
import type { ReadList } from './readList.ts';
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
  'initial',
  'names',
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

/** Which column tells a field; a list without it says nothing of the field, which is not the same as saying it is empty. */
const TOLD_BY: Readonly<Partial<Record<ComparedField, readonly ColumnKey[]>>> = {
  order: ['order'],
  access: ['access'],
  unit: ['unit'],
  decimals: ['decimals'],
  rangeLow: ['low', 'high'],
  rangeHigh: ['low', 'high'],
  scale: ['rawLow', 'rawHigh'],
  periodMs: ['period'],
  group: ['group'],
  comment: ['comment'],
  initial: ['initial'],
  names: ['enumeration'],
  isForPanel: ['panel'],
};

/** Fields that a list does not speak of at all: they stay as the version before has them. */
export function silentFields({ columns, rows }: Pick<ReadList, 'columns' | 'rows'>): readonly ComparedField[] {
  const told = new Set<ColumnKey>(columns.byKey.keys());
  // Without columns, what any row tells.
  if (told.size === 0) for (const { cells } of rows) for (const key of COLUMN_KEYS) if (cells[key]) told.add(key);
  return COMPARED.filter((field) => TOLD_BY[field]?.every((key) => !told.has(key)) ?? false);
}

/** The tag as a version tells it, and as the version before has it where this one is silent. */
export function inheriting(before: ListTag, after: ListTag, silent: readonly ComparedField[]): ListTag {
  if (silent.length === 0) return after;
  return { ...after, ...Object.fromEntries(silent.map((field) => [field, before[field]])) };
}

/** @param silent fields that the later version does not speak of */
export function mergeLists(before: readonly ListTag[], after: readonly ListTag[], silent: readonly ComparedField[] = []): ListMerge {
  const old = new Map(before.map((tag) => [keyOf(tag), tag]));
  const same: ListTag[] = [];
  const changed: ChangedTag[] = [];
  const added: ListTag[] = [];
  for (const told of after) {
    const key = keyOf(told);
    const was = old.get(key);
    if (!was) {
      added.push(told);
      continue;
    }
    const tag = inheriting(was, told, silent);
    old.delete(key);
    const differences = differencesOf(was, tag);
    if (differences.length === 0) same.push(tag);
    else changed.push({ before: was, after: tag, differences, changesBytes: was.type !== tag.type });
  }
  const gone = [...old.values()];
  return { same, changed, added, gone, proposals: proposeRenames({ before, after, gone, added }) };
}

/** Names are compared without regard to case, as names here are. */
export function keyOf(tag: Pick<ListTag, 'listName'>): string {
  return nameKey(tag.listName);
}

/** An address counts as another one only when it leads elsewhere, not when it is written in another way. */
export function differencesOf(before: ListTag, after: ListTag): readonly Difference[] {
  const found: Difference[] = [];
  for (const field of COMPARED) {
    const isOther =
      field === 'address'
        ? before.canonical !== after.canonical
        : field === 'scale' || field === 'names'
          ? JSON.stringify(before[field]) !== JSON.stringify(after[field])
          : before[field] !== after[field];
    if (isOther) found.push({ field, from: before[field], to: after[field] });
  }
  return found;
}
