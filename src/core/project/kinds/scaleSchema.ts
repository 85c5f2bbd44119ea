import { mixed, type ISchema } from 'yup';
import { checkScale, type Scale } from '../../scaling/scale.ts';
import { isStep } from '../../scaling/step.ts';

export function scaleSchema(): ISchema<Scale> {
  return mixed<Scale>((value): value is Scale => isScale(value))
    .test('scale', (value, context) => {
      const checked = value ? checkScale(value) : null;
      return !checked || checked.ok || context.createError({ message: checked.problem.message });
    })
    .defined();
}

function isScale(value: unknown): value is Scale {
  if (typeof value !== 'object' || value === null || !('kind' in value)) return false;
  if (value.kind === 'none') return Object.keys(value).length === 1;
  if (value.kind !== 'chain') return isStep(value);
  return Object.keys(value).length === 2 && 'steps' in value && Array.isArray(value.steps) && value.steps.every(isStep);
}
