/** What is shown for the states of a value: a text and a look each, never a colour alone. */
import type { SymbolName } from './symbols.ts';

/** How a state looks; each has a colour of the theme and a mark of its own. */
export const LOOKS = ['plain', 'off', 'on', 'look', 'bad'] as const;
export type Look = (typeof LOOKS)[number];
export const LOOK_WORDS: Readonly<Record<Look, string>> = {
  plain: 'no mark',
  off: 'off, empty ring',
  on: 'on, filled',
  look: 'look at it, half filled',
  bad: 'wrong, crossed',
};

export interface State {
  /** The value that it is, or the first of a range. */
  readonly at: number;
  /** The last value of a range; null for one value. */
  readonly to: number | null;
  readonly text: string;
  readonly look: Look;
  /** The symbol that is drawn then; null for that of the element. */
  readonly symbol: SymbolName | null;
  /** The picture that is shown then, where it is not that of the element. */
  readonly pictureId?: string | null;
}

export const MOST_STATES = 200;
export const LONGEST_STATE = 60;

/** Two states that are the same value's, null where there are none. */
export function overlap(states: readonly State[]): readonly [State, State] | null {
  const sorted = [...states].sort((a, b) => a.at - b.at);
  for (const [i, state] of sorted.entries()) {
    const next = sorted[i + 1];
    if (next && (state.to ?? state.at) >= next.at) return [state, next];
  }
  return null;
}

/** Whole values between the first and the last state that are none of them: a value there is shown as it is. */
export function gapsIn(states: readonly State[], most = 5): readonly number[] {
  const sorted = [...states].sort((a, b) => a.at - b.at);
  const gaps: number[] = [];
  for (const [i, state] of sorted.entries()) {
    const next = sorted[i + 1]?.at;
    for (let value = Math.floor(state.to ?? state.at) + 1; next !== undefined && value < next && gaps.length < most; value++) gaps.push(value);
  }
  return gaps;
}

/** The state that a value is in, null for one that is none of them. */
export function stateAt(states: readonly State[], value: number | null): State | null {
  return value === null ? null : (states.find(({ at, to }) => (to === null ? value === at : value >= at && value <= to)) ?? null);
}

/** The texts and looks that a state of on and off has. */
export function onOff(onText: string, offText: string): readonly State[] {
  const rest = { to: null, symbol: null };
  return [
    { at: 1, text: onText, look: 'on', ...rest },
    { at: 0, text: offText, look: 'off', ...rest },
  ];
}
