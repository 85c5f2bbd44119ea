import { ID_FIELD, idText, nameField, whole } from './fieldSchemas.ts';
import { belongsTo, type Kind } from './kind.ts';

export interface Page {
  readonly id: string;
  readonly panelId: string;
  readonly name: string;
  readonly position: number;
}

export const pageKind = {
  plural: 'pages',
  table: 'pages',
  fields: {
    id: ID_FIELD,
    panelId: { label: 'Panel', schema: idText().defined(), column: 'panel_id', stored: 'text', refers: belongsTo('panel') },
    name: nameField('The page'),
    position: { label: 'Position', schema: whole('The position', 0, 10_000).defined(), column: 'position', stored: 'number' },
  },
} as const satisfies Kind<Page>;
