import { object, string } from 'yup';
import { BUTTON_ACTIONS, ELEMENT_KINDS, type ElementKind, type ElementSettings } from '../../panel/element.ts';
import { ID_FIELD, aboveLow, finite, idText, whole, words } from './fieldSchemas.ts';
import { belongsTo, names, type Kind } from './kind.ts';

export interface Element {
  readonly id: string;
  readonly pageId: string;
  readonly kind: ElementKind;
  readonly tagId: string | null;
  readonly label: string;
  readonly x: number;
  readonly y: number;
  readonly w: number;
  readonly h: number;
  readonly settings: ElementSettings;
}

/** Columns of a panel page's grid. */
export const PAGE_COLUMNS = 12;

const width = whole('The width', 1, PAGE_COLUMNS)
  .defined()
  .test('inside', 'The element does not fit on the page.', function (value) {
    const x: unknown = (this.parent as { x?: unknown }).x;
    return typeof x !== 'number' || x + value <= PAGE_COLUMNS;
  });
const elementSettings = object({
  low: finite('The low end').nullable(),
  high: aboveLow(finite('The high end').nullable() as never, 'low'),
  onText: words('The text for on', 40),
  offText: words('The text for off', 40),
  action: string().oneOf(BUTTON_ACTIONS),
  value: words('The value to write', 200),
  unit: words('The unit', 20),
})
  .noUnknown(true, 'An element has no such setting.')
  .defined();

export const elementKind = {
  plural: 'elements',
  table: 'elements',
  words: 'things on pages',
  title: ({ label }) => label,
  fields: {
    id: ID_FIELD,
    pageId: { label: 'Page', schema: idText().defined(), column: 'page_id', stored: 'text', refers: belongsTo('page') },
    kind: { label: 'Kind', schema: string().oneOf(ELEMENT_KINDS).defined(), column: 'kind', stored: 'plain' },
    tagId: { label: 'Tag', schema: idText().nullable().defined(), column: 'tag_id', stored: 'text', refers: names('tag') },
    label: { label: 'Label', schema: words('The label', 60).defined(), column: 'label', stored: 'text' },
    x: { label: 'Column', schema: whole('The column', 0, PAGE_COLUMNS - 1).defined(), column: 'x', stored: 'number' },
    y: { label: 'Row', schema: whole('The row', 0, 200).defined(), column: 'y', stored: 'number' },
    w: { label: 'Width', schema: width, column: 'w', stored: 'number' },
    h: { label: 'Height', schema: whole('The height', 1, 20).defined(), column: 'h', stored: 'number' },
    settings: { label: 'Settings', schema: elementSettings, column: 'settings', stored: 'plain' },
  },
} as const satisfies Kind<Element>;
