/** Every kind of element, each one entry. Drawings are in `ui/panels/drawings`, one for each of these. */
import type { ElementKindEntry, Writes } from './elementKind.ts';
import { alarmBar, alarms } from './kinds/alarms.ts';
import { bar } from './kinds/bar.ts';
import { button } from './kinds/button.ts';
import { choiceKind } from './kinds/choice.ts';
import { clock } from './kinds/clock.ts';
import { dial } from './kinds/dial.ts';
import { entry } from './kinds/entry.ts';
import { frame } from './kinds/frame.ts';
import { lamp } from './kinds/lamp.ts';
import { line } from './kinds/line.ts';
import { pick } from './kinds/pick.ts';
import { picture } from './kinds/picture.ts';
import { pipe } from './kinds/pipe.ts';
import { sets } from './kinds/sets.ts';
import { shape } from './kinds/shape.ts';
import { slider } from './kinds/slider.ts';
import { subject } from './kinds/subject.ts';
import { switchKind } from './kinds/switch.ts';
import { symbol } from './kinds/symbol.ts';
import { table } from './kinds/table.ts';
import { text } from './kinds/text.ts';
import { trend } from './kinds/trend.ts';
import { value } from './kinds/value.ts';
import type { Action } from './actions.ts';
import { filled, type Settings, type ValuesOf } from './setting.ts';

/** In the order in which they are offered. */
const WRITTEN = {
  value,
  text,
  bar,
  dial,
  lamp,
  symbol,
  picture,
  button,
  switch: switchKind,
  choice: choiceKind,
  slider,
  entry,
  pick,
  sets,
  subject,
  alarms,
  alarmBar,
  trend,
  table,
  clock,
  shape,
  line,
  pipe,
  frame,
} as const;

export type ElementKind = keyof typeof WRITTEN;
/** The settings of a kind, filled in. */
export type SettingsOf<K extends ElementKind> = ValuesOf<(typeof WRITTEN)[K]['settings']>;
/** The settings of an element as they are kept: only what is said. */
export type ElementSettings = Readonly<Record<string, unknown>>;

export const ELEMENTS = WRITTEN as unknown as Readonly<Record<ElementKind, ElementKindEntry>>;
export const ELEMENT_KINDS = Object.keys(WRITTEN) as readonly ElementKind[];

/** An element's kind and settings, as its functions need them. */
export interface Kinded {
  readonly kind: ElementKind;
  readonly settings: ElementSettings;
}

/** The settings of an element of a kind that is known, filled in. */
export function settingsOf<K extends ElementKind>(kind: K, { settings }: { readonly settings: ElementSettings }): SettingsOf<K> {
  return filled(WRITTEN[kind].settings as Settings, settings) as SettingsOf<K>;
}

export function writesOf({ kind, settings }: Kinded): Writes {
  return ELEMENTS[kind].writes(filled(ELEMENTS[kind].settings, settings));
}

export function actionsOf({ kind, settings }: Kinded): readonly Action[] {
  return ELEMENTS[kind].actions?.(filled(ELEMENTS[kind].settings, settings)) ?? [];
}
