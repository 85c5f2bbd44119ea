/** What a check tells, and what is kept of it as a proof. */
import type { ValueJson } from '../value/engineering.ts';
import type { Suggestion } from './explain.ts';

export interface Proof {
  readonly tagId: string;
  /** Digest of the signal path that was checked. */
  readonly digest: string;
  readonly agrees: boolean;
  /** Who or what saw the value without our mapping. */
  readonly witness: string;
  readonly who: string;
  readonly at: string;
  /** The installation of Mill Latch in which it was recorded. */
  readonly madeIn: string;
  /** It was imported from another installation: nobody has seen the value of this machine. */
  readonly isElsewhere: boolean;
  /** What was compared. */
  readonly seen: { readonly sentence: string; readonly value: ValueJson; readonly witness: ValueJson };
}

/** Chains a record of a proof to the one before it, and tells in which data folder it was made. */
export interface Seal {
  /** Hash of the record before it, hexadecimal. */
  readonly after: string;
  /** Signature of the record and of what it comes after, Base64. */
  readonly signature: string;
}

/** A proof as a project file has it; its seal decides whether it was made here. Files of earlier versions have none. */
export type FiledProof = Omit<Proof, 'isElsewhere'> & { readonly seal: Seal | null };

export interface PageCheck {
  readonly elementId: string;
  readonly pageName: string;
  readonly label: string;
  readonly drawn: string;
  readonly expected: string | null;
  readonly sample: number;
  readonly verdict: 'consistent' | 'differs' | 'hidden' | 'sample-gone';
}

export interface CheckResult {
  readonly tagId: string;
  readonly quality: string;
  readonly text: string;
  readonly pages: readonly PageCheck[];
  /** Whether every visible page drew what the sample says; null when no page shows the tag. */
  readonly consistent: boolean | null;
  readonly proof: Proof | null;
  /** The value proves too little: agreement that is no proof, or a factor that one value cannot tell. Why. */
  readonly tooLittle: string | null;
  /** Single changes of a setting that would make the value the witness's. */
  readonly suggestions: readonly Suggestion[];
}
