/** What is kept of a check, and what a check tells. */
import type { ValueJson } from '../value/engineering.ts';
import type { PathPart } from './digest.ts';
import type { ToldExplanation } from './explained.ts';

/**
 * `proven`: a witness that does not use our mapping saw the same. `consistent`: wire and panel agree, which both used it. `failed`: somebody saw
 * something else. `waived`: a person has said why it is not looked at.
 */
export const OUTCOMES = ['proven', 'consistent', 'failed', 'waived'] as const;
export type Outcome = (typeof OUTCOMES)[number];

/** Who or what saw the value. All but the last two saw it without any panel: only they prove something. */
export const WITNESSES = {
  display: 'the controller’s own display',
  tool: 'the programming tool',
  gauge: 'a gauge or calibrator',
  channel: 'a control channel',
  panel: 'another panel',
  page: 'a page of ours',
} as const;
export type WitnessKind = keyof typeof WITNESSES;
/** Whether agreement with it proves the mapping. A panel has been mapped by somebody else, and a page of ours by us. */
export function provesMapping(witness: WitnessKind): boolean {
  return witness !== 'panel' && witness !== 'page';
}
export const WITNESS_KINDS = Object.keys(WITNESSES) as readonly WitnessKind[];

/** How the value came to be: it was there, it was set at the controller, or it was fed in at the sensor. */
export const HOWS = { observed: 'as it was', driven: 'set at the controller', injected: 'fed in at the sensor' } as const;
export type How = keyof typeof HOWS;

export interface Proof {
  readonly tagId: string;
  /** Digest of the signal path that was checked. */
  readonly digest: string;
  readonly outcome: Outcome;
  /** A {@link WitnessKind}, or in words where it was recorded before there were any. */
  readonly witness: string;
  readonly who: string;
  readonly at: string;
  /** The installation of Mill Latch in which it was recorded. */
  readonly madeIn: string;
  /** It was imported from another installation: nobody has seen the value of this machine. */
  readonly isElsewhere: boolean;
  /** What was compared. */
  readonly seen: { readonly sentence: string; readonly value: ValueJson; readonly witness: ValueJson };
  /** Null for what was recorded before there was more. */
  readonly more: ProofDetails | null;
}

export interface ProofDetails {
  readonly how: How;
  /** The signal path in its parts, to tell later what has changed. */
  readonly path: readonly PathPart[];
  /** Mistakes that would have shown the same, in words: the value says nothing against them. */
  readonly open: readonly string[];
  /** Why it was waived, or what was noted; empty for nothing. */
  readonly note: string;
  /** The run in which it was checked; null for one by itself. */
  readonly runId: string | null;
}

/** Chains a record to the one before it, and tells in which data folder it was made. */
export interface Seal {
  /** Hash of the record before it, hexadecimal. */
  readonly after: string;
  /** Signature of the record and of what it comes after, Base64. */
  readonly signature: string;
}

/** A proof as a project file has it; its seal decides whether it was made here. Files of earlier versions have none. */
export type FiledProof = Omit<Proof, 'isElsewhere'> & { readonly seal: Seal | null };

/** What came of a check, for the audit trail. */
export function outcomeInWords(proof: Proof | null): string {
  return proof === null ? 'no proof' : proof.outcome === 'failed' ? 'they differ' : 'they agree';
}

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
  /** Agreement that is no proof: why the value proves too little. */
  readonly tooLittle: string | null;
  /** What explains that the witness saw something else, simplest first. */
  readonly explanations: readonly ToldExplanation[];
  /** What to look at next to decide; null where nothing would. */
  readonly next: string | null;
  /** The mapping and the witness differ, and no plausible mistake explains it. */
  readonly isUnexplained: boolean;
}
