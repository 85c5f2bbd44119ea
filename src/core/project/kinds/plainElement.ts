/**
 * Whether an element obeys its schema, told quickly: one is multiplied into a thousand, which differ in place and tag alone. What
 * this does not know to be right is left to the schema, which alone says what is wrong.
 */
import { ELEMENT_KINDS, type ElementKind } from '../../panel/kinds.ts';
import { SETTINGS_SCHEMAS } from '../../panel/settingSchemas.ts';
import { FARTHEST_PX } from '../../panel/sizes.ts';
import type { Element } from './element.ts';
import { countOfFields, isId, isRecord, isText, isWhole } from './plainFields.ts';

/** How many fields an element has. */
const FIELDS = Object.keys({
  id: 0,
  pageId: 0,
  kind: 0,
  tagId: 0,
  label: 0,
  x: 0,
  y: 0,
  w: 0,
  h: 0,
  z: 0,
  group: 0,
  isLocked: 0,
  phone: 0,
  settings: 0,
} satisfies Record<keyof Element, number>).length;

/** True only where the schema would say so too; false means nothing. */
export function isPlainElement(element: Readonly<Partial<Record<keyof Element, unknown>>>): boolean {
  const { id, pageId, kind, tagId, label, x, y, w, h, z, group, isLocked, phone, settings } = element;
  if (!isId(id) || !isId(pageId) || !(tagId === null || isId(tagId)) || !isText(label, 400) || !isText(group, 36)) return false;
  if (!isWhole(x, -FARTHEST_PX, FARTHEST_PX) || !isWhole(y, -FARTHEST_PX, FARTHEST_PX) || !isWhole(z, 0, 1_000_000)) return false;
  if (!isWhole(w, 1, FARTHEST_PX) || !isWhole(h, 1, FARTHEST_PX) || typeof isLocked !== 'boolean') return false;
  if (!isRecord(phone) || phone.place !== null || phone.width !== 'auto' || countOfFields(phone) !== 2) return false;
  return countOfFields(element) === FIELDS && isKnownGood(kind, settings);
}

/** Kinds with settings that their schema has passed, as JSON has them; begun anew when there are many. */
const passed = new Set<string>();
const MOST_PASSED = 1000;
const LONGEST = 2000;

function isKnownGood(kind: unknown, settings: unknown): boolean {
  if (!isElementKind(kind) || !isRecord(settings)) return false;
  let isJson = true;
  const text = JSON.stringify(settings, (_key, part: unknown) => {
    // JSON writes null for the one and nothing for the other.
    if ((typeof part === 'number' && !Number.isFinite(part)) || part === undefined) isJson = false;
    return part;
  });
  if (!isJson || text.length > LONGEST) return false;
  const key = `${kind} ${text}`;
  if (passed.has(key)) return true;
  if (!SETTINGS_SCHEMAS[kind].isValidSync(settings, { strict: true })) return false;
  if (passed.size >= MOST_PASSED) passed.clear();
  passed.add(key);
  return true;
}

const isElementKind = (kind: unknown): kind is ElementKind => ELEMENT_KINDS.includes(kind as ElementKind);
