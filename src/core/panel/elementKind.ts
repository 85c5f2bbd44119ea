/** What there is to say of one kind of element: its settings, the text that it shows, what it writes, what it needs of a tag. */
import { MOST_LEVEL } from './levels.ts';
import type { QualityLevel } from '../value/quality.ts';
import type { Action } from './actions.ts';
import type { Settings, ValuesOf } from './setting.ts';
import type { State } from './states.ts';
import * as setting from './setting.ts';

/** The part of a sample that an element draws, in the unit that it shows. */
export interface Shown {
  readonly text: string;
  readonly level: QualityLevel;
  /** As states are looked up: 1 and 0 of a state; null for a text, and where there is no value. */
  readonly number: number | null;
  readonly isState: boolean;
}

/** What an element may write of its tag; `free` is any value in its range. */
export type Writes = 'state' | 'states' | 'free' | 'hold' | null;
export type Takes = 'number' | 'state' | 'any' | 'none';

export interface ElementKindEntry<S extends Settings = Settings> {
  readonly name: string;
  readonly use: string;
  readonly w: number;
  readonly h: number;
  /** What it needs of its tag; `none` has no tag of its own. */
  readonly takes: Takes;
  readonly settings: S;
  /** How it stands on a phone where nobody says. */
  readonly phone: 'half' | 'full' | 'hidden';
  /** It shows the text of its value, so that a check can compare that. */
  readonly showsText: boolean;
  /** It says something without a tag too. */
  readonly standsAlone?: true;
  /** A finger has to meet it. */
  readonly isTouched: boolean;
  /** It writes the tags that it lists. */
  readonly writesListed?: true;
  readonly writes: (settings: ValuesOf<S>) => Writes;
  /** Steps that it does when it is pressed. */
  readonly actions?: (settings: ValuesOf<S>) => readonly Action[];
}

export const nothing = (): Writes => null;

export const SIZES = { small: 'small', normal: 'normal', large: 'large', huge: 'very large' } as const;
export const ALIGNS = { left: 'left', centre: 'in the middle', right: 'right' } as const;
export const TONES = {
  plain: 'text',
  quiet: 'quiet',
  primary: 'green',
  accent: 'amber',
  good: 'good',
  look: 'look at it',
  bad: 'bad',
  line: 'line',
  surface: 'surface',
  page: 'page',
} as const;
export type Tone = keyof typeof TONES;
export const FRAMES = { line: 'a line', none: 'none', filled: 'filled' } as const;

/** Settings that every kind has. */
export const COMMON = {
  visible: setting.condition('Visible while', 'Empty: always'),
  enabled: setting.condition('Enabled while', 'Empty: always'),
  blinking: setting.condition('Blinking while', 'Empty: never'),
  covered: setting.condition('Covered while', 'Empty: never. Its value is hidden behind a cover that says so'),
  level: setting.count('Operated from level', 0, MOST_LEVEL, 0, '0: by everybody'),
  hiddenBelow: setting.flag('Hidden below this level'),
} as const;

/** Settings of what shows one value. */
export const VALUE = {
  of: setting.expression('Instead of a tag', 'An expression whose value it shows'),
  unit: setting.unit(),
  decimals: setting.maybeCount('Decimals', 0, 12),
} as const;

export const LOOKING = {
  size: setting.choice('Text size', SIZES, 'normal'),
  align: setting.choice('Aligned', ALIGNS, 'left'),
  frame: setting.choice('Frame', FRAMES, 'line'),
} as const;

/** Settings of what shows states. */
export const STATES = { states: setting.states(), stateListId: setting.stateList() } as const;

/** The ends that it is drawn between. */
export const ENDS = { low: setting.liveNumber('From'), high: setting.liveNumber('To') } as const;

export type StatesOf = (settings: { readonly states?: readonly State[]; readonly stateListId?: string | null }) => readonly State[];
