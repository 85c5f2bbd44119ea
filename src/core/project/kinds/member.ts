import { idText, words } from './fieldSchemas.ts';
import { belongsTo, type Kind } from './kind.ts';

/** That a tag is a member of a block; its id is the tag's. */
export interface Member {
  readonly id: string;
  readonly blockId: string;
  /** Which one: `Weight`, `Jaw[1]`, `Inner.Level`. */
  readonly path: string;
}

export const memberKind = {
  plural: 'members',
  table: 'members',
  words: 'members of blocks',
  title: ({ path }) => path,
  fields: {
    id: { label: 'Tag', schema: idText().defined(), column: 'id', stored: 'text', refers: belongsTo('tag') },
    blockId: { label: 'Block', schema: idText().defined(), column: 'block_id', stored: 'text', refers: belongsTo('block') },
    path: { label: 'Member', schema: words('The member', 400).min(1, 'Say which member.').defined(), column: 'path', stored: 'text' },
  },
} as const satisfies Kind<Member>;
