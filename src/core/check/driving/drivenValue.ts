/** A value that was set at a controller from here, and is to be taken back: once for a check, or written again and again. */
import type { ValueJson } from '../../value/engineering.ts';

/** As it is noted on the disk before it is written. */
export interface DrivenEntry {
  readonly id: string;
  readonly tagId: string;
  readonly tagName: string;
  readonly deviceId: string;
  readonly deviceName: string;
  /** Of the signal path: it is taken back only where it was set. */
  readonly digest: string;
  /** Where that is, in words. */
  readonly place: string;
  /** Whose permission it is written by: a check's, or that of people at the bench. */
  readonly writer: 'check' | 'engineer';
  /** Whether it may move something: the machine has to be declared isolated as long as it is set. */
  readonly moves: boolean;
  readonly who: string;
  /** ISO time. */
  readonly at: string;
  /** How often it is written again, in ms; null for once. */
  readonly everyMs: number | null;
  /** The run of checks that it was set in. */
  readonly runId: string | null;
  /** The raw value that the controller held before, and as it was shown. */
  readonly old: ValueJson;
  readonly oldText: string;
  /** The raw values that it may hold since, the newest last: where writing one was cut off, the one before is still there. */
  readonly ours: readonly ValueJson[];
  readonly ourText: string;
}

/** As everybody is told of it. */
export interface DrivenValue extends Pick<
  DrivenEntry,
  'id' | 'tagId' | 'tagName' | 'deviceName' | 'place' | 'who' | 'at' | 'everyMs' | 'runId' | 'oldText' | 'ourText'
> {
  /** When it is taken back by itself, by the server's clock; null for one that nobody keeps. */
  readonly until: number | null;
  /** Why nobody keeps it, though it may still be there: a person has to decide. Null while it is kept. */
  readonly left: string | null;
}

/** Somebody answers for it that nothing can move or heat, whatever is set. */
export interface Isolation {
  readonly deviceId: string;
  readonly who: string;
  /** By the server's clock. */
  readonly until: number;
}

export const LONGEST_ISOLATION_MINUTES = 60;
/** Periods at which a held value may be written again. */
export const SHORTEST_HOLD_MS = 200;
export const LONGEST_HOLD_MS = 60_000;
export const USUAL_HOLD_MS = 1000;
