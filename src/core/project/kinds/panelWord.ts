import { string } from 'yup';
import { isOnce, ROLES, WORD_ROLES, type WordRole } from '../../panel/exchange.ts';
import { ID_FIELD, idText } from './fieldSchemas.ts';
import { belongsTo, type Kind } from './kind.ts';

/** A word by which a panel and a controller speak to each other. */
export interface PanelWord {
  readonly id: string;
  readonly panelId: string;
  readonly role: WordRole;
  readonly tagId: string;
  /** The button whose presses it tells; null for any other role. */
  readonly elementId: string | null;
}

export const panelWordKind = {
  plural: 'panelWords',
  table: 'panel_words',
  words: 'words of panels',
  title: ({ role }) => ROLES[role].label,
  siblings: {
    nameOf: ({ role, elementId }) => (isOnce(role) ? role : `${role} ${elementId}`),
    among: ({ panelId }) => panelId,
    taken: (name) =>
      name.startsWith('key ') ? 'The button is a key already.' : `The panel has its word “${ROLES[name as WordRole].label}” already.`,
  },
  fields: {
    id: ID_FIELD,
    panelId: { label: 'Panel', schema: idText().defined(), column: 'panel_id', stored: 'text', refers: belongsTo('panel') },
    role: { label: 'Role', schema: string<WordRole>().oneOf(WORD_ROLES).defined(), column: 'role', stored: 'text' },
    tagId: { label: 'Tag', schema: idText().defined(), column: 'tag_id', stored: 'text', refers: belongsTo('tag') },
    elementId: {
      label: 'Button',
      schema: idText()
        .nullable()
        .defined()
        .test('key', 'A key names its button, and no other word names one.', function (value) {
          return ((this.parent as { role?: unknown }).role === 'key') === (value !== null);
        }),
      column: 'element_id',
      stored: 'text',
      refers: belongsTo('element'),
    },
  },
} as const satisfies Kind<PanelWord>;
