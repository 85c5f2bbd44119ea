import { mixed } from 'yup';
import { checkScale, type Scale } from '../../scaling/scale.ts';
import { isStep } from '../../scaling/step.ts';
import { idText } from './fieldSchemas.ts';
import { belongsTo, type Kind } from './kind.ts';

/** A tag's scale; its id is the tag's. */
export interface TagScale {
  readonly id: string;
  readonly scale: Scale;
}

const scale = mixed<Scale>((value): value is Scale => isScale(value))
  .test('scale', (value, context) => {
    const checked = value ? checkScale(value) : null;
    return !checked || checked.ok || context.createError({ message: checked.problem.message });
  })
  .defined();

export const scaleKind = {
  plural: 'scales',
  table: 'scales',
  fields: {
    id: { label: 'Tag', schema: idText().defined(), column: 'id', stored: 'text', refers: belongsTo('tag') },
    scale: { label: 'Scale', schema: scale, column: 'scale', stored: 'plain' },
  },
} as const satisfies Kind<TagScale>;

function isScale(value: unknown): value is Scale {
  if (typeof value !== 'object' || value === null || !('kind' in value)) return false;
  if (value.kind === 'none') return Object.keys(value).length === 1;
  if (value.kind !== 'chain') return isStep(value);
  return Object.keys(value).length === 2 && 'steps' in value && Array.isArray(value.steps) && value.steps.every(isStep);
}
