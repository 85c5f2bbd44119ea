import { type State } from '../../panel/states.ts';
import { statesSchema } from '../../panel/statesSchema.ts';
import { ID_FIELD, nameField } from './fieldSchemas.ts';
import type { Kind } from './kind.ts';

/** What is shown for the values of many elements: said once. */
export interface StateList {
  readonly id: string;
  readonly name: string;
  readonly states: readonly State[];
}

export const stateListKind = {
  plural: 'stateLists',
  table: 'state_lists',
  words: 'state lists',
  siblings: { nameOf: ({ name }) => name, among: () => '', taken: (name) => `A state list named “${name}” is there already.` },
  fields: {
    id: ID_FIELD,
    name: nameField('The state list'),
    states: { label: 'States', schema: statesSchema(), column: 'states', stored: 'plain' },
  },
} as const satisfies Kind<StateList>;
