/** Settings of elements: how a form asks for one, and what it is where nobody says. What may stand in it follows: see `settingSchemas.ts`. */
import type { Action } from './actions.ts';
import type { Bound, Live } from './bound.ts';
import type { State } from './states.ts';
import type { SymbolName } from './symbols.ts';

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
  /** What it is where nobody says; one that is null there may be null. */
  readonly unsaid: T;
}

export type Settings = Readonly<Record<string, Setting<unknown>>>;
export type ValuesOf<S extends Settings> = { readonly [K in keyof S]: S[K] extends Setting<infer T> ? T : never };

const help = (text: string | undefined): { readonly help?: string } => (text === undefined ? {} : { help: text });

export const text = (label: string, max: number, unsaid = ''): Setting<string> => ({
  label,
  control: { kind: 'text', max },
  unsaid,
});

/** A text with places for values. */
export const template = (label: string): Setting<string> => ({
  label,
  help: 'Values stand in braces: {bed_temp}',
  control: { kind: 'template' },
  unsaid: '',
});

export const count = (label: string, min: number, max: number, unsaid: number, more?: string): Setting<number> => ({
  label,
  ...help(more),
  control: { kind: 'number', min, max },
  unsaid,
});

/** A whole number, or none: what the tag says. */
export const maybeCount = (label: string, min: number, max: number): Setting<number | null> => ({
  label,
  help: 'Empty: as the tag says',
  control: { kind: 'number', min, max },
  unsaid: null,
});

/** A number, or an expression that gives one; null for what the tag says. */
export const liveNumber = (label: string, more = 'Empty: as the tag says'): Setting<Live<number> | null> => ({
  label,
  help: more,
  control: { kind: 'live' },
  unsaid: null,
});

export const choice = <K extends string>(label: string, choices: Readonly<Record<K, string>>, unsaid: NoInfer<K>): Setting<K> => ({
  label,
  control: { kind: 'choice', choices },
  unsaid,
});

export const flag = (label: string, unsaid = false): Setting<boolean> => ({
  label,
  control: { kind: 'flag' },
  unsaid,
});

/** Holds or not; null for always what is unsaid. */
export const condition = (label: string, more: string): Setting<Bound | null> => ({
  label,
  help: more,
  control: { kind: 'condition' },
  unsaid: null,
});

export const expression = (label: string, more: string): Setting<Bound | null> => ({
  label,
  help: more,
  control: { kind: 'expression' },
  unsaid: null,
});

export const states = (): Setting<readonly State[]> => ({
  label: 'States',
  control: { kind: 'states' },
  unsaid: [],
});
export const stateList = (): Setting<string | null> => ({
  label: 'State list',
  control: { kind: 'stateList' },
  unsaid: null,
});

export const actions = (): Setting<readonly Action[]> => ({
  label: 'Does',
  control: { kind: 'actions' },
  unsaid: [],
});

export const unit = (): Setting<string> => ({
  label: 'Shown in',
  control: { kind: 'unit' },
  unsaid: '',
});

export const symbol = (unsaid: SymbolName): Setting<SymbolName> => ({
  label: 'Symbol',
  control: { kind: 'symbol' },
  unsaid,
});

/** A picture of the project; null for none. */
export const picture = (label: string): Setting<string | null> => ({
  label,
  control: { kind: 'picture' },
  unsaid: null,
});

/** A place in an element, in thousandths of its width and height. */
export interface Point {
  readonly x: number;
  readonly y: number;
}
export const MOST_POINTS = 60;

export const points = (unsaid: readonly Point[]): Setting<readonly Point[]> => {
  return {
    label: 'Corners',
    help: 'In thousandths of its width and height',
    control: { kind: 'points' },
    unsaid,
  };
};

export const MOST_TAGS = 400;

/** Tags that an element shows beside its own. */
export const tags = (label: string): Setting<readonly string[]> => ({
  label,
  control: { kind: 'tags' },
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
