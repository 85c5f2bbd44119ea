import { array, object } from 'yup';
import { ID_FIELD, nameField, nameText, settings } from './fieldSchemas.ts';
import type { Kind } from './kind.ts';

export interface Project {
  readonly id: string;
  readonly name: string;
  /** Dialects saved under a name, to be used for other devices. */
  readonly dialects: readonly SavedDialect[];
}
export interface SavedDialect {
  readonly name: string;
  readonly settings: Readonly<Record<string, unknown>>;
}

const dialects = array()
  .of(
    object({ name: nameText('The set of protocol options').defined(), settings: settings().defined() }).noUnknown(
      true,
      'A saved set of protocol options has no such field.',
    ),
  )
  .max(60, 'At most 60 dialects can be saved.')
  .test('once', 'Two saved dialects have the same name.', (all) => new Set(all?.map((d) => d.name.toLowerCase())).size === (all?.length ?? 0))
  .defined();

export const projectKind = {
  plural: 'project',
  table: 'projects',
  words: 'name of the project',
  fields: {
    id: ID_FIELD,
    name: nameField('The project'),
    dialects: { label: 'Saved protocol options', schema: dialects, column: 'dialects', stored: 'plain', unsaid: [] },
  },
} as const satisfies Kind<Project>;
