/**
 * Whether a tag obeys its schema, told quickly: lists bring a hundred thousand at once, and the schema takes long to say
 * so little. What this does not know to be right is left to the schema, which alone says what is wrong.
 */
import { CONTROL_CHARACTER, UUID } from '../../patterns.ts';
import { parseDataType } from '../../value/dataType.ts';
import { PERIODS_MS } from './periods.ts';
import type { Tag } from './tag.ts';

/** How many fields a tag has. */
const FIELDS = Object.keys({
  id: 0,
  deviceId: 0,
  name: 0,
  group: 0,
  address: 0,
  type: 0,
  order: 0,
  periodMs: 0,
  access: 0,
  confirm: 0,
  unit: 0,
  decimals: 0,
  rangeLow: 0,
  rangeHigh: 0,
  comment: 0,
  names: 0,
  initial: 0,
  sourceId: 0,
  listName: 0,
  isGone: 0,
} satisfies Record<keyof Tag, number>).length;
const isText = (value: unknown, most: number): value is string => typeof value === 'string' && value.length <= most && !CONTROL_CHARACTER.test(value);
const isTrimmed = (text: string): boolean => text !== '' && text.trim() === text;
const isId = (value: unknown): boolean => typeof value === 'string' && UUID.test(value);
/** Device and source of the tag before: those of a list have the same. */
let lastOwners: readonly [deviceId: unknown, sourceId: unknown] = [null, null];
const isWhole = (value: unknown, low: number, high: number): boolean => Number.isInteger(value) && Number(value) >= low && Number(value) <= high;
const isEnd = (value: unknown): boolean => value === null || Number.isFinite(value);

/** True only where the schema would say so too; false means nothing. */
export function isPlainTag(tag: Readonly<Partial<Record<keyof Tag, unknown>>>): boolean {
  const { id, deviceId, name, address, type, periodMs, access, confirm, decimals, rangeLow, rangeHigh, sourceId, isGone, names } = tag;
  if (!isId(id)) return false;
  if (deviceId !== lastOwners[0] || sourceId !== lastOwners[1]) {
    if (!isId(deviceId) || !(sourceId === '' || isId(sourceId))) return false;
    lastOwners = [deviceId, sourceId];
  }
  // Each field by its name: a loop over them takes twice the time.
  if (!isText(name, 80) || !isTrimmed(name) || !isText(address, 200) || !isTrimmed(address) || !isText(tag.listName, 400)) return false;
  if (!isText(tag.group, 80) || !isText(tag.order, 8) || !isText(tag.unit, 20) || !isText(tag.comment, 400) || !isText(tag.initial, 200))
    return false;
  if (typeof isGone !== 'boolean' || !Array.isArray(names) || names.length > 0) return false;
  if (!isWhole(periodMs, PERIODS_MS[0], 3_600_000) || (access !== 'read' && access !== 'readWrite')) return false;
  if (typeof confirm !== 'object' || confirm === null || Object.keys(confirm).join() !== 'kind' || (confirm as { kind: unknown }).kind !== 'equal')
    return false;
  if (!(decimals === null || isWhole(decimals, 0, 12)) || !isEnd(rangeLow) || !isEnd(rangeHigh)) return false;
  if ((rangeLow === null) !== (rangeHigh === null) || (rangeLow !== null && Number(rangeLow) >= Number(rangeHigh))) return false;
  // All fields were looked at by now; one more is one that there must not be.
  let fields = 0;
  for (const _ in tag) fields++;
  return fields === FIELDS && isText(type, 20) && parseDataType(type).ok;
}
