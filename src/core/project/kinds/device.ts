import { boolean, string } from 'yup';
import { ID_FIELD, idText, nameField, settings, whole, words } from './fieldSchemas.ts';
import { belongsTo, names, type Kind } from './kind.ts';
import { witnessUrlText } from './witnessUrl.ts';

/** When values are read: always, or only while something shows them or goes by them. */
export const READS = ['always', 'shown'] as const;
export type Reads = (typeof READS)[number];

export interface Device {
  readonly id: string;
  readonly linkId: string;
  readonly name: string;
  readonly settings: Readonly<Record<string, unknown>>;
  readonly dialect: Readonly<Record<string, unknown>>;
  /** Address of a control channel that tells values without our mapping; empty when there is none. */
  readonly witnessUrl: string;
  /** The tag that tells which machine this is, and what it must say before writing is unlocked; null for none. */
  readonly identityTagId: string | null;
  readonly identity: string;
  /** The tag that changes as long as the controller's program runs, and how long it may stand still. */
  readonly lifeTagId: string | null;
  readonly lifeSeconds: number;
  /** The tag that Mill Latch counts up for the controller to watch, while writing is open for rules; null for none. */
  readonly ownLifeTagId: string | null;
  /** When its values are read, where no group says otherwise. */
  readonly reads: Reads;
  /** For desk work: its values are made up here, and nothing of it goes to the machine. */
  readonly isSimulated: boolean;
}

const tagId = { schema: idText().nullable().defined(), stored: 'text', unsaid: null, refers: names('tag') } as const;

export const deviceKind = {
  plural: 'devices',
  table: 'devices',
  siblings: {
    nameOf: ({ name }) => name,
    among: () => '',
    taken: (name) => `A device named “${name}” is there already: its name begins the paths of its tags.`,
  },
  fields: {
    id: ID_FIELD,
    linkId: { label: 'Link', schema: idText().defined(), column: 'link_id', stored: 'text', refers: belongsTo('link') },
    name: nameField('The device'),
    settings: { label: 'Settings', schema: settings().defined(), column: 'settings', stored: 'plain' },
    dialect: { label: 'Protocol options', schema: settings().defined(), column: 'dialect', stored: 'plain' },
    witnessUrl: { label: 'Control channel', schema: witnessUrlText().defined(), column: 'witness_url', stored: 'text' },
    identityTagId: { label: 'Identity tag', column: 'identity_tag_id', ...tagId },
    identity: {
      label: 'Expected identity',
      schema: words('The identity', 200).defined(),
      column: 'identity',
      stored: 'text',
      unsaid: '',
    },
    lifeTagId: { label: 'Heartbeat', column: 'life_tag_id', ...tagId },
    lifeSeconds: {
      label: 'Heartbeat time-out',
      schema: whole('The time a heartbeat may stand still', 1, 3600).defined(),
      column: 'life_seconds',
      stored: 'number',
      unsaid: 5,
    },
    ownLifeTagId: { label: 'Our own heartbeat', column: 'own_life_tag_id', ...tagId },
    isSimulated: { label: 'Simulated', schema: boolean().defined(), column: 'is_simulated', stored: 'plain', unsaid: false },
    reads: { label: 'Read', schema: string<Reads>().oneOf(READS).defined(), column: 'reads', stored: 'text', unsaid: 'always' },
  },
} as const satisfies Kind<Device>;
