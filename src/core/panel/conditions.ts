/** The conditions of an element, and what each means while it holds. */
import { isBound } from './bound.ts';
import { COMMON } from './elementKind.ts';
import type { Kinded } from './kinds.ts';

export type ConditionName = keyof typeof COMMON;

export interface Condition {
  readonly name: ConditionName;
  readonly expression: string;
  /** What it has to be for the element to be as it is without a condition. */
  readonly wanted: boolean;
}

export function conditionsOf({ settings }: Pick<Kinded, 'settings'>): readonly Condition[] {
  return (Object.keys(COMMON) as ConditionName[]).flatMap((name) => {
    const bound = settings[name];
    return isBound(bound) && bound.by.trim() !== '' ? [{ name, expression: bound.by, wanted: name === 'visible' || name === 'enabled' }] : [];
  });
}
