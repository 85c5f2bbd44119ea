import type { Scale } from '../../scaling/scale.ts';
import { idText } from './fieldSchemas.ts';
import { belongsTo, names, type Kind } from './kind.ts';
import { scaleSchema } from './scaleSchema.ts';

/** A tag's scale; its id is the tag's. */
export interface TagScale {
  readonly id: string;
  readonly scale: Scale;
  /** The shared scale that it is, and follows; null for one of its own. */
  readonly sharedId: string | null;
}

export const scaleKind = {
  plural: 'scales',
  table: 'scales',
  fields: {
    id: { label: 'Tag', schema: idText().defined(), column: 'id', stored: 'text', refers: belongsTo('tag') },
    scale: { label: 'Scale', schema: scaleSchema(), column: 'scale', stored: 'plain' },
    sharedId: {
      label: 'Shared scale',
      schema: idText().nullable().defined(),
      column: 'shared_id',
      stored: 'text',
      unsaid: null,
      refers: names('sharedScale'),
    },
  },
} as const satisfies Kind<TagScale>;
