import { boolean, string } from 'yup';
import { ID_FIELD, idText, nameField, whole } from './fieldSchemas.ts';
import { belongsTo, type Kind } from './kind.ts';

/** When a rule copies: at each change of what it copies, when a tag turns on, once when it is armed, or every so often. */
export const COPY_TIMES = ['change', 'rising', 'armed', 'every'] as const;
export type CopyTime = (typeof COPY_TIMES)[number];

/** Copies the value of a tag to another one, or the members of a block to those of another one, as long as it is armed. */
export interface CopyRule {
  readonly id: string;
  readonly name: string;
  /** A tag to a tag, or a block to a block: two of the four, the others null. */
  readonly fromTagId: string | null;
  readonly toTagId: string | null;
  readonly fromBlockId: string | null;
  readonly toBlockId: string | null;
  readonly when: CopyTime;
  /** The tag that turns on, for `rising`; null else. */
  readonly triggerTagId: string | null;
  /** Between two copies: the period of `every`, the shortest pause of the others. */
  readonly pauseMs: number;
  /** Only those that are in use can be armed. */
  readonly isOn: boolean;
}

export const SHORTEST_PAUSE_MS = 200;
const LONGEST_PAUSE_MS = 86_400_000;

const together = (other: 'fromTagId' | 'fromBlockId', message: string) =>
  idText()
    .nullable()
    .defined()
    .test('together', message, function (value) {
      return (value === null) === ((this.parent as Partial<Record<typeof other, unknown>>)[other] === null);
    });

export const copyRuleKind = {
  plural: 'copyRules',
  table: 'copy_rules',
  words: 'copy rules',
  siblings: { nameOf: ({ name }) => name, among: () => '', taken: (name) => `A copy rule named “${name}” is there already.` },
  fields: {
    id: ID_FIELD,
    name: nameField('The copy rule'),
    fromTagId: {
      label: 'From tag',
      schema: idText()
        .nullable()
        .defined()
        .test('source', 'A copy rule copies a tag or a block: name one of them.', function (value) {
          return (value === null) !== ((this.parent as { fromBlockId?: unknown }).fromBlockId === null);
        }),
      column: 'from_tag_id',
      stored: 'text',
      refers: belongsTo('tag'),
    },
    toTagId: {
      label: 'To tag',
      schema: together('fromTagId', 'A tag is copied to a tag: name both.'),
      column: 'to_tag_id',
      stored: 'text',
      refers: belongsTo('tag'),
    },
    fromBlockId: {
      label: 'From block',
      schema: idText().nullable().defined(),
      column: 'from_block_id',
      stored: 'text',
      refers: belongsTo('block'),
    },
    toBlockId: {
      label: 'To block',
      schema: together('fromBlockId', 'A block is copied to a block: name both.'),
      column: 'to_block_id',
      stored: 'text',
      refers: belongsTo('block'),
    },
    when: {
      label: 'When',
      schema: string<CopyTime>()
        .oneOf(COPY_TIMES, `When is one of ${COPY_TIMES.join(', ')}.`)
        .defined(),
      column: 'copied_when',
      stored: 'text',
    },
    triggerTagId: {
      label: 'Turns on',
      schema: idText()
        .nullable()
        .defined()
        .test('trigger', 'Name the tag that turns on, for a rule that waits for one.', function (value) {
          return ((this.parent as { when?: unknown }).when === 'rising') === (value !== null);
        }),
      column: 'trigger_tag_id',
      stored: 'text',
      refers: belongsTo('tag'),
    },
    pauseMs: {
      label: 'Pause',
      schema: whole('The pause in milliseconds', SHORTEST_PAUSE_MS, LONGEST_PAUSE_MS).defined(),
      column: 'pause_ms',
      stored: 'number',
    },
    isOn: { label: 'In use', schema: boolean().defined(), column: 'is_on', stored: 'plain' },
  },
} as const satisfies Kind<CopyRule>;
