import { string } from 'yup';
import type { DraftChoices } from '../../taglist/draft.ts';
import { draftChoicesSchema } from '../../taglist/choicesSchema.ts';
import { ID_FIELD, idText, whole, words } from './fieldSchemas.ts';
import { belongsTo, type Kind } from './kind.ts';

/** A tag list that was imported. */
export interface Source {
  readonly id: string;
  readonly deviceId: string;
  readonly fileName: string;
  readonly importedAt: string;
  readonly rowCount: number;
  /** The version of the list that the tags stand at; null for one that was imported before versions were kept. */
  readonly versionId: string | null;
  /** Reading options and what is chosen of it: the recipe for its next version. */
  readonly choices: DraftChoices;
}

export const sourceKind = {
  plural: 'sources',
  table: 'sources',
  words: 'lists',
  title: ({ fileName }) => fileName,
  fields: {
    id: ID_FIELD,
    deviceId: { label: 'Device', schema: idText().defined(), column: 'device_id', stored: 'text', refers: belongsTo('device') },
    fileName: { label: 'File name', schema: words('The file name', 200).min(1).defined(), column: 'file_name', stored: 'text' },
    importedAt: { label: 'Imported', schema: string().datetime().defined(), column: 'imported_at', stored: 'text' },
    rowCount: { label: 'Rows', schema: whole('The count of rows', 0, 1_000_000).defined(), column: 'row_count', stored: 'number' },
    versionId: { label: 'Version', schema: idText().nullable().defined(), column: 'version_id', stored: 'text', unsaid: null },
    choices: { label: 'Choices', schema: draftChoicesSchema(), column: 'choices', stored: 'plain', unsaid: {} },
  },
} as const satisfies Kind<Source>;
