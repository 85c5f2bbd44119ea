import { idText, nameText } from './fieldSchemas.ts';
import type { Kind } from './kind.ts';

export interface Panel {
  readonly id: string;
  readonly name: string;
}

export const panelKind = {
  plural: 'panels',
  table: 'panels',
  fields: {
    id: { label: 'Id', schema: idText().defined(), column: 'id', stored: 'text' },
    name: { label: 'Name', schema: nameText('The panel').defined(), column: 'name', stored: 'text' },
  },
} as const satisfies Kind<Panel>;
