/** Schemas of ranges and limits, as tags and panels keep them. */
import { mixed, type ISchema } from 'yup';
import { checkLimits, LIMIT_KEYS, type Limits } from '../../ranges/limits.ts';
import type { Range } from '../../ranges/range.ts';

/** Two ends, or null. */
export function rangeSchema(label: string): ISchema<Range | null> {
  return mixed<Range>((value): value is Range => hasFields(value, ['low', 'high']) && isNumber(value.low) && isNumber(value.high))
    .nullable()
    .test('above', `${label} ends above its beginning.`, (value) => !value || value.high > value.low)
    .defined() as ISchema<Range | null>;
}

export function limitsSchema(): ISchema<Limits | null> {
  return mixed<Limits>((value): value is Limits => isLimits(value))
    .nullable()
    .test('limits', (value, context) => {
      const checked = value ? checkLimits(value) : null;
      return (
        !checked ||
        checked.ok ||
        context.createError({
          message: checked.problem.message,
          path: checked.problem.place === undefined ? context.path : `${context.path}.${checked.problem.place}`,
        })
      );
    })
    .defined() as ISchema<Limits | null>;
}

function isLimits(value: unknown): value is Limits {
  if (!hasFields(value, [...LIMIT_KEYS, 'hysteresis', 'delayMs'])) return false;
  const { hysteresis, delayMs } = value;
  return LIMIT_KEYS.every((key) => value[key] === null || isNumber(value[key])) && isNumber(hysteresis) && isNumber(delayMs);
}

function isNumber(value: unknown): value is number {
  return typeof value === 'number' && Number.isFinite(value);
}

function hasFields<F extends string>(value: unknown, fields: readonly F[]): value is Readonly<Record<F, unknown>> {
  return typeof value === 'object' && value !== null && Object.keys(value).length === fields.length && fields.every((field) => field in value);
}
