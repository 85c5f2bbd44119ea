'use client';
/** The state that an element's value is in. */
import { elementText, statesOf } from '@/core/panel/elementText.ts';
import { stateAt, type Look, type State } from '@/core/panel/states.ts';
import type { Element } from '@/core/project/entities.ts';
import { useStage } from '../SceneContext.tsx';
import type { Drawn } from '../useValues.ts';

export interface InState {
  readonly states: readonly State[];
  /** Null where its value is none of them. */
  readonly state: State | null;
  /** Null where there is no value. */
  readonly look: Look | null;
  readonly text: string;
}

export function useInState(element: Element, drawn: Drawn): InState {
  const { texts } = useStage();
  const states = statesOf(element, texts);
  const number = drawn.level === 'bad' ? null : (drawn.shown?.number ?? null);
  const state = stateAt(states, number);
  return { states, state, look: state?.look ?? lookOf(number, drawn.shown?.isState ?? false), text: elementText(element, drawn.shown, texts) };
}

/** What is no state of a list is shown plainly; on and off look like it. */
function lookOf(number: number | null, isState: boolean): Look | null {
  return number === null ? null : isState ? (number === 0 ? 'off' : 'on') : 'plain';
}
