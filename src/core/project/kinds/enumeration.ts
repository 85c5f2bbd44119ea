import type { ValueNames } from '../../value/valueNames.ts';
import { ID_FIELD, idText, nameField } from './fieldSchemas.ts';
import { belongsTo, type Kind } from './kind.ts';
import { valueNames } from './valueNamesSchema.ts';

/** A type whose values have names, as a controller's program declares it: said once for all tags of it. */
export interface Enumeration {
  readonly id: string;
  readonly name: string;
  /** The device whose program declares it. */
  readonly deviceId: string;
  readonly names: ValueNames;
}

export const enumerationKind = {
  plural: 'enumerations',
  table: 'enumerations',
  siblings: {
    nameOf: ({ name }) => name,
    among: ({ deviceId }) => deviceId,
    taken: (name) => `An enumeration named “${name}” is there already.`,
  },
  fields: {
    id: ID_FIELD,
    name: nameField('The enumeration'),
    deviceId: { label: 'Device', schema: idText().defined(), column: 'device_id', stored: 'text', refers: belongsTo('device') },
    names: { label: 'Names of values', schema: valueNames(), column: 'value_names', stored: 'plain' },
  },
} as const satisfies Kind<Enumeration>;
