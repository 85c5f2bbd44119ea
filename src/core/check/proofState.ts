/** How far a tag is proven is derived: the digest of its signal path against the digests that were checked. */
import type { Outcome } from './proof.ts';

/** In the order in which they ask for somebody. */
export const PROOF_STATES = ['failed', 'changed', 'elsewhere', 'unproven', 'consistent', 'waived', 'proven'] as const;
export type ProofState = (typeof PROOF_STATES)[number];

export interface Checked {
  readonly digest: string;
  readonly outcome: Outcome;
  readonly witness: string;
  /** It was recorded in another installation, so perhaps at another machine of the same addresses. */
  readonly isElsewhere: boolean;
}

/**
 * @param checked  of each signal path that was ever checked for the tag, what counts of it
 * @param digest   of the signal path as it is now; null when its settings do not fit together
 */
export function proofState(checked: readonly Checked[], digest: string | null): ProofState {
  const current = checked.find((proof) => proof.digest === digest);
  if (current?.isElsewhere) return current.outcome === 'proven' ? 'elsewhere' : 'unproven';
  if (current) return current.outcome;
  return checked.some((proof) => proof.outcome === 'proven' && !proof.isElsewhere) ? 'changed' : 'unproven';
}

/**
 * Whether a newer record of the same signal path takes the place of one that counts. That wire and panel agree says nothing against what a
 * witness saw, and nothing for it.
 */
export function outweighs(newer: Checked, known: Checked | undefined): boolean {
  if (known === undefined) return true;
  // What was seen at this machine counts, whatever was seen at another one.
  if (newer.isElsewhere !== known.isElsewhere) return known.isElsewhere;
  // A panel that shows something else may be the one that is wrong: nobody has said yet that it is the mapping.
  if (newer.outcome === 'failed' && newer.witness === 'panel' && known.outcome === 'proven') return false;
  return newer.outcome !== 'consistent' || known.outcome === 'consistent' || (known.outcome === 'failed' && known.witness === newer.witness);
}
