/** What is online, and what is open for writing. Times are the server's clock. */
import type { DrivenValue, Isolation } from '../check/driving/drivenValue.ts';
import type { Problem } from '../result.ts';
import type { PanelAtWork } from './panelAtWork.ts';
import type { Slow } from './freshness.ts';
import type { QualityLevel } from '../value/quality.ts';

export interface LinkStatus {
  readonly linkId: string;
  readonly phase: 'connecting' | 'connected' | 'waiting' | 'closed';
  /** Why it is not connected. */
  readonly problem: Problem | null;
  /** When it is tried again, while it waits. */
  readonly retryAt: number | null;
  readonly requestsPerSecond: number;
}

export interface DeviceStatus {
  readonly deviceId: string;
  readonly linkId: string;
  /** `stopped`: it answers, and its heartbeat stands still. */
  readonly state: 'answering' | 'stopped' | 'silent' | 'connecting' | 'offline';
  readonly detail: string;
  /** It answers, and its line is too slow for the scan periods; null when it keeps them. */
  readonly slow: Slow | null;
  readonly lastAnswerAt: number | null;
}

/** Kinds of writers, each with a permission of its own: people at the bench, panel pages, rules, driven checks. */
export const WRITERS = ['engineer', 'panel', 'rule', 'check'] as const;
export type Writer = (typeof WRITERS)[number];

export interface Unlocked {
  readonly deviceId: string;
  readonly who: string;
  readonly writers: readonly Writer[];
  /** When the device is locked again. */
  readonly until: number;
}

/** A state that was switched on here and is not known to be off. */
export interface NotReleased {
  readonly holdId: string;
  readonly tagName: string;
  readonly deviceName: string;
  /** ISO time. */
  readonly since: string;
  readonly why: string;
  /** The server still tries. */
  readonly isTried: boolean;
}

/** Something about the server itself that everybody should know. */
export interface Trouble {
  readonly code: 'disk-low' | 'disk-full' | 'store-stuck' | 'started-again' | 'proofs-altered' | 'proofs-missing' | 'page-disagrees';
  readonly message: string;
  readonly remedy: string;
  /** ISO time at which it happened, where it is something that was. */
  readonly at: string | null;
}

/** What of local values lies on the disk, whatever happens to the power. */
export interface KeptState {
  /** When the last of them was forced to it; null before the first since the start. */
  readonly at: number | null;
  /** A value is younger than that. */
  readonly isWaiting: boolean;
  /** Why they cannot be forced to it; empty while they can. */
  readonly problem: string;
}

export interface Status {
  readonly serverTime: number;
  /** How many tags have a value of each quality. */
  readonly values: Readonly<Record<QualityLevel, number>>;
  readonly links: readonly LinkStatus[];
  readonly devices: readonly DeviceStatus[];
  readonly unlocked: readonly Unlocked[];
  readonly notReleased: readonly NotReleased[];
  /** What was set or is held at controllers from here. */
  readonly driven: readonly DrivenValue[];
  readonly isolated: readonly Isolation[];
  readonly troubles: readonly Trouble[];
  readonly panels: readonly PanelAtWork[];
  readonly kept: KeptState;
}
