/** What goes over the live channel, both ways. One WebSocket a page; JSON text. */
import type { Proof } from '../check/proof.ts';
import type { SignedIn } from '../panel/levels.ts';
import type { AlarmsNow } from '../alarm/alarmLine.ts';
import type { LimitKey } from '../ranges/limits.ts';
import type { Applied } from '../project/snapshot.ts';
import type { ValueJson } from '../value/engineering.ts';
import type { Quality } from '../value/quality.ts';
import type { Problem } from '../result.ts';
import type { Status } from './status.ts';
import type { WireJson } from './wireJson.ts';
import type { WriteRecord } from './writeOutcome.ts';

/** A sample on its way to a page. */
export interface LiveSample {
  readonly tagId: string;
  readonly n: number;
  readonly at: number;
  readonly roundTripMs: number;
  /** When its source took it, by its own clock; null where it does not say. */
  readonly sourceAt: number | null;
  /** Where it was read, in the canonical form of its driver; only where an index moves that. */
  readonly place?: string;
  /** How long after its arrival it is good, as the server judges it; null when that is not bounded. */
  readonly freshForMs: number | null;
  readonly wire: WireJson | null;
  readonly raw: ValueJson | null;
  readonly eng: ValueJson | null;
  readonly text: string;
  readonly quality: Quality;
  /** The limit that it is beyond; absent for none. */
  readonly limit?: LimitKey;
  readonly broken: { readonly stage: 'wire' | 'decoded' | 'engineering'; readonly problem: Problem } | null;
}

export interface ServerHello {
  readonly kind: 'hello';
  /** Changes with every start of the server: a page that sees another one loads the project again. */
  readonly boot: string;
  readonly revision: number;
}
/** Sent at least every {@link BEAT_MS}, with or without values; its silence is news. */
export interface ServerBatch {
  readonly kind: 'batch';
  readonly batch: number;
  readonly serverTime: number;
  readonly values: readonly LiveSample[];
  readonly status: Status | null;
}
export interface ServerChange extends Applied {
  readonly kind: 'change';
  /** Parts of it that were sent before; a page that has not got them all loads the project anew. */
  readonly parts: number;
}
/** Some of a large change, before the message that ends it. */
export interface ServerPart {
  readonly kind: 'part';
  readonly revision: number;
  readonly changes: Applied['changes'];
}
export interface ServerProof {
  readonly kind: 'proof';
  readonly proof: Proof;
}
/** Asks a page for the texts that it has really drawn for a tag. */
export interface ServerAsk {
  readonly kind: 'ask';
  readonly request: number;
  readonly tagId: string;
}
/** A write to a machine came to its end, or was changed back by the controller. */
export interface ServerWrite {
  readonly kind: 'write';
  readonly write: WriteRecord;
}
/**
 * What became of a press of a button that is held. `on`: the controller took it. `released`: the server let go by itself. `unknown`: it was let go, and nobody
 * knows whether the controller did so.
 */
export interface ServerHeld {
  readonly kind: 'held';
  readonly hold: string;
  readonly phase: 'on' | 'off' | 'released' | 'refused' | 'unknown';
  readonly sentence: string;
}
/** Which page a screen shows: an order of its panel, or whether a person may choose another one. */
export interface ScreenOrder {
  readonly kind: 'screen';
  readonly order: number;
  /** Null to stay. */
  readonly pageId: string | null;
  /** Why nobody can choose a page at this screen; empty where one can. */
  readonly why: string;
}
/** Who is signed in at this glass now; null for nobody (any more). */
export interface ServerSigned {
  readonly kind: 'signed';
  readonly who: SignedIn | null;
}
/** Alarms as they stand now, to who has asked for them. */
export interface ServerAlarms {
  readonly kind: 'alarms';
  readonly now: AlarmsNow;
}
export type ServerMessage =
  | ServerHello
  | ServerBatch
  | ServerChange
  | ServerPart
  | ServerProof
  | ServerAsk
  | ServerWrite
  | ServerHeld
  | ServerSigned
  | ServerAlarms
  | ScreenOrder;

export type ClientMessage =
  | { readonly kind: 'subscribe'; readonly tags: readonly string[] }
  | { readonly kind: 'ack'; readonly batch: number }
  /** The first begins to hold, each further one says that the button is still held. `wordId`: a key that tells the controller of it. */
  | {
      readonly kind: 'hold';
      readonly hold: string;
      readonly panelId: string;
      readonly elementId: string;
      readonly wordId?: string | undefined;
      readonly subject?: number | undefined;
      readonly session?: string | undefined;
    }
  /** Somebody is signed in at this glass, and has touched it; null: nobody is. */
  | { readonly kind: 'session'; readonly panelId: string; readonly token: string | null }
  | { readonly kind: 'release'; readonly hold: string }
  /** Alarms are shown from now on: those of a panel, or null for all of the project. */
  | { readonly kind: 'alarms'; readonly panelId: string | null }
  /** A screen has drawn a page; null: nobody sees it now. `order`: it was sent there, 0 when it opens; null: a person chose it. */
  | {
      readonly kind: 'screen';
      readonly panelId: string;
      readonly pageId: string | null;
      readonly order: number | null;
      /** The number of the language that it speaks; null where its panel has none to choose from. */
      readonly language: number | null;
    }
  | {
      readonly kind: 'drawn';
      readonly request: number;
      readonly items: readonly {
        readonly elementId: string;
        readonly text: string;
        readonly sample: number;
        readonly visibility: 'visible' | 'hidden';
        /** The code of the language that it is drawn in; null for that in which it was written. */
        readonly language: string | null;
      }[];
    };

export const BEAT_MS = 500;
/** Without a batch for this long a page marks its values bad by itself: two beats, and room for one delayed timer. */
export const SILENCE_MS = 2 * BEAT_MS + 500;

/** How often a page says that a button is still held. */
export const HOLD_SIGN_MS = 80;
/** Without a sign for this long the server releases by itself; with the write that is within half a second. */
export const HOLD_SILENCE_MS = 300;
