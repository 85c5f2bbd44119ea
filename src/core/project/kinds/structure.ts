import { array, object } from 'yup';
import { parseDataType } from '../../value/dataType.ts';
import type { ValueNames } from '../../value/valueNames.ts';
import { ID_FIELD, accessSchema, finite, idText, nameField, nameText, whole, words } from './fieldSchemas.ts';
import { belongsTo, type Kind } from './kind.ts';
import { valueNames } from './valueNamesSchema.ts';

/** A type with members, as a controller's program declares it: what each of them is, said once for all blocks of the type. */
export interface Structure {
  readonly id: string;
  readonly name: string;
  /** The device whose program declares it. */
  readonly deviceId: string;
  readonly members: readonly StructureMember[];
}

export interface StructureMember {
  /** One step of a path: `Weight`. */
  readonly name: string;
  /** Empty where it is a structure itself. */
  readonly type: string;
  /** The name of the structure that it is, of the same device; empty for a plain value. */
  readonly of: string;
  /** Elements of an array; null for one value. */
  readonly length: number | null;
  readonly unit: string;
  readonly decimals: number | null;
  readonly rangeLow: number | null;
  readonly rangeHigh: number | null;
  readonly comment: string;
  readonly names: ValueNames;
  readonly access: 'read' | 'readWrite' | null;
}

const MOST_MEMBERS = 4000;

const type = words('The type', 20)
  .test('type', (value, context) => {
    const of: unknown = (context.parent as { of?: unknown }).of;
    if (value === '') return of !== '' || context.createError({ message: 'A member has a type, or is a structure.' });
    const parsed = parseDataType(value ?? '');
    return parsed.ok || context.createError({ message: parsed.problem.message });
  })
  .defined();

const member = object({
  name: nameText('The member').defined(),
  type,
  of: words('The structure', 80).defined(),
  length: whole('The length', 1, 1_000_000).nullable().defined(),
  unit: words('The unit', 20).defined(),
  decimals: whole('The number of decimals', 0, 12).nullable().defined(),
  rangeLow: finite('The low end').nullable().defined(),
  rangeHigh: finite('The high end')
    .nullable()
    .defined()
    .test('pair', 'A range needs both ends, the high one above the low one.', function (value) {
      const low: unknown = (this.parent as { rangeLow?: unknown }).rangeLow;
      return typeof value === 'number' && typeof low === 'number' ? value > low : (value === null) === (low === null);
    }),
  comment: words('The comment', 400).defined(),
  names: valueNames(),
  access: accessSchema(),
}).noUnknown(true, 'A member has no such field.');

const members = array()
  .of(member)
  .max(MOST_MEMBERS, `A structure has at most ${MOST_MEMBERS} members.`)
  .test('names', 'Two members have one name.', (list) => new Set((list ?? []).map((m) => String(m.name).toLowerCase())).size === (list ?? []).length)
  .defined();

export const structureKind = {
  plural: 'structures',
  table: 'structures',
  siblings: {
    nameOf: ({ name }) => name,
    among: ({ deviceId }) => deviceId,
    taken: (name) => `A structure named “${name}” is there already.`,
  },
  fields: {
    id: ID_FIELD,
    name: nameField('The structure'),
    deviceId: { label: 'Device', schema: idText().defined(), column: 'device_id', stored: 'text', refers: belongsTo('device') },
    members: { label: 'Members', schema: members, column: 'members', stored: 'plain' },
  },
} as const satisfies Kind<Structure>;
