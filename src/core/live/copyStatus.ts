/** How copy rules are doing. Times are the server's clock. */
export const COPY_STATES = ['off', 'unarmed', 'ready', 'copying', 'held-back'] as const;

export interface CopyStatus {
  readonly ruleId: string;
  /** `ready`: armed, and nothing is wrong. `held-back`: armed, and the last time something stood against it. */
  readonly state: (typeof COPY_STATES)[number];
  /** Who armed it; empty while it is not. */
  readonly armedBy: string;
  /** Copies that were sent since it was armed. */
  readonly count: number;
  /** When the last one was sent; null before. */
  readonly lastAt: number | null;
  /** What came of the last one, what stands against it, or why it is no longer armed. */
  readonly sentence: string;
}
