import type { SignatureEvidence } from '../signature/recognise.ts';

/** What a block of known values showed of a device. */
export interface SignatureReading {
  /** Where it was found, in words. */
  readonly place: string;
  readonly evidence: readonly SignatureEvidence[];
  /** Settings of the dialect that follow; those that are not here are not known from it. */
  readonly settings: Readonly<Record<string, unknown>>;
}
