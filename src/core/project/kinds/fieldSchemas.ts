/** Fields that several kinds have, and schemas of fields. */
import { mixed, number, object, string, type AnyObject, type ISchema, type MixedSchema, type NumberSchema, type StringSchema } from 'yup';
import { UUID, WITHOUT_CONTROL_CHARACTERS } from '../../patterns.ts';

type Text = StringSchema<string | undefined, AnyObject>;
type Count = NumberSchema<number | undefined, AnyObject>;

export const idText = (): Text => string().matches(UUID, 'An id must be a UUID.');
export const words = (label: string, max: number): Text =>
  string().max(max, `${label} has at most ${max} characters.`).matches(WITHOUT_CONTROL_CHARACTERS, `${label} must not hold control characters.`);
export const nameText = (label: string): Text => words(label, 80).trim(`${label}: no spaces at the ends.`).min(1, `${label} needs a name.`);
export const whole = (label: string, min: number, max: number): Count =>
  number().integer(`${label} is a whole number.`).min(min, `${label} is at least ${min}.`).max(max, `${label} is at most ${max}.`);
export const finite = (label: string): Count =>
  number().test('finite', `${label} is a number.`, (value) => value === undefined || value === null || Number.isFinite(value));
export const record = (): MixedSchema<Record<string, unknown> | undefined, AnyObject> =>
  mixed<Record<string, unknown>>((value): value is Record<string, unknown> => typeof value === 'object' && value !== null && !Array.isArray(value));
export const settings = (): MixedSchema<Record<string, unknown> | undefined, AnyObject> =>
  record().test('size', 'Settings are too large.', (value) => JSON.stringify(value ?? {}).length < 20000);
export const connection = (): ISchema<unknown> =>
  object({ driver: words('The driver', 40).min(1).defined(), settings: settings().defined() })
    .noUnknown(true, 'The real connection of a link has no such field.')
    .nullable()
    .defined()
    .default(null);

/** Whether something may be written; null for what the group above says. */
export const accessSchema = (): ISchema<unknown> =>
  string()
    .nullable()
    .oneOf(['read', 'readWrite', null] as const)
    .defined();

/** The high end of a range whose low end stands in the field `low` beside it. */
export function aboveLow(schema: Count, low: string): Count {
  return schema.test('above', 'The high end must be above the low end.', function (value) {
    const end: unknown = (this.parent as Record<string, unknown>)[low];
    return typeof value !== 'number' || typeof end !== 'number' || value > end;
  });
}

export const ID_FIELD = { label: 'Id', schema: idText().defined(), column: 'id', stored: 'text' } as const;

export function nameField(of: string): {
  readonly label: string;
  readonly schema: ISchema<unknown>;
  readonly column: string;
  readonly stored: 'text';
} {
  return { label: 'Name', schema: nameText(of).defined(), column: 'name', stored: 'text' };
}
