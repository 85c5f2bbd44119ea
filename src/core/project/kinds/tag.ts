import { boolean, string } from 'yup';
import { parseDataType } from '../../value/dataType.ts';
import type { ValueNames } from '../../value/valueNames.ts';
import { confirmSchema, EQUAL, type Confirm } from '../confirm.ts';
import { deviceIdOf, tagSourceSchema, type TagSource } from '../tagSource.ts';
import type { Limits } from '../../ranges/limits.ts';
import type { Range } from '../../ranges/range.ts';
import { ID_FIELD, aboveLow, accessSchema, finite, idText, nameField, whole, words } from './fieldSchemas.ts';
import { names, type Kind } from './kind.ts';
import { unavailableCodes } from './unavailableCodes.ts';
import { isPlainTag } from './plainTag.ts';
import { limitsSchema, rangeSchema } from './rangeSchemas.ts';
import { valueNames } from './valueNamesSchema.ts';

export interface Tag {
  readonly id: string;
  readonly name: string;
  /** The group it stands in; null for one right under its device or the project. */
  readonly groupId: string | null;
  readonly source: TagSource;
  readonly type: string;
  /** Null for what its group says. */
  readonly access: 'read' | 'readWrite' | null;
  readonly confirm: Confirm;
  readonly unit: string;
  readonly decimals: number | null;
  readonly rangeLow: number | null;
  readonly rangeHigh: number | null;
  /** Raw values that its source delivers when all is well; outside, the value is uncertain. */
  readonly rawRange: Range | null;
  /** Engineering values between which bars and curves show it. */
  readonly displayRange: Range | null;
  readonly limits: Limits | null;
  /** Raw values by which its source says that it has none; null for what its group says. */
  readonly unavailable: string | null;
  readonly comment: string;
  /** Names of its values. */
  readonly names: ValueNames;
  /** The enumeration whose names they are, unless it has its own. */
  readonly enumerationId: string | null;
  /** What the controller's program sets it to at its start, as the program writes it; empty where nobody knows. */
  readonly initial: string;
  /** The list that brought it, and its name there; empty when made by hand. */
  readonly listId: string;
  readonly listName: string;
  /** The type that its list, or its device, says it has; empty where neither says. */
  readonly listType: string;
  /** Its list no longer has it; it stays because something uses it. */
  readonly isGone: boolean;
}

const type = words('The type', 60)
  .test('type', (value, context) => {
    const parsed = parseDataType(value ?? '');
    return parsed.ok || context.createError({ message: parsed.problem.message });
  })
  .defined();
const rangeHigh = aboveLow(finite('The high end').nullable().defined() as never, 'rangeLow').test(
  'pair',
  'A range needs both ends, or neither.',
  function (value) {
    const low: unknown = (this.parent as { rangeLow?: unknown }).rangeLow;
    return (value === null) === (low === null);
  },
);
const listId = string()
  .matches(/^$|^[0-9a-f-]{36}$/i, 'A list is named by its id.')
  .defined();
/** A list may bring a tag before its program gives it an address. */
const source = tagSourceSchema()
  .defined()
  .test('given', function (value) {
    if (value?.kind !== 'point' || value.address !== '' || Boolean((this.parent as { listId?: unknown }).listId)) return true;
    return this.createError({ message: 'The tag needs an address.', path: `${this.path}.address` });
  });

export const tagKind = {
  plural: 'tags',
  table: 'tags',
  siblings: {
    nameOf: ({ name }) => name,
    among: ({ groupId, source }) => groupId ?? deviceIdOf({ source }) ?? '',
    taken: (name) => `A tag named “${name}” is there already.`,
  },
  isPlain: isPlainTag,
  fields: {
    id: ID_FIELD,
    name: nameField('The tag'),
    groupId: { label: 'Group', schema: idText().nullable().defined(), column: 'group_id', stored: 'text', unsaid: null, refers: names('group') },
    source: {
      label: 'Source',
      schema: source,
      column: 'source',
      stored: 'plain',
      refers: { to: 'device', idIn: (value) => deviceIdOf({ source: value }), whenGone: 'removed' },
    },
    type: { label: 'Type', schema: type, column: 'type', stored: 'text' },
    access: {
      label: 'Access',
      schema: accessSchema(),
      column: 'access',
      stored: 'plain',
      unsaid: null,
    },
    confirm: {
      label: 'Confirmed by',
      schema: confirmSchema().defined(),
      column: 'confirm',
      stored: 'plain',
      unsaid: EQUAL,
      refers: { to: 'tag', idIn: (confirm) => (confirm.kind === 'follows' ? confirm.tagId : null), whenGone: () => EQUAL },
      // How a write is confirmed is the server's to know; the tag that follows may be on no panel.
    },
    unit: { label: 'Unit', schema: words('The unit', 20).defined(), column: 'unit', stored: 'text' },
    decimals: { label: 'Decimals', schema: whole('The number of decimals', 0, 12).nullable().defined(), column: 'decimals', stored: 'number' },
    rangeLow: { label: 'Low end', schema: finite('The low end').nullable().defined(), column: 'range_low', stored: 'number' },
    rangeHigh: { label: 'High end', schema: rangeHigh, column: 'range_high', stored: 'number' },
    rawRange: { label: 'Raw range', schema: rangeSchema('The raw range'), column: 'raw_range', stored: 'plain', unsaid: null },
    displayRange: { label: 'Display range', schema: rangeSchema('The display range'), column: 'display_range', stored: 'plain', unsaid: null },
    limits: { label: 'Limits', schema: limitsSchema(), column: 'limits', stored: 'plain', unsaid: null },
    unavailable: { label: 'Not available', schema: unavailableCodes(), column: 'unavailable', stored: 'text', unsaid: null },
    comment: { label: 'Comment', schema: words('The comment', 400).defined(), column: 'comment', stored: 'text' },
    names: { label: 'Names of values', schema: valueNames(), column: 'value_names', stored: 'plain', unsaid: [] },
    enumerationId: {
      label: 'Enumeration',
      schema: idText().nullable().defined(),
      column: 'enumeration_id',
      stored: 'text',
      unsaid: null,
      refers: names('enumeration'),
    },
    initial: {
      label: 'Initial value',
      schema: words('The initial value', 200).defined(),
      column: 'initial_value',
      stored: 'text',
      unsaid: '',
    },
    listId: { label: 'List', schema: listId, column: 'list_id', stored: 'text' },
    listName: {
      label: 'Name in the list',
      schema: words('The name in the list', 400).defined(),
      column: 'list_name',
      stored: 'text',
      unsaid: '',
    },
    listType: {
      label: 'Type in the list',
      schema: words('The type in the list', 60).defined(),
      column: 'list_type',
      stored: 'text',
      unsaid: '',
    },
    isGone: { label: 'Gone from its list', schema: boolean().defined(), column: 'is_gone', stored: 'plain', unsaid: false },
  },
} as const satisfies Kind<Tag>;
