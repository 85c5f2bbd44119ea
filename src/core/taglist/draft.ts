/** A list on its way in: what it is taken for, what would become of each tag, and what a person may still decide. */
import type { CountingSign } from './countingSigns.ts';
import type { Problem } from '../result.ts';
import type { ChoosingRule } from './choose.ts';
import type { AddressRule, PlainNumberArea } from './addressRule.ts';
import type { ColumnGuess, ColumnKey } from './columns.ts';
import type { ChangedTag } from './merge.ts';
import type { Layout } from './layout.ts';
import type { ReadingChoices } from './readList.ts';
import type { Proposal } from './renames.ts';
import type { ListTag, UnderstoodRow } from './understand.ts';
import type { Delimiter, Encoding, ListFormat } from './written.ts';

/** What the engineer has said of a list; kept with its source as the recipe for the next version. */
export interface DraftChoices extends ReadingChoices, AddressRule {
  readonly encoding?: Encoding | undefined;
  readonly prefix?: string | undefined;
  /** Characters of a STRING whose length the list does not say. */
  readonly textLength?: number | undefined;
  readonly rule?: ChoosingRule | undefined;
  /** By word of the list, the data type that it stands for. */
  readonly typeWords?: Readonly<Record<string, string>> | undefined;
  /** Rows that were put right here, by their name in the list; kept for its next version. */
  readonly corrections?: readonly Correction[] | undefined;
}

/** Cells that stand for those of the list. */
export interface Correction {
  readonly name: string;
  readonly cells: Readonly<Partial<Record<ColumnKey, string>>>;
}

export interface DraftSummary {
  readonly format: ListFormat;
  readonly sheets: readonly string[];
  readonly sheet: string;
  /** The version of the controller's program that the list is from, empty where it does not say. */
  readonly programVersion: string;
  /** Rows without an address because nobody said how structures are laid out. */
  readonly unplaced: number;
  /** How structures are taken to be laid out. */
  readonly layout: Layout;
  /** Structure types with their values, the most frequent first. */
  readonly structures: readonly { readonly name: string; readonly count: number }[];
  readonly encoding: Encoding;
  readonly encodingConfidence: number;
  /** Lines with characters beyond ASCII, to see by whether the encoding is right. */
  readonly accented: readonly string[];
  readonly delimiter: Delimiter;
  readonly decimalComma: boolean;
  /** Index of the row with the headings, -1 for none. */
  readonly headerAt: number;
  readonly columns: readonly (ColumnGuess & { readonly heading: string; readonly samples: readonly string[] })[];
  /** Words for data types that are none of the standard's, with what they were taken for, the most frequent first. */
  readonly typeWords: readonly { readonly word: string; readonly type: string | null; readonly count: number }[];
  /** How many addresses are plain numbers, which name no area; 0 once it is said what they name. */
  readonly plainNumbers: number;
  /** What they may name at this device; none where its addresses are no numbers. */
  readonly areas: readonly PlainNumberArea[];
  /** What shows that the list counts from another number than its device; null where nothing does, or it was said. */
  readonly counting: CountingSign | null;
  readonly problems: readonly Problem[];
  readonly rows: number;
  readonly good: number;
  readonly bad: number;
  /** Good rows that the rule leaves out. */
  readonly leftOut: number;
  readonly merge: MergeCounts;
}

export interface MergeCounts {
  readonly same: number;
  readonly changed: number;
  /** Of the changed, those whose bytes change: held back until they are accepted. */
  readonly changedBytes: number;
  readonly added: number;
  readonly gone: number;
  readonly proposals: number;
  /** Of the proposals, those that could be another tag as well. */
  readonly ambiguous: number;
}

/** Which rows of a draft are asked for. */
export const DRAFT_PARTS = ['all', 'bad', 'added', 'changed', 'gone', 'proposals', 'leftOut'] as const;
export type DraftPart = (typeof DRAFT_PARTS)[number];

export type DraftRow =
  | { readonly kind: 'row'; readonly row: UnderstoodRow; readonly isChosen: boolean }
  | { readonly kind: 'added'; readonly tag: ListTag }
  | { readonly kind: 'changed'; readonly change: ChangedTag; readonly uses?: TagUses }
  | { readonly kind: 'gone'; readonly tag: ListTag; readonly uses?: TagUses }
  | { readonly kind: 'proposal'; readonly proposal: Proposal; readonly uses?: TagUses };

/** What a tag of the project takes part in. */
export interface TagUses {
  readonly elements: number;
  readonly isProven: boolean;
  /** It tells its device's identity, life or the like, or another tag's write is confirmed by it. */
  readonly isNamed: boolean;
  readonly hasScale: boolean;
}

export interface DraftRows {
  readonly total: number;
  readonly rows: readonly DraftRow[];
}

export const DRAFT_PHASES = ['reading', 'ready', 'failed', 'storing', 'done'] as const;
export interface DraftStatus {
  readonly id: string;
  readonly fileName: string;
  readonly deviceId: string;
  /** The source it is a new version of; a new source's id else. */
  readonly sourceId: string;
  readonly isNewSource: boolean;
  /** Two versions that were imported are looked at; nothing can be taken. */
  readonly compared: { readonly from: ListVersion; readonly to: ListVersion } | null;
  /** The version that the device says its program has; empty where it does not say. */
  readonly deviceVersion: string;
  readonly phase: (typeof DRAFT_PHASES)[number];
  /** In words, and how far, 0 to 1. */
  readonly doing: string;
  readonly part: number;
  readonly summary: DraftSummary | null;
  readonly problem: Problem | null;
}

/** What was decided of a draft: everything else goes its plain way. */
export interface DraftDecisions {
  /** Names, as they were in the list before, of proposals that are accepted. */
  readonly renames: readonly string[];
  /** Names of changed tags whose other type or length is accepted; the others stay as they are. */
  readonly bytes: readonly string[];
  /** Rows that are not understood are excluded; without it they keep the whole list out. */
  readonly leaveOutBad: boolean;
}

/** What becomes of one tag by an import. */
export type Outcome =
  | { readonly kind: 'new'; readonly tag: ListTag }
  | { readonly kind: 'update'; readonly before: ListTag; readonly after: ListTag }
  | { readonly kind: 'gone'; readonly tag: ListTag };

/** One version of a list as it was imported. */
export interface ListVersion {
  readonly id: string;
  readonly sourceId: string;
  readonly at: string;
  readonly fileName: string;
  /** Who brought it: an engineer, or the demo. */
  readonly origin: string;
  readonly rowCount: number;
  /** The version of the controller's program that it is from; empty where the list did not say. */
  readonly programVersion: string;
}
