import type { Scale } from '../../scaling/scale.ts';
import { ID_FIELD, nameField, whole, words } from './fieldSchemas.ts';
import type { Kind } from './kind.ts';
import { scaleSchema } from './scaleSchema.ts';

/** A scale with a name, that many tags go by. */
export interface SharedScale {
  readonly id: string;
  readonly name: string;
  readonly scale: Scale;
  /** The unit of what it comes to, and the decimals that make sense; its tags show them unless they say something else. */
  readonly unit: string;
  readonly decimals: number | null;
}

export const sharedScaleKind = {
  plural: 'sharedScales',
  table: 'shared_scales',
  words: 'shared scales',
  siblings: { nameOf: ({ name }) => name, among: () => '', taken: (name) => `A shared scale named “${name}” is there already.` },
  fields: {
    id: ID_FIELD,
    name: nameField('The shared scale'),
    scale: { label: 'Scale', schema: scaleSchema(), column: 'scale', stored: 'plain' },
    unit: { label: 'Unit', schema: words('The unit', 20).defined(), column: 'unit', stored: 'text' },
    decimals: { label: 'Decimals', schema: whole('The number of decimals', 0, 12).nullable().defined(), column: 'decimals', stored: 'number' },
  },
} as const satisfies Kind<SharedScale>;
