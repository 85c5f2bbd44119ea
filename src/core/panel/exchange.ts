/** What a panel and a controller say to each other: which page is wanted and shown, which keys are pressed, what time it is. */
import { fail, ok, type Result } from '../result.ts';
import type { SignalDefinition } from '../signal.ts';

/** What a word is for. */
export const WORD_ROLES = [
  'wanted',
  'request',
  'result',
  'answer',
  'page',
  'key',
  'language',
  'languageShown',
  'level',
  'life',
  'clockFrom',
  'clockAsk',
  'clock',
] as const;
export type WordRole = (typeof WORD_ROLES)[number];

export interface RoleRule {
  readonly label: string;
  readonly use: string;
  /** Who writes it. */
  readonly by: 'controller' | 'panel';
  readonly takes: 'number' | 'bit' | 'time';
}

export const ROLES: Readonly<Record<WordRole, RoleRule>> = {
  wanted: { label: 'Page wanted', use: 'the number of the page that the controller wants to be shown', by: 'controller', takes: 'number' },
  request: {
    label: 'Request',
    use: 'another number with each command; without it each change of the page wanted is one',
    by: 'controller',
    takes: 'number',
  },
  result: { label: 'Result', use: 'what became of the last command', by: 'panel', takes: 'number' },
  answer: { label: 'Answer', use: 'the request that the result is of; without one the page that was wanted', by: 'panel', takes: 'number' },
  page: { label: 'Page shown', use: 'the number of the page that is shown, at each change', by: 'panel', takes: 'number' },
  key: { label: 'Key', use: 'a bit that is on while a button is pressed', by: 'panel', takes: 'bit' },
  language: {
    label: 'Language',
    use: 'the number of the language that screens speak from each change of it on',
    by: 'controller',
    takes: 'number',
  },
  languageShown: { label: 'Language shown', use: 'the number of the language that the screen speaks', by: 'panel', takes: 'number' },
  level: { label: 'Level', use: 'that of who is signed in at the screen; 0 for nobody', by: 'panel', takes: 'number' },
  life: { label: 'Life counter', use: 'counts on every second as long as a screen shows the panel', by: 'panel', takes: 'number' },
  clockFrom: { label: 'Controller clock', use: 'the time that clocks of this panel show', by: 'controller', takes: 'time' },
  clockAsk: { label: 'Time asked for', use: 'a bit: when it turns on, the time is written', by: 'controller', takes: 'bit' },
  clock: { label: 'Time', use: 'the time of this computer, when it is asked for or once a day', by: 'panel', takes: 'time' },
};

/** Roles that a panel has at most once. */
export const isOnce = (role: WordRole): boolean => role !== 'key';

/** What becomes of a command, as its result word tells. */
export const COMMAND_RESULTS = { done: 1, noPage: 2, person: 3, noScreen: 4, notDrawn: 5, level: 6 } as const;
export type CommandResult = keyof typeof COMMAND_RESULTS;
export const RESULT_WORDS: Readonly<Record<CommandResult, string>> = {
  done: 'the page is shown',
  noPage: 'no page has this number',
  person: 'a person is at the panel',
  noScreen: 'no screen shows the panel',
  notDrawn: 'the screen did not draw it in time',
  level: 'nobody with the level of the page is signed in',
};

/** Who prevails where a person and the controller want different pages. */
export const WHEN_BOTH = ['latest', 'controller', 'person'] as const;
export type WhenBoth = (typeof WHEN_BOTH)[number];

/** Whose page several screens of one panel show. */
export const SCREENS = ['apart', 'together', 'leader'] as const;
export type Screens = (typeof SCREENS)[number];

export interface Exchange {
  /** Added to what the controller says: with 10, its 0, 1, 2 are the pages 10, 11, 12. */
  readonly offset: number;
  /** What the controller says while it wants no page; null where every number is a page. */
  readonly noWish: number | null;
  readonly whenBoth: WhenBoth;
  /** How long after a person's last touch the controller waits, where a person prevails. */
  readonly personSeconds: number;
  /** The minute of the day at which the time is written; null for never. */
  readonly clockDaily: number | null;
}
export const NO_EXCHANGE: Exchange = { offset: 0, noWish: null, whenBoth: 'latest', personSeconds: 60, clockDaily: null };

interface Numbered {
  readonly id: string;
  readonly number: number | null;
}

/** The number of each page: its own, or its place counted from 1. Of two pages with one number the first has it. */
export function pageNumbers(pages: readonly Numbered[]): ReadonlyMap<string, number> {
  return new Map(pages.map(({ id, number }, at) => [id, number ?? at + 1]));
}

/** @param said as the controller says it. @returns null where no page has the number */
export function pageFor(pages: readonly Numbered[], { offset }: Pick<Exchange, 'offset'>, said: number): string | null {
  for (const [id, number] of pageNumbers(pages)) if (number === said + offset) return id;
  return null;
}

/** As the controller is told it; null for a page that is gone. */
export function saidOf(pages: readonly Numbered[], { offset }: Pick<Exchange, 'offset'>, pageId: string): number | null {
  const number = pageNumbers(pages).get(pageId);
  return number === undefined ? null : number - offset;
}

/** Whether a tag can be the word: a whole number, a bit, or a time with its date, and written where the panel writes it. */
export function wordTag(role: WordRole, def: SignalDefinition | null, canWrite: boolean): Result<SignalDefinition> {
  const { label, takes, by } = ROLES[role];
  if (def === null) return fail('word', `${label}: the settings of its tag do not fit together.`, 'Look at the tag in Map.', 'tagId');
  const { type } = def;
  const fits =
    takes === 'bit' ? type.kind === 'boolean' : type.kind === 'integer' && (takes === 'time' ? type.time?.shows === 'dateTime' : type.time === null);
  if (!fits) {
    const wanted = takes === 'bit' ? 'a BOOL' : takes === 'time' ? 'a date with a time' : 'a whole number';
    return fail('word', `${label} is ${wanted}; its tag is ${type.name}.`, 'Choose another tag.', 'tagId');
  }
  if (takes === 'number' && def.scale.kind !== 'none')
    return fail('word', `${label} is a number as it stands; its tag has a scale.`, 'Take the scale away, or choose another tag.', 'tagId');
  if (by === 'panel' && !canWrite)
    return fail('word', `${label} is written by the panel; its tag is not written.`, 'Set its access in Map.', 'tagId');
  return ok(def);
}
