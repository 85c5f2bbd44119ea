/**
 * The settings that a driver asks for, as data: JSON Schema (draft 2020-12), as much of it as settings need, with what a form
 * needs to draw them. A driver in another process sends the same.
 */

/** All settings of one thing: of a link, a device, how it reads the standard, or a point. */
export interface SettingsSchema {
  readonly type: 'object';
  readonly properties: Readonly<Record<string, Setting>>;
  readonly additionalProperties: false;
  /** What is said of a setting that is not among them: `A Modbus device`. */
  readonly 'x-of'?: string;
}

export type Setting = TextSetting | NumberSetting | SwitchSetting | ListSetting;

interface Common {
  readonly title: string;
  /** One sentence: what it is and what it does. */
  readonly description: string;
  /** The form asks for it, and it must be given, only where another setting has one of these values. */
  readonly 'x-when'?: { readonly setting: string; readonly is: readonly (string | number | boolean)[] };
  /** Said in place of the usual words when what is given does not fit. */
  readonly 'x-refusal'?: string;
}

export interface TextSetting extends Common {
  readonly type: 'string';
  /** Without one it has to be given. */
  readonly default?: string;
  readonly maxLength?: number;
  readonly pattern?: string;
  readonly format?: TextFormat;
  readonly oneOf?: readonly Choice<string>[];
  /** A secret: kept apart, never shown. The setting itself holds the id under which it is kept. */
  readonly writeOnly?: true;
  /** What this machine has that fits: offered while typing. */
  readonly 'x-suggestions'?: string;
}

/** `host`: a name or an address of a network. `file`: a text from a file of the person. `lines`: of several lines. */
export type TextFormat = 'host' | 'file' | 'lines';

export interface NumberSetting extends Common {
  readonly type: 'integer' | 'number';
  readonly default?: number;
  readonly minimum?: number;
  readonly maximum?: number;
  /** Ranges of which one must hold it. */
  readonly anyOf?: readonly { readonly minimum: number; readonly maximum: number }[];
  readonly oneOf?: readonly Choice<number>[];
  readonly 'x-unit'?: string;
}

export interface SwitchSetting extends Common {
  readonly type: 'boolean';
  readonly default: boolean;
}

export interface ListSetting extends Common {
  readonly type: 'array';
  readonly items: { readonly type: 'string'; readonly maxLength?: number; readonly pattern?: string };
  readonly default: readonly string[];
  readonly maxItems: number;
}

/** A value with its words. */
export interface Choice<T> {
  readonly const: T;
  readonly title: string;
}

/** Where nothing is asked for. */
export const NO_SETTINGS: SettingsSchema = { type: 'object', properties: {}, additionalProperties: false };

export function settingsSchema(of: string, properties: Readonly<Record<string, Setting>>): SettingsSchema {
  return { type: 'object', properties, additionalProperties: false, 'x-of': of };
}

/** One of a few words; the first is the default. */
export function choiceSetting(choices: Readonly<Record<string, string>>, title: string, description: string): TextSetting {
  const oneOf = Object.entries(choices).map(([value, words]) => ({ const: value, title: words }));
  return { type: 'string', title, description, default: oneOf[0]?.const ?? '', oneOf };
}

/** A whole number in a range. */
export function wholeSetting(
  title: string,
  description: string,
  { min, max, ...more }: { readonly min: number; readonly max: number; readonly default?: number; readonly 'x-unit'?: string },
): NumberSetting {
  return { type: 'integer', title, description, minimum: min, maximum: max, ...more };
}

/** Whether the form asks for a setting, as the others stand. */
export function isAsked({ 'x-when': when }: Setting, settings: Readonly<Record<string, unknown>>): boolean {
  return when === undefined || when.is.some((value) => String(value) === String(settings[when.setting]));
}

/** What a setting has where nobody says. */
export function defaultsOf({ properties }: SettingsSchema): Readonly<Record<string, unknown>> {
  return Object.fromEntries(
    Object.entries(properties).map(([name, setting]) => [name, setting.default ?? (setting.type === 'string' ? '' : undefined)]),
  );
}

/** The words of a value where it is one of a few, else null. */
export function choiceWords(setting: Setting, value: unknown): string | null {
  if (!('oneOf' in setting) || !setting.oneOf) return null;
  return (setting.oneOf as readonly Choice<unknown>[]).find((choice) => String(choice.const) === String(value))?.title ?? null;
}

/** The names of settings that are secrets. */
export function secretsIn({ properties }: SettingsSchema): readonly string[] {
  return Object.entries(properties).flatMap(([name, setting]) => (setting.type === 'string' && setting.writeOnly ? [name] : []));
}
