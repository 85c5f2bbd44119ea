/** What is recorded of a check beside its proofs, step by step. */
import type { Outcome } from './proof.ts';

export interface TrailStep {
  readonly runId: string | null;
  readonly tagId: string | null;
  readonly who: string;
  readonly at: string;
  readonly what: StepContent;
}

export type StepContent =
  /** A run was begun, gone on with after the server had ended, or ended. */
  | { readonly step: 'begun' | 'resumed' | 'ended'; readonly words: string }
  /** A witness was asked: what it said, and what came of it. */
  | { readonly step: 'looked'; readonly seen: string; readonly outcome: Outcome; readonly sentence: string }
  /** It was not looked at now, or will not be: why. */
  | { readonly step: 'skipped' | 'waived'; readonly words: string }
  /** Something that a person wrote about a tag, and the digest of a picture of it where there is one. */
  | { readonly step: 'note'; readonly words: string; readonly picture: string | null }
  /** Whose fault a difference is taken to be, and what explains it. */
  | { readonly step: 'finding'; readonly side: 'mapping' | 'panel' | 'unknown'; readonly words: string }
  /** The mapping was changed, to which an explanation led. */
  | { readonly step: 'cured'; readonly words: string }
  /** A value was set for the check, put back, or left as it was. */
  | { readonly step: 'driven' | 'restored' | 'left'; readonly words: string };

/** Steps that a person takes in a run by saying so. */
export const SAID_STEPS = ['skipped', 'waived', 'note', 'finding', 'cured'] as const;
