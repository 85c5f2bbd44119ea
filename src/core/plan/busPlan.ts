/** The plan of a bus as it is told: prediction beside measurement. Times in milliseconds. */
export interface BusRequest {
  readonly area: string;
  readonly start: number;
  readonly count: number;
  /** Where values lie in it. */
  readonly used: readonly { readonly start: number; readonly count: number }[];
  readonly tags: number;
  /** What it occupies the line for: its bytes, the silences, the device's own time, its pause. */
  readonly foreseenMs: number;
  /** Of that, from sending to the end of the reply. */
  readonly foreseenRoundTripMs: number;
  /** The newest round trip, null when nothing good has come. */
  readonly measuredMs: number | null;
}

export interface BusGroup {
  readonly deviceId: string;
  readonly device: string;
  readonly periodMs: number;
  readonly requests: readonly BusRequest[];
  readonly totalMs: number;
  /** What really passes between two readings; null for a group that asks nothing. */
  readonly reachedMs: number | null;
  /** Whether the device's own time was measured, or is what is usual. */
  readonly isMeasured: boolean;
}

export interface BusAdvice {
  readonly what: string;
  /** Part of the line's time that would be asked for. */
  readonly use: number;
  /** Groups that would still miss their period. */
  readonly missing: number;
}

export interface BusPlan {
  /** Speed and characters of the line, null for a network. */
  readonly line: string | null;
  /** Part of the line's time that is asked for; more than 1 cannot be had. */
  readonly use: number;
  /** Part of the last seconds in which it was busy, 0 to 1; null when too little was seen. */
  readonly measuredUse: number | null;
  readonly groups: readonly BusGroup[];
  /** What would help, the most helpful first. */
  readonly advice: readonly BusAdvice[];
}

/** Whether a group is read less often than it is to be. */
export function isMissed({ reachedMs, periodMs }: Pick<BusGroup, 'reachedMs' | 'periodMs'>): boolean {
  return reachedMs !== null && reachedMs > periodMs * 1.05;
}
