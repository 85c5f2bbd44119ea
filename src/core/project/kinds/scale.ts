import { mixed } from 'yup';
import { checkScale, type Scale } from '../../scaling/scale.ts';
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
  const keys = Object.keys(value);
  const numbers = (names: readonly string[]): boolean =>
    keys.length === names.length + 1 && names.every((n) => typeof (value as Record<string, unknown>)[n] === 'number');
  return value.kind === 'none'
    ? keys.length === 1
    : value.kind === 'linear'
      ? numbers(['rawA', 'engA', 'rawB', 'engB'])
      : value.kind === 'power'
        ? numbers(['exponent'])
        : false;
}
