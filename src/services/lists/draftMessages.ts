/** Messages between the server and the thread of a draft. */
import type { DraftChoices, DraftDecisions, DraftPart } from '@/core/taglist/draft.ts';
import type { DeviceSide } from './draftWork.ts';

export type ThreadRequest = { readonly id: number } & ThreadAsk;
export type ThreadAsk =
  /** @param before what the source stands at, packed; null for a new one */
  | { readonly kind: 'open'; readonly bytes: Uint8Array; readonly device: DeviceSide; readonly before: string | null }
  /** Names that are taken, a portion of them. */
  | { readonly kind: 'taken'; readonly names: readonly string[] }
  | { readonly kind: 'read'; readonly choices: DraftChoices }
  | { readonly kind: 'rows'; readonly part: DraftPart; readonly from: number; readonly count: number }
  | { readonly kind: 'outcome'; readonly decisions: DraftDecisions }
  | { readonly kind: 'outcomes'; readonly from: number };
export type ThreadReply =
  | { readonly kind: 'progress'; readonly doing: string; readonly part: number }
  | { readonly kind: 'done'; readonly id: number; readonly value: unknown }
  | { readonly kind: 'failed'; readonly id: number; readonly error: string };
