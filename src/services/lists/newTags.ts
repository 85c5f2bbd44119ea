/** From new rows of a list to tags of the project. */
import { randomUUID } from 'node:crypto';
import { EQUAL } from '@/core/project/confirm.ts';
import { ENTITY_SCHEMAS, type Source, type Tag } from '@/core/project/entities.ts';
import { isPlainTag } from '@/core/project/plainTag.ts';
import type { ListTag } from '@/core/taglist/understand.ts';
import type { PackedEntity } from '@/store/packs.ts';

/** What a tag takes from its row. */
export function fieldsOf(tag: ListTag) {
  const { name, group, address, type, order, periodMs, access, unit, decimals, rangeLow, rangeHigh, comment, initial, names } = tag;
  return { name, group, address, type, order, periodMs, access, unit, decimals, rangeLow, rangeHigh, comment, initial, names };
}

/**
 * Ids of one import, counted on from a random start of 74 bits: so they take next to no room when they are packed. UUIDs of
 * version 8 leave their making to whoever makes them (RFC 9562, 5.8).
 */
export function countingIds(): () => string {
  const random = randomUUID();
  const start = `${random.slice(0, 14)}8${random.slice(15, 24)}`;
  let count = 0;
  return () => start + (count++).toString(16).padStart(12, '0');
}

/** New tags and their scales, checked. @throws ValidationError when a row that was understood makes no tag, which would be a bug */
export function* entitiesOf(rows: Iterable<ListTag>, { id: sourceId, deviceId }: Pick<Source, 'id' | 'deviceId'>): Generator<PackedEntity> {
  const nextId = countingIds();
  for (const row of rows) {
    const id = nextId();
    const tag: Tag = { id, deviceId, ...fieldsOf(row), confirm: EQUAL, sourceId, listName: row.listName, isGone: false };
    if (!isPlainTag(tag as unknown as Record<string, unknown>)) ENTITY_SCHEMAS.tag.validateSync(tag, { strict: true });
    yield { kind: 'tag', entity: tag };
    if (!row.scale) continue;
    const scale = { id, scale: row.scale };
    ENTITY_SCHEMAS.scale.validateSync(scale, { strict: true });
    yield { kind: 'scale', entity: scale };
  }
}
