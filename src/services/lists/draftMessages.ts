/** Messages between the server and the thread of a draft. */
import type { DriverManifest } from '@/core/manifest/driverManifest.ts';
import type { Source } from '@/core/project/entities.ts';
import type { DraftChoices, DraftDecisions, DraftPart } from '@/core/taglist/draft.ts';
import type { ListedStructures } from '@/core/taglist/structured.ts';
import type { DeviceSide, OtherPlace } from './draftWork.ts';

export type ThreadAsk =
  /**
   * @param before what the source stands at, packed; null for a new one
   * @param drivers those that are not built in
   */
  | {
      readonly kind: 'open';
      readonly bytes: Uint8Array;
      readonly device: DeviceSide;
      readonly before: string | null;
      readonly drivers: readonly DriverManifest[];
    }
  /** Tags of the device that are none of this list's, a portion of them. */
  | { readonly kind: 'others'; readonly places: readonly OtherPlace[] }
  | { readonly kind: 'read'; readonly choices: DraftChoices }
  /** What another version stands at, packed: compared with the one it was opened with. */
  | { readonly kind: 'compare'; readonly after: string }
  /** Values that tell whether the list counts as its device does. */
  | { readonly kind: 'countingProbes' }
  | { readonly kind: 'tree'; readonly node: number }
  | { readonly kind: 'rows'; readonly part: DraftPart; readonly from: number; readonly count: number }
  /** @param kept names in the list of tags that the project has though the version before does not */
  | {
      readonly kind: 'outcome';
      readonly decisions: DraftDecisions;
      readonly source: Pick<Source, 'id' | 'deviceId'>;
      readonly kept: readonly string[];
    }
  /** Which group each text of {@link ThreadOutcome.groups} stands for; asked before the lines. */
  | { readonly kind: 'groups'; readonly ids: ReadonlyMap<string, string> }
  | { readonly kind: 'outcomes'; readonly from: number }
  /** The next lines of new tags and scales, made as they are asked for. */
  | { readonly kind: 'lines' }
  /** Once the last lines were asked for. @param withVersion false where the new tags are all that the version holds */
  | { readonly kind: 'packed'; readonly withVersion: boolean };
/** What an import comes down to. */
export interface ThreadOutcome {
  /** Outcomes that change what is there, to be asked for. */
  readonly count: number;
  /** New tags, to be asked for as lines of JSON. */
  readonly newCount: number;
  readonly versionCount: number;
  /** The texts of all groups that tags come to stand in. */
  readonly groups: readonly string[];
  /** The structures that its tags are members of. */
  readonly structured: ListedStructures;
  /** The version holds the new tags and nothing else. */
  readonly isAllNew: boolean;
}
export interface NewLines {
  readonly lines: readonly string[];
  readonly isLast: boolean;
}
export interface PackedOutcome {
  /** The new tags and scales. */
  readonly entities: string;
  /** What the source stands at afterwards, where that is more than the new tags. */
  readonly version: string | null;
}
