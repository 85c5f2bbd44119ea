/** What a bench tells of a panel host, and of the difference between a panel here and what runs there. */
import type { Difference } from '../projectFile/projectFile.ts';
import type { Problem } from '../result.ts';
import type { HostState } from './messages.ts';

/** A panel host that this bench is paired with. */
export interface PairedHost {
  readonly id: string;
  readonly name: string;
  readonly address: string;
  readonly pairedAt: string;
  /** The panel that was sent last; null for none yet. */
  readonly panelId: string | null;
  readonly sentAt: string | null;
}

/** What sending a panel would do. */
export interface HostComparison {
  readonly state: HostState;
  /** How far its clock is ahead of ours, in milliseconds. */
  readonly clockAheadMs: number;
  /** Of what would be sent. */
  readonly digest: string;
  readonly bytes: number;
  readonly pages: number;
  readonly tags: number;
  readonly links: number;
  /** From what runs there to what is here; empty where they are the same, null where nothing that could be read runs there. */
  readonly differences: readonly Difference[] | null;
  /** Why what runs there could not be read; empty where it could, or nothing runs. */
  readonly unread: string;
  readonly isSame: boolean;
  /** Why it cannot be sent; null when it can. */
  readonly refusal: Problem | null;
  /** What the person should know before. */
  readonly notes: readonly string[];
}

/** While something is sent, and at the end. */
export type SendProgress =
  | { readonly kind: 'sent'; readonly bytes: number; readonly of: number }
  | { readonly kind: 'taking' }
  | { readonly kind: 'done'; readonly state: HostState }
  | { readonly kind: 'failed'; readonly problem: Problem };

/** A clock that is off by more makes times of alarms and writes misleading. */
export const CLOCK_OFF_MS = 30_000;
