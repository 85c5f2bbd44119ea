/** Whether a tag is proven is derived: the digest of its signal path against the digests that were checked. */
export type ProofState = 'proven' | 'failed' | 'changed' | 'elsewhere' | 'unproven';

export interface Checked {
  readonly digest: string;
  readonly agrees: boolean;
  /** It was recorded in another installation, so perhaps at another machine of the same addresses. */
  readonly isElsewhere: boolean;
}

/**
 * @param checked  of each signal path that was ever checked for the tag, the newest outcome
 * @param digest   of the signal path as it is now; null when its settings do not fit together
 */
export function proofState(checked: readonly Checked[], digest: string | null): ProofState {
  const current = checked.find((proof) => proof.digest === digest);
  if (current?.isElsewhere) return current.agrees ? 'elsewhere' : 'unproven';
  if (current) return current.agrees ? 'proven' : 'failed';
  return checked.some((proof) => proof.agrees && !proof.isElsewhere) ? 'changed' : 'unproven';
}
