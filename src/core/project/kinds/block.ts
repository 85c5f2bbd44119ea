import { ID_FIELD, idText, words } from './fieldSchemas.ts';
import { belongsTo, type Kind } from './kind.ts';

/** A structure at one place of a device: its members are tags. */
export interface Block {
  readonly id: string;
  /** What its members' names begin with: `Bagger[2]`. */
  readonly name: string;
  readonly deviceId: string;
  readonly structureId: string;
  /** Where it lies, as its device writes it; empty where nobody said. */
  readonly address: string;
}

export const blockKind = {
  plural: 'blocks',
  table: 'blocks',
  siblings: {
    nameOf: ({ name }) => name,
    among: ({ deviceId }) => deviceId,
    taken: (name) => `A block named “${name}” is there already.`,
  },
  fields: {
    id: ID_FIELD,
    name: { label: 'Name', schema: words('The name', 400).min(1, 'The block needs a name.').defined(), column: 'name', stored: 'text' },
    deviceId: { label: 'Device', schema: idText().defined(), column: 'device_id', stored: 'text', refers: belongsTo('device') },
    structureId: { label: 'Structure', schema: idText().defined(), column: 'structure_id', stored: 'text', refers: belongsTo('structure') },
    address: { label: 'Address', schema: words('The address', 200).defined(), column: 'address', stored: 'text' },
  },
} as const satisfies Kind<Block>;
