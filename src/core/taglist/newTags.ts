/** From new rows of a list to tags of the project. */
import { EQUAL } from '../project/confirm.ts';
import type { Tag } from '../project/entities.ts';
import type { ListTag } from './understand.ts';

/** What new tags of a list have in common. */
export interface NewTags {
  /** Where their ids begin: see {@link startOfIds}. */
  readonly ids: string;
  readonly deviceId: string;
  readonly sourceId: string;
  /** The group that each text of the list stands for, a record as it is kept. Packs of before groups do not have it. */
  readonly groups?: Readonly<Record<string, string>>;
}

/**
 * Ids of one import are counted on from a random start of 74 bits: so they need not be stored one by one. UUIDs of version
 * 8 leave their making to whoever makes them (RFC 9562, 5.8).
 * @param random a UUID of version 4
 */
export function startOfIds(random: string): string {
  return `${random.slice(0, 14)}8${random.slice(15, 24)}`;
}

/** What a tag takes from its row. */
export function fieldsOf(tag: ListTag) {
  const { name, group, address, type, order, periodMs, access, unit, decimals, rangeLow, rangeHigh, comment, initial, names } = tag;
  return { name, group, address, type, order, periodMs, access, unit, decimals, rangeLow, rangeHigh, comment, initial, names };
}

/** Shared: of a hundred thousand tags none has any. */
const NO_SETTINGS = {};

/** What a new tag needs of its row. */
export type NewRow = ReturnType<typeof fieldsOf> & Pick<ListTag, 'listName'>;

/** @param at how many come before it. Written out: by the hundred thousand it is made in half the time */
export function newTag(row: NewRow, at: number, { ids, deviceId, sourceId, groups }: NewTags): Tag {
  return {
    id: ids + at.toString(16).padStart(12, '0'),
    name: row.name,
    groupId: groups && Object.hasOwn(groups, row.group) ? (groups[row.group] ?? null) : null,
    source: { kind: 'point', deviceId, address: row.address, order: row.order, periodMs: row.periodMs, settings: NO_SETTINGS },
    type: row.type,
    access: row.access,
    confirm: EQUAL,
    unit: row.unit,
    decimals: row.decimals,
    rangeLow: row.rangeLow,
    rangeHigh: row.rangeHigh,
    rawRange: null,
    displayRange: null,
    limits: null,
    unavailable: null,
    comment: row.comment,
    names: row.names,
    enumerationId: null,
    initial: row.initial,
    listId: sourceId,
    listName: row.listName,
    listType: row.type,
    isGone: false,
  };
}
