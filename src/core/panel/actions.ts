/** What a button does, step by step. */

export const ACTS = ['toggle', 'set', 'reset', 'write', 'add', 'hold', 'page', 'subject', 'language', 'back', 'next', 'previous'] as const;
export type Act = (typeof ACTS)[number];
export const ACT_WORDS: Readonly<Record<Act, string>> = {
  toggle: 'toggle',
  set: 'set to on',
  reset: 'set to off',
  write: 'write a value',
  add: 'add to the value',
  hold: 'on while held',
  page: 'go to a page',
  subject: 'show a subject',
  language: 'speak a language',
  back: 'go back',
  next: 'go to the next page',
  previous: 'go to the page before',
};

export interface Action {
  readonly act: Act;
  /** The tag that it writes; null for that of the element. */
  readonly tagId: string | null;
  /** What it writes or adds, in the tag's own unit; the number of the subject that it shows, or of the language. */
  readonly value: string;
  /** Where it leads. */
  readonly pageId: string | null;
}

export const MOST_ACTIONS = 20;
const WRITING: ReadonlySet<Act> = new Set<Act>(['toggle', 'set', 'reset', 'write', 'add', 'hold']);

export const isWriting = ({ act }: Action): boolean => WRITING.has(act);

export function newAction(act: Act, more: Partial<Action> = {}): Action {
  return { act, tagId: null, value: '', pageId: null, ...more };
}
