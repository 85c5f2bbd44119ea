import { mixed, type ISchema } from 'yup';
import { checkNames, type ValueNames } from '../../value/valueNames.ts';

/** Names of values, each with its number. */
export function valueNames(): ISchema<ValueNames> {
  return mixed<ValueNames>((value): value is ValueNames => isNames(value))
    .test('names', (value, context) => {
      const checked = value ? checkNames(value) : null;
      return !checked || checked.ok || context.createError({ message: checked.problem.message });
    })
    .defined();
}

function isNames(value: unknown): value is ValueNames {
  return (
    Array.isArray(value) &&
    value.every(
      (n: unknown) =>
        typeof n === 'object' &&
        n !== null &&
        Object.keys(n).length === 2 &&
        typeof (n as { value?: unknown }).value === 'number' &&
        typeof (n as { name?: unknown }).name === 'string',
    )
  );
}
