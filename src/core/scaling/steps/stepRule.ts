/** What is known of one kind of step, whatever its settings are. */
import type { Result } from '../../result.ts';
import type { Line } from '../line.ts';

export interface StepRule<S> {
  readonly title: string;
  /** In words and signs, for the help. */
  readonly formula: string;
  /** Where it comes from. */
  readonly source: string;
  /** Refuses settings that make no function, with the field as the place. */
  check(step: S): Result<S>;
  /** One short phrase. */
  inWords(step: S): string;
  /** The formula with the numbers at hand. @param x what comes in, as it is written */
  worked(step: S, x: string): string;
  /** The unit that it gives, where that is always the same or said by the step. */
  gives?(step: S): string;
  /** Where it is a straight line: exact, and one with the lines beside it. */
  line?(step: S): Line;
  /** Any other function. */
  curve?(step: S): Curve;
}

export interface Curve {
  /** NaN where it has no value. */
  readonly forward: (x: number) => number;
  /** The inverse, NaN where there is none; null for a curve that has none anywhere. */
  readonly back: ((y: number) => number) | null;
  /** `chosen`: of several, one was chosen. */
  readonly inverse: 'unique' | 'chosen' | 'none';
  /** It gives what its definition says to the last digit, or as near as its numbers are known. */
  readonly exactness: 'exact' | 'approximate';
  /** Why there is no value, or no way back. */
  readonly limits: string;
  /** What the signal itself says of its health by the value that comes in; null where it is well. */
  readonly health?: (x: number) => SignalHealth | null;
  /** Where that changes. */
  readonly marks?: readonly HealthMark[];
}

/** A value at which the signal begins to tell something of its health. */
export interface HealthMark {
  readonly x: number;
  readonly what: string;
  readonly isFault: boolean;
}

export interface SignalHealth {
  readonly reason: 'broken-wire' | 'short-circuit' | 'under-range' | 'over-range';
  readonly why: string;
}
