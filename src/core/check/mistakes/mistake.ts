/** A plausible mistake between a controller and a panel: what was taken for what, and how likely it is. */

/**
 * In the order in which they stand on the signal path, which is the order in which two of them are combined.
 * `place`: a neighbouring register, a wrong counting base among them. `bit`: another bit of the register.
 */
export const MISTAKE_KINDS = ['place', 'width', 'type', 'order', 'bit', 'shift', 'scale', 'ten', 'unit', 'point'] as const;
export type MistakeKind = (typeof MISTAKE_KINDS)[number];

export interface Mistake {
  readonly kind: MistakeKind;
  /** What the mapping should be, or what the panel does: `words swapped`, `read as UINT`, `one register further on`. */
  readonly words: string;
  /** Likelier ones are lower; 1 is the likeliest. Orders of magnitude from practice, not measured. */
  readonly cost: number;
}

/** Of a second mistake at the same tag, beside its own cost. */
export const SECOND_MISTAKE_COST = 1;
