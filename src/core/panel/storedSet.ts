/** Values of several tags, stored under a name. They are of the machine, not of the project. */
import type { ValueJson } from '../value/engineering.ts';

export interface StoredValue {
  /** As the tag showed it, with the unit that it had. */
  readonly text: string;
  readonly unit: string;
  readonly value: ValueJson;
}

export interface StoredSet {
  readonly id: string;
  readonly name: string;
  /** ISO 8601. */
  readonly at: string;
  readonly by: string;
  /** By the tags of the element; of a page of many like things those of the first of them. */
  readonly values: Readonly<Record<string, StoredValue>>;
}

export const LONGEST_SET_NAME = 60;
export const MOST_SETS = 500;
export const SET_ACTS = ['store', 'load', 'remove'] as const;
export type SetAct = (typeof SET_ACTS)[number];

/** What became of a set that was written. */
export interface SetWritten {
  readonly done: number;
  readonly of: number;
  /** In words, of each that was not done. */
  readonly failed: readonly string[];
}
