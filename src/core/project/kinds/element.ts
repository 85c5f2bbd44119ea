import { boolean, mixed, number, object, string } from 'yup';
import { SETTINGS_SCHEMAS } from '../../panel/settingSchemas.ts';
import { FARTHEST_PX } from '../../panel/sizes.ts';
import { ELEMENT_KINDS, type ElementKind, type ElementSettings } from '../../panel/kinds.ts';
import { ID_FIELD, idText, whole, words } from './fieldSchemas.ts';
import { belongsTo, names, type Kind } from './kind.ts';
import { isPlainElement } from './plainElement.ts';

/** How an element stands on a phone. */
export interface OnPhone {
  /** Its place among the others; null for where it stands on the page, read line by line. */
  readonly place: number | null;
  /** Half the width or all of it; `auto` as its kind has it. */
  readonly width: 'auto' | 'half' | 'full' | 'hidden';
}
export const ON_PHONE: OnPhone = { place: null, width: 'auto' };

export interface Element {
  readonly id: string;
  readonly pageId: string;
  readonly kind: ElementKind;
  readonly tagId: string | null;
  readonly label: string;
  /** Its place and size on the page, in pixels of the panel. */
  readonly x: number;
  readonly y: number;
  readonly w: number;
  readonly h: number;
  /** Higher ones lie over lower ones. */
  readonly z: number;
  /** Elements with the same are chosen and moved together; empty for none. */
  readonly group: string;
  /** It stays where it is until it is unlocked. */
  readonly isLocked: boolean;
  readonly phone: OnPhone;
  /** What is said of its kind's settings. */
  readonly settings: ElementSettings;
}

/** Beyond this a page is no page any more. */
export const MOST_ELEMENTS = 2000;
const MOST_SETTINGS = 40_000;

const onPhone = object({
  place: number().integer().min(0).max(10_000).nullable().defined(),
  width: string()
    .oneOf(['auto', 'half', 'full', 'hidden'] as const)
    .defined(),
})
  .noUnknown(true, 'On a phone an element has a place and a width.')
  .defined();

const elementSettings = mixed<ElementSettings>(
  (value): value is ElementSettings => typeof value === 'object' && value !== null && !Array.isArray(value),
)
  .defined()
  .test('kind', 'Settings of an element.', function (value) {
    const { kind } = this.parent as { kind?: ElementKind };
    if (kind === undefined || !ELEMENT_KINDS.includes(kind)) return true;
    if (JSON.stringify(value).length > MOST_SETTINGS) return this.createError({ message: 'The settings of an element are too large.' });
    try {
      SETTINGS_SCHEMAS[kind].validateSync(value, { strict: true });
      return true;
    } catch (error) {
      const { message, path } = error as { message: string; path?: string };
      return this.createError({ message, path: path ? `settings.${path}` : 'settings' });
    }
  });

export const elementKind = {
  plural: 'elements',
  table: 'elements',
  words: 'things on pages',
  title: ({ label }) => label,
  isPlain: isPlainElement,
  fields: {
    id: ID_FIELD,
    pageId: { label: 'Page', schema: idText().defined(), column: 'page_id', stored: 'text', refers: belongsTo('page') },
    kind: { label: 'Kind', schema: string().oneOf(ELEMENT_KINDS).defined(), column: 'kind', stored: 'plain' },
    tagId: { label: 'Tag', schema: idText().nullable().defined(), column: 'tag_id', stored: 'text', refers: names('tag') },
    label: { label: 'Label', schema: words('The label', 400).defined(), column: 'label', stored: 'text' },
    x: { label: 'From the left', schema: whole('The place', -FARTHEST_PX, FARTHEST_PX).defined(), column: 'x', stored: 'number' },
    y: { label: 'From the top', schema: whole('The place', -FARTHEST_PX, FARTHEST_PX).defined(), column: 'y', stored: 'number' },
    w: { label: 'Width', schema: whole('The width', 1, FARTHEST_PX).defined(), column: 'w', stored: 'number' },
    h: { label: 'Height', schema: whole('The height', 1, FARTHEST_PX).defined(), column: 'h', stored: 'number' },
    z: { label: 'Order', schema: whole('The order', 0, 1_000_000).defined(), column: 'z', stored: 'number', unsaid: 0 },
    group: { label: 'Group', schema: words('The group', 36).defined(), column: 'group_id', stored: 'text', unsaid: '' },
    isLocked: { label: 'Locked', schema: boolean().defined(), column: 'is_locked', stored: 'plain', unsaid: false },
    phone: { label: 'On a phone', schema: onPhone, column: 'phone', stored: 'plain', unsaid: ON_PHONE },
    settings: {
      label: 'Settings',
      schema: elementSettings,
      column: 'settings',
      stored: 'plain',
      refers: {
        to: 'stateList',
        idIn: ({ stateListId }) => (typeof stateListId === 'string' ? stateListId : null),
        whenGone: ({ stateListId: _, ...rest }) => rest,
      },
    },
  },
} as const satisfies Kind<Element>;
