/**
 * Whether a tag obeys its schema, told quickly: lists bring a hundred thousand at once, and the schema takes long to say
 * so little. What this does not know to be right is left to the schema, which alone says what is wrong.
 */
import { parseDataType } from '../../value/dataType.ts';
import { isPeriod, type PointSource } from '../tagSource.ts';
import { countOfFields, isId, isRecord, isText, isTrimmed, isWhole } from './plainFields.ts';
import type { Tag } from './tag.ts';

/** How many fields a tag has. */
const FIELDS = Object.keys({
  id: 0,
  name: 0,
  groupId: 0,
  source: 0,
  type: 0,
  access: 0,
  confirm: 0,
  unit: 0,
  decimals: 0,
  rangeLow: 0,
  rangeHigh: 0,
  rawRange: 0,
  displayRange: 0,
  limits: 0,
  unavailable: 0,
  comment: 0,
  names: 0,
  enumerationId: 0,
  initial: 0,
  listId: 0,
  listName: 0,
  listType: 0,
  isGone: 0,
} satisfies Record<keyof Tag, number>).length;
const POINT_FIELDS = Object.keys({ kind: 0, deviceId: 0, address: 0, order: 0, periodMs: 0, settings: 0 } satisfies Record<
  keyof Omit<PointSource, 'index'>,
  number
>).length;
/** Device, group and list of the tag before: those of a list have the same. */
let lastOwners: readonly [deviceId: unknown, groupId: unknown, listId: unknown] = [null, null, null];
const isEnd = (value: unknown): boolean => value === null || Number.isFinite(value);

/** True only where the schema would say so too; false means nothing. */
export function isPlainTag(tag: Readonly<Partial<Record<keyof Tag, unknown>>>): boolean {
  const { id, groupId, source, name, type, access, confirm, decimals, rangeLow, rangeHigh, listId, isGone, names } = tag;
  if (!isId(id) || !isPlainPoint(source)) return false;
  const { deviceId } = source;
  if (deviceId !== lastOwners[0] || groupId !== lastOwners[1] || listId !== lastOwners[2]) {
    if (!isId(deviceId) || !(groupId === null || isId(groupId)) || !(listId === '' || isId(listId))) return false;
    lastOwners = [deviceId, groupId, listId];
  }
  // Each field by its name: a loop over them takes twice the time.
  if (!isText(name, 80) || !isTrimmed(name) || !isText(tag.listName, 400) || !isText(tag.listType, 60)) return false;
  if (!isText(tag.unit, 20) || !isText(tag.comment, 400) || !isText(tag.initial, 200)) return false;
  if (typeof isGone !== 'boolean' || !Array.isArray(names) || names.length > 0 || tag.enumerationId !== null || tag.unavailable !== null)
    return false;
  if (access !== 'read' && access !== 'readWrite' && access !== null) return false;
  if (typeof confirm !== 'object' || confirm === null || Object.keys(confirm).join() !== 'kind' || (confirm as { kind: unknown }).kind !== 'equal')
    return false;
  if (!(decimals === null || isWhole(decimals, 0, 12)) || !isEnd(rangeLow) || !isEnd(rangeHigh)) return false;
  if ((rangeLow === null) !== (rangeHigh === null) || (rangeLow !== null && Number(rangeLow) >= Number(rangeHigh))) return false;
  if (tag.rawRange !== null || tag.displayRange !== null || tag.limits !== null) return false;
  // All fields were looked at by now; one more is one that there must not be.
  return countOfFields(tag) === FIELDS && isText(type, 60) && parseDataType(type).ok;
}

/** A point of a device that has an address, no settings of its own and no index. */
function isPlainPoint(source: unknown): source is PointSource {
  if (typeof source !== 'object' || source === null) return false;
  const { kind, address, order, periodMs, settings } = source as Partial<Record<keyof PointSource, unknown>>;
  if (kind !== 'point' || !isText(address, 200) || !isTrimmed(address) || !isText(order, 8) || !(periodMs === null || isPeriod(periodMs)))
    return false;
  return countOfFields(source) === POINT_FIELDS && isRecord(settings) && countOfFields(settings) === 0;
}
