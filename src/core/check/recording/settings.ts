/** What is recorded, and how much of it is kept. */
export interface RecorderSettings {
  readonly deviceIds: readonly string[];
  readonly hours: number;
  readonly megabytes: number;
}

export const DEFAULT_RECORDER: RecorderSettings = { deviceIds: [], hours: 8, megabytes: 500 };
export const MOST_HOURS = 24 * 14;
export const MOST_MEGABYTES = 20_000;
/** Tags that are looked at together, and values of one. */
export const MOST_PAST_TAGS = 5000;
export const MOST_PAST_VALUES = 2000;

export interface RecorderState {
  readonly settings: RecorderSettings;
  /** Tags that are recorded now. */
  readonly tags: number;
  /** Clock time of the oldest that is kept; null before there is any. */
  readonly from: number | null;
  readonly bytes: number;
  /** Why nothing more is kept; empty while all is well. */
  readonly problem: string;
}

/** A tag at a moment of the past. */
export interface PastValue {
  readonly tagId: string;
  /** When it had come. */
  readonly at: number;
  /** Bytes in hexadecimal; empty where there was no value. */
  readonly raw: string;
  /** As the mapping of that time showed it. */
  readonly shown: string;
  /** As the mapping of now would show it. */
  readonly byNow: string;
  /** Why there was none; empty where there was one. */
  readonly reason: string;
  /** The mapping is another one now. */
  readonly isChanged: boolean;
}
