/** Yup schemas of a driver's settings, built from their description: the same in the browser and on the server. */
import { array, boolean, mixed, number, object, string, type AnyObject, type AnyObjectSchema, type AnySchema, type StringSchema } from 'yup';
import { UUID, WITHOUT_CONTROL_CHARACTERS } from '../patterns.ts';
import { defaultsOf, isAsked, type ListSetting, type NumberSetting, type Setting, type SettingsSchema, type TextSetting } from './settingsSchema.ts';

const built = new WeakMap<SettingsSchema, AnyObjectSchema>();
const LONGEST_TEXT = 200;
const LONGEST_LINES = 20_000;

/** Defaults fill what is not given; texts of a form are taken for the numbers and lists that they write. */
export function yupOf(schema: SettingsSchema): AnyObjectSchema {
  const known = built.get(schema);
  if (known) return known;
  const fields = Object.fromEntries(Object.entries(schema.properties).map(([name, setting]) => [name, whenAsked(fieldOf(setting), setting)]));
  const made = object(fields).noUnknown(true, `${schema['x-of'] ?? 'This'} has no such setting.`);
  built.set(schema, made);
  return made;
}

/** Settings with the defaults filled in; they were accepted before they were stored. */
export function filledIn(schema: SettingsSchema, settings: Readonly<Record<string, unknown>>): Readonly<Record<string, unknown>> {
  return { ...defaultsOf(schema), ...settings };
}

/** Reads settings that were accepted before they were stored as what their driver takes them for. Kept by object. */
export function settingsAs<T>(schema: SettingsSchema): (settings: Readonly<Record<string, unknown>>) => T {
  const known = new WeakMap<object, T>();
  return (settings) => {
    const found = known.get(settings);
    if (found) return found;
    const made = yupOf(schema).cast(settings) as T;
    known.set(settings, made);
    return made;
  };
}

/** What is not asked for need not fit. */
function whenAsked(field: AnySchema, setting: Setting): AnySchema {
  const when = setting['x-when'];
  if (when === undefined) return field;
  const anything = mixed().default(setting.default ?? '');
  return anything.when(when.setting, ([value]: unknown[]) => (isAsked(setting, { [when.setting]: value }) ? field : anything));
}

function fieldOf(setting: Setting): AnySchema {
  switch (setting.type) {
    case 'string':
      return textOf(setting);
    case 'integer':
    case 'number':
      return numberOf(setting);
    case 'boolean':
      return boolean()
        .typeError(`${subject(setting.title)} is on or off.`)
        .default(setting.default);
    case 'array':
      return listOf(setting);
  }
}

function textOf(setting: TextSetting): AnySchema {
  const { title, pattern, format, oneOf, maxLength, writeOnly } = setting;
  const refusal = setting['x-refusal'];
  let field: Text = string();
  if (oneOf) field = field.oneOf(oneOf.map((choice) => choice.const));
  else if (writeOnly)
    field = field.matches(UUID, { message: `${subject(title)} is kept apart; give the id under which it is kept.`, excludeEmptyString: true });
  else {
    const isLong = format === 'lines' || format === 'file';
    field = (isLong ? field : field.trim()).max(maxLength ?? (isLong ? LONGEST_LINES : LONGEST_TEXT));
    if (!isLong) field = field.matches(WITHOUT_CONTROL_CHARACTERS, `${subject(title)} must not hold control characters.`);
  }
  if (pattern !== undefined)
    field = field.matches(new RegExp(pattern, 'iu'), { message: refusal ?? `${subject(title)} is not written that way.`, excludeEmptyString: true });
  if (format === 'host') field = hostOf(field, title);
  return setting.default === undefined ? field.required(missing(title)).default('') : field.defined().default(setting.default);
}

/** A setting as a sentence begins with it: `The port`. */
function subject(title: string): string {
  return `The ${title.charAt(0).toLowerCase()}${title.slice(1)}`;
}

function missing(title: string): string {
  return `${subject(title)} is missing.`;
}

type Text = StringSchema<string | undefined, AnyObject>;

const HOST = /^(?=.{1,253}$)(([a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?)(\.[a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?)*|[0-9a-f:]*:[0-9a-f:.]+)$/i;
const IPV4 = /^((25[0-5]|2[0-4]\d|1?\d?\d)(\.|$)){4}$/;

/** RFC 1123, 2.1, and RFC 4291, 2.2. */
function hostOf(field: Text, title: string): Text {
  return field
    .required(missing(title))
    .matches(HOST, 'The host is a name or an IP address, such as 192.0.2.20.')
    .test('dotted', 'An IPv4 address has four numbers from 0 to 255.', (value) => !/^[\d.]+$/.test(value ?? '') || IPV4.test(value ?? ''));
}

function numberOf(setting: NumberSetting): AnySchema {
  const { title, minimum, maximum, anyOf, oneOf } = setting;
  const kind = setting.type === 'integer' ? 'a whole number' : 'a number';
  const range =
    minimum !== undefined && maximum !== undefined ? `${subject(title)} is ${kind} from ${minimum} to ${maximum}.` : `${subject(title)} is ${kind}.`;
  const refusal = setting['x-refusal'] ?? range;
  let field = number().typeError(range);
  if (oneOf) field = field.oneOf(oneOf.map((choice) => choice.const));
  if (setting.type === 'integer') field = field.integer(range);
  if (minimum !== undefined) field = field.min(minimum, refusal);
  if (maximum !== undefined) field = field.max(maximum, refusal);
  if (anyOf)
    field = field.test('range', refusal, (value) => value === undefined || anyOf.some((one) => value >= one.minimum && value <= one.maximum));
  return field.required(missing(title)).default(setting.default);
}

/** A form writes a line for each. */
function listOf({ title, items, maxItems, ...setting }: ListSetting): AnySchema {
  const pattern = new RegExp(items.pattern ?? '', 'iu');
  const item = string()
    .max(items.maxLength ?? LONGEST_TEXT)
    .matches(WITHOUT_CONTROL_CHARACTERS, `${subject(title)} must not hold control characters.`)
    .matches(pattern, { message: setting['x-refusal'] ?? `${subject(title)} is not written that way.`, excludeEmptyString: true })
    .defined();
  return array()
    .transform((value: unknown, original: unknown) =>
      typeof original === 'string'
        ? original
            .split('\n')
            .map((line) => line.trim())
            .filter((line) => line !== '')
        : value,
    )
    .of(item)
    .max(maxItems, `${subject(title)} has at most ${maxItems} lines.`)
    .default([...setting.default]);
}
