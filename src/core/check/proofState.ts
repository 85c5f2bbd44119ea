/** Whether a tag is proven is derived: the digest of its signal path against the digests that were checked. */
export type ProofState = 'proven' | 'failed' | 'changed' | 'unproven';

/**
 * @param checked  of each signal path that was ever checked for the tag, the newest outcome
 * @param digest   of the signal path as it is now; null when its settings do not fit together
 */
export function proofState(checked: readonly { readonly digest: string; readonly agrees: boolean }[], digest: string | null): ProofState {
  const current = checked.find((proof) => proof.digest === digest);
  if (current) return current.agrees ? 'proven' : 'failed';
  return checked.some((proof) => proof.agrees) ? 'changed' : 'unproven';
}
