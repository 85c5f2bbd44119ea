import { ID_FIELD, nameField } from './fieldSchemas.ts';
import type { Kind } from './kind.ts';

export interface Panel {
  readonly id: string;
  readonly name: string;
}

export const panelKind = {
  plural: 'panels',
  table: 'panels',
  fields: {
    id: ID_FIELD,
    name: nameField('The panel'),
  },
} as const satisfies Kind<Panel>;
