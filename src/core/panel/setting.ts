/** Settings of elements: what may stand in one, what it is where nobody says, and how a form asks for it. */
import { array, boolean, number, object, string, type ISchema } from 'yup';
import { words } from '../project/kinds/fieldSchemas.ts';
import { actionsSchema, type Action } from './actions.ts';
import { boundSchema, liveSchema, type Bound, type Live } from './bound.ts';
import { statesSchema, type State } from './states.ts';
import { SYMBOLS, type SymbolName } from './symbols.ts';

/** How a form asks for a setting. */
export type Control =
  | { readonly kind: 'text'; readonly max: number }
  | { readonly kind: 'template' }
  | { readonly kind: 'number'; readonly min: number; readonly max: number }
  | { readonly kind: 'live' }
  | { readonly kind: 'choice'; readonly choices: Readonly<Record<string, string>> }
  | { readonly kind: 'flag' }
  | { readonly kind: 'condition' }
  | { readonly kind: 'expression' }
  | { readonly kind: 'states' }
  | { readonly kind: 'stateList' }
  | { readonly kind: 'actions' }
  | { readonly kind: 'unit' }
  | { readonly kind: 'symbol' }
  | { readonly kind: 'picture' }
  | { readonly kind: 'points' }
  | { readonly kind: 'tags' };

export interface Setting<T> {
  readonly label: string;
  readonly help?: string;
  readonly control: Control;
  readonly schema: ISchema<unknown>;
  /** What it is where nobody says. */
  readonly unsaid: T;
}

export type Settings = Readonly<Record<string, Setting<unknown>>>;
export type ValuesOf<S extends Settings> = { readonly [K in keyof S]: S[K] extends Setting<infer T> ? T : never };

const help = (text: string | undefined): { readonly help?: string } => (text === undefined ? {} : { help: text });

export const text = (label: string, max: number, unsaid = ''): Setting<string> => ({
  label,
  control: { kind: 'text', max },
  schema: words(label, max).defined(),
  unsaid,
});

/** A text with places for values. */
export const template = (label: string): Setting<string> => ({
  label,
  help: 'Values stand in braces: {bed_temp}',
  control: { kind: 'template' },
  schema: string().max(2000, `${label} has at most 2000 characters.`).defined(),
  unsaid: '',
});

export const count = (label: string, min: number, max: number, unsaid: number, more?: string): Setting<number> => ({
  label,
  ...help(more),
  control: { kind: 'number', min, max },
  schema: number().integer(`${label} is a whole number.`).min(min, `${label} is at least ${min}.`).max(max, `${label} is at most ${max}.`).defined(),
  unsaid,
});

/** A whole number, or none: what the tag says. */
export const maybeCount = (label: string, min: number, max: number): Setting<number | null> => ({
  label,
  help: 'Empty: as the tag says',
  control: { kind: 'number', min, max },
  schema: number()
    .integer(`${label} is a whole number.`)
    .min(min, `${label} is at least ${min}.`)
    .max(max, `${label} is at most ${max}.`)
    .nullable()
    .defined(),
  unsaid: null,
});

/** A number, or an expression that gives one; null for what the tag says. */
export const liveNumber = (label: string, more = 'Empty: as the tag says'): Setting<Live<number> | null> => ({
  label,
  help: more,
  control: { kind: 'live' },
  schema: liveSchema(
    number()
      .test('finite', `${label} is a number.`, (value) => value === undefined || value === null || Number.isFinite(value))
      .nullable()
      .defined(),
  ),
  unsaid: null,
});

export const choice = <K extends string>(label: string, choices: Readonly<Record<K, string>>, unsaid: NoInfer<K>): Setting<K> => ({
  label,
  control: { kind: 'choice', choices },
  schema: string()
    .oneOf(Object.keys(choices), `${label} is one of ${Object.keys(choices).join(', ')}.`)
    .defined(),
  unsaid,
});

export const flag = (label: string, unsaid = false): Setting<boolean> => ({
  label,
  control: { kind: 'flag' },
  schema: boolean().defined(),
  unsaid,
});

/** Holds or not; null for always what is unsaid. */
export const condition = (label: string, more: string): Setting<Bound | null> => ({
  label,
  help: more,
  control: { kind: 'condition' },
  schema: boundSchema(),
  unsaid: null,
});

export const expression = (label: string, more: string): Setting<Bound | null> => ({
  label,
  help: more,
  control: { kind: 'expression' },
  schema: boundSchema(),
  unsaid: null,
});

export const states = (): Setting<readonly State[]> => ({
  label: 'States',
  control: { kind: 'states' },
  schema: statesSchema(),
  unsaid: [],
});
export const stateList = (): Setting<string | null> => ({
  label: 'State list',
  control: { kind: 'stateList' },
  schema: string().max(36).nullable().defined(),
  unsaid: null,
});

export const actions = (): Setting<readonly Action[]> => ({
  label: 'Does',
  control: { kind: 'actions' },
  schema: actionsSchema(),
  unsaid: [],
});

export const unit = (): Setting<string> => ({
  label: 'Shown in',
  control: { kind: 'unit' },
  schema: words('The unit', 20).defined(),
  unsaid: '',
});

export const symbol = (unsaid: SymbolName): Setting<SymbolName> => ({
  label: 'Symbol',
  control: { kind: 'symbol' },
  schema: string().oneOf(Object.keys(SYMBOLS), 'There is no such symbol.').defined(),
  unsaid,
});

/** A picture of the project; null for none. */
export const picture = (label: string): Setting<string | null> => ({
  label,
  control: { kind: 'picture' },
  schema: string().max(36).nullable().defined(),
  unsaid: null,
});

/** A place in an element, in thousandths of its width and height. */
export interface Point {
  readonly x: number;
  readonly y: number;
}
export const MOST_POINTS = 60;

export const points = (unsaid: readonly Point[]): Setting<readonly Point[]> => {
  const part = number().integer('A corner lies at whole thousandths.').min(0).max(1000).defined();
  return {
    label: 'Corners',
    help: 'In thousandths of its width and height',
    control: { kind: 'points' },
    schema: array()
      .of(object({ x: part, y: part }).noUnknown(true, 'A corner has x and y.'))
      .min(2, 'A line has two corners at least.')
      .max(MOST_POINTS, `A line has at most ${MOST_POINTS} corners.`)
      .defined(),
    unsaid,
  };
};

export const MOST_TAGS = 400;

/** Tags that an element shows beside its own. */
export const tags = (label: string): Setting<readonly string[]> => ({
  label,
  control: { kind: 'tags' },
  schema: array().of(string().max(36).defined()).max(MOST_TAGS, `At most ${MOST_TAGS} tags.`).defined(),
  unsaid: [],
});

const known = new WeakMap<Settings, WeakMap<object, object>>();

/** The settings with what nobody said filled in; worked out once, since what is drawn asks again and again. */
export function filled<S extends Settings>(of: S, said: Readonly<Record<string, unknown>>): ValuesOf<S> {
  const those = known.get(of) ?? new WeakMap<object, object>();
  known.set(of, those);
  const found = those.get(said);
  if (found) return found as ValuesOf<S>;
  const values = Object.fromEntries(Object.entries(of).map(([name, { unsaid }]) => [name, said[name] ?? unsaid])) as ValuesOf<S>;
  those.set(said, values);
  return values;
}
