import { ID_FIELD, nameField, whole } from './fieldSchemas.ts';
import type { Kind } from './kind.ts';
import { MOST_LEVEL } from '../../panel/levels.ts';

/** Somebody who signs in at panels. The PIN is none of the project: it stays where it was set. */
export interface Operator {
  readonly id: string;
  readonly name: string;
  readonly level: number;
}

export const operatorKind = {
  plural: 'operators',
  table: 'operators',
  siblings: { nameOf: ({ name }) => name, among: () => '', taken: (name) => `Somebody named “${name}” is there already.` },
  fields: {
    id: ID_FIELD,
    name: nameField('The person'),
    level: { label: 'Level', schema: whole('The level', 1, MOST_LEVEL).defined(), column: 'level', stored: 'number' },
  },
} as const satisfies Kind<Operator>;
