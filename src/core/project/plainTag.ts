/**
 * Whether a tag obeys its schema, told quickly: lists bring a hundred thousand at once, and the schema takes long to say
 * so little. What this does not know to be right is left to the schema, which alone says what is wrong.
 */
import { parseDataType } from '../value/dataType.ts';
import { PERIODS_MS, type Tag } from './entities.ts';

const ID = /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/i;
// eslint-disable-next-line no-control-regex -- control characters are exactly what names may not hold
const CONTROL = /[\u0000-\u001f\u007f]/;
/** The most characters of each text. */
const TEXTS = { name: 80, group: 80, address: 200, type: 20, order: 8, unit: 20, comment: 400, initial: 200, listName: 400 } as const;
const FIELDS = new Set<string>(
  Object.keys({
    id: 0,
    deviceId: 0,
    ...TEXTS,
    periodMs: 0,
    access: 0,
    confirm: 0,
    decimals: 0,
    rangeLow: 0,
    rangeHigh: 0,
    sourceId: 0,
    names: 0,
    isGone: 0,
  } satisfies Record<keyof Tag, number>),
);
const isId = (value: unknown): boolean => typeof value === 'string' && ID.test(value);
/** Device and source of the tag before: those of a list have the same. */
let lastOwners: readonly [deviceId: unknown, sourceId: unknown] = [null, null];
const isWhole = (value: unknown, low: number, high: number): boolean => Number.isInteger(value) && Number(value) >= low && Number(value) <= high;
const isEnd = (value: unknown): boolean => value === null || Number.isFinite(value);

/** True only where the schema would say so too; false means nothing. */
export function isPlainTag(tag: Readonly<Record<string, unknown>>): boolean {
  const { id, deviceId, name, address, type, periodMs, access, confirm, decimals, rangeLow, rangeHigh, sourceId, isGone, names } = tag;
  if (!isId(id)) return false;
  if (deviceId !== lastOwners[0] || sourceId !== lastOwners[1]) {
    if (!isId(deviceId) || !(sourceId === '' || isId(sourceId))) return false;
    lastOwners = [deviceId, sourceId];
  }
  for (const field in TEXTS) {
    const text = tag[field];
    if (typeof text !== 'string' || text.length > TEXTS[field as keyof typeof TEXTS] || CONTROL.test(text)) return false;
  }
  if (name === '' || address === '' || name !== String(name).trim() || address !== String(address).trim()) return false;
  if (typeof isGone !== 'boolean' || !Array.isArray(names) || names.length > 0) return false;
  if (!isWhole(periodMs, PERIODS_MS[0], 3_600_000) || (access !== 'read' && access !== 'readWrite')) return false;
  if (typeof confirm !== 'object' || confirm === null || Object.keys(confirm).join() !== 'kind' || (confirm as { kind: unknown }).kind !== 'equal')
    return false;
  if (!(decimals === null || isWhole(decimals, 0, 12)) || !isEnd(rangeLow) || !isEnd(rangeHigh)) return false;
  if ((rangeLow === null) !== (rangeHigh === null) || (rangeLow !== null && Number(rangeLow) >= Number(rangeHigh))) return false;
  for (const field in tag) if (!FIELDS.has(field)) return false;
  return parseDataType(String(type)).ok;
}
