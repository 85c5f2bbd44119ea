/** What may stand in the settings of elements: it follows from how a form asks for each. A glass needs none of it. */
import { array, boolean, mixed, number, object, string, type AnyObjectSchema, type ISchema } from 'yup';
import { words } from '../project/kinds/fieldSchemas.ts';
import { ACTS, MOST_ACTIONS } from './actions.ts';
import { isBound, LONGEST_EXPRESSION, type Bound } from './bound.ts';
import { ELEMENT_KINDS, ELEMENTS, type ElementKind } from './kinds.ts';
import { MOST_POINTS, MOST_TAGS, type Setting } from './setting.ts';
import { statesSchema } from './statesSchema.ts';
import { SYMBOLS } from './symbols.ts';

const LONGEST_TEMPLATE = 2000;

/** One strict schema a kind; each setting may be left out. */
export const SETTINGS_SCHEMAS = Object.fromEntries(
  ELEMENT_KINDS.map((kind) => [
    kind,
    object(Object.fromEntries(Object.entries(ELEMENTS[kind].settings).map(([name, setting]) => [name, optional(schemaOf(setting))])) as never)
      .noUnknown(true, `A ${ELEMENTS[kind].name.toLowerCase()} has no such setting.`)
      .defined(),
  ]),
) as unknown as Readonly<Record<ElementKind, AnyObjectSchema>>;

function optional(schema: ISchema<unknown>): ISchema<unknown> {
  return (schema as unknown as { optional(): ISchema<unknown> }).optional();
}

function schemaOf({ label, control, unsaid }: Setting<unknown>): ISchema<unknown> {
  switch (control.kind) {
    case 'text':
      return words(label, control.max).defined();
    case 'template':
      return string().max(LONGEST_TEMPLATE, `${label} has at most ${LONGEST_TEMPLATE} characters.`).defined();
    case 'number': {
      const whole = number()
        .integer(`${label} is a whole number.`)
        .min(control.min, `${label} is at least ${control.min}.`)
        .max(control.max, `${label} is at most ${control.max}.`)
        .defined();
      return unsaid === null ? whole.nullable() : whole;
    }
    case 'live':
      return liveSchema(
        number()
          .test('finite', `${label} is a number.`, (value) => value === undefined || value === null || Number.isFinite(value))
          .nullable()
          .defined(),
      );
    case 'choice': {
      const choices = Object.keys(control.choices);
      return string()
        .oneOf(choices, `${label} is one of ${choices.join(', ')}.`)
        .defined();
    }
    case 'flag':
      return boolean().defined();
    case 'condition':
    case 'expression':
      return boundSchema();
    case 'states':
      return statesSchema();
    case 'stateList':
    case 'picture':
      return string().max(36).nullable().defined();
    case 'actions':
      return actionsSchema();
    case 'unit':
      return words('The unit', 20).defined();
    case 'symbol':
      return string().oneOf(Object.keys(SYMBOLS), 'There is no such symbol.').defined();
    case 'points':
      return pointsSchema();
    case 'tags':
      return array().of(string().max(36).defined()).max(MOST_TAGS, `At most ${MOST_TAGS} tags.`).defined();
  }
}

function pointsSchema(): ISchema<unknown> {
  const part = number().integer('A corner lies at whole thousandths.').min(0).max(1000).defined();
  return array()
    .of(object({ x: part, y: part }).noUnknown(true, 'A corner has x and y.'))
    .min(2, 'A line has two corners at least.')
    .max(MOST_POINTS, `A line has at most ${MOST_POINTS} corners.`)
    .defined();
}

function actionsSchema(): ISchema<unknown> {
  return array()
    .of(
      object({
        act: string()
          .oneOf(ACTS, `An action is one of ${ACTS.join(', ')}.`)
          .defined(),
        tagId: string().max(36).nullable().defined(),
        value: words('The value to write', 200).defined(),
        pageId: string().max(36).nullable().defined(),
      }).noUnknown(true, 'An action has act, tagId, value and pageId.'),
    )
    .max(MOST_ACTIONS, `A button does at most ${MOST_ACTIONS} things.`)
    .test('hold', 'A button that is held does nothing else: leave the other actions out.', (actions) =>
      (actions ?? []).every(({ act }) => act !== 'hold' || actions?.length === 1),
    )
    .defined();
}

function boundSchema(): ISchema<unknown> {
  return mixed<Bound>((value): value is Bound => isBound(value) && Object.keys(value).length === 1)
    .test('length', `An expression has at most ${LONGEST_EXPRESSION} characters.`, (value) => (value?.by.length ?? 0) <= LONGEST_EXPRESSION)
    .nullable()
    .defined();
}

/** A constant as the schema has it, or an expression. */
function liveSchema(constant: { isValidSync(value: unknown): boolean; validateSync(value: unknown, options: object): unknown }): ISchema<unknown> {
  return mixed()
    .nullable()
    .defined()
    .test('live', 'This is a value or an expression.', (value, context) => {
      if (value === undefined) return true;
      if (isBound(value)) return Object.keys(value).length === 1 && value.by.length <= LONGEST_EXPRESSION;
      try {
        constant.validateSync(value, { strict: true });
        return true;
      } catch (error) {
        return context.createError({ message: error instanceof Error ? error.message : 'This is no such value.' });
      }
    });
}
