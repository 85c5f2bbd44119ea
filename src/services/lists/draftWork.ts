/** The work of one draft, as it runs in its thread: reads the file, understands its rows, compares it with the version before. */
import { EVERYTHING, isChosen } from '@/core/taglist/choose.ts';
import type { DraftChoices, DraftDecisions, DraftPart, DraftRow, DraftRows, DraftSummary, Outcome } from '@/core/taglist/draft.ts';
import { keyOf, mergeLists, type ListMerge } from '@/core/taglist/merge.ts';
import { readList } from '@/core/taglist/readList.ts';
import { understander, type ListTag, type UnderstoodRow } from '@/core/taglist/understand.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import type { Settings } from '@/drivers/contract.ts';
import { describeDriver } from '@/drivers/descriptions.ts';
import { accentedLines, decodeText } from './decodeText.ts';

/** The device that the list is for, as far as its addresses go. */
export interface DeviceSide {
  readonly driver: string;
  readonly dialect: Settings;
}

export type Progress = (doing: string, part: number) => void;

/** Rows between two news of how far it is. */
const NEWS_ROWS = 5000;
const ACCENTED = 6;
const SAMPLES = 4;

interface Draft {
  readonly rows: readonly UnderstoodRow[];
  readonly merge: ListMerge;
  /** Tags that stay as they were because their row is not understood now. */
  readonly kept: readonly ListTag[];
  readonly leftOut: readonly UnderstoodRow[];
}

export class DraftWork {
  readonly #bytes: Uint8Array;
  readonly #device: DeviceSide;
  readonly #before: readonly ListTag[];
  readonly #taken = new Set<string>();
  #draft: Draft | null = null;

  /** @param before what the source stands at, nothing for a new one */
  constructor(bytes: Uint8Array, device: DeviceSide, before: readonly ListTag[]) {
    this.#bytes = bytes;
    this.#device = device;
    this.#before = before;
  }

  /** Names, in small letters, of tags that are none of this list's. */
  take(names: readonly string[]): void {
    for (const name of names) this.#taken.add(name);
  }

  read(choices: DraftChoices, progress: Progress): Result<DraftSummary> {
    const driver = describeDriver(this.#device.driver);
    if (!driver) return fail('driver', `No driver “${this.#device.driver}” is known here.`);
    progress('Reading the file', 0);
    const decoded = decodeText(this.#bytes, choices.encoding ?? null);
    if (!decoded.ok) return decoded;
    const { text, encoding, confidence } = decoded.value;
    const list = readList(text, choices);
    const understand = understander(list, {
      parseAddress: (address, type) => driver.notation.parse(address, type, this.#device.dialect),
      isNameTaken: (name) => this.#taken.has(name.toLowerCase()),
      prefix: choices.prefix ?? '',
    });
    const rows: UnderstoodRow[] = [];
    for (const row of list.rows) {
      if (rows.length % NEWS_ROWS === 0) progress('Understanding the rows', rows.length / list.rows.length);
      rows.push(understand(row));
    }
    progress('Comparing with the version before', 1);
    const rule = choices.rule ?? EVERYTHING;
    const tags: ListTag[] = [];
    const leftOut: UnderstoodRow[] = [];
    const badNames = new Set<string>();
    for (const row of rows) {
      if (row.tag === null) badNames.add((row.cells.name ?? '').toLowerCase());
      else if (isChosen(rule, row.tag)) tags.push(row.tag);
      else leftOut.push(row);
    }
    const kept = this.#before.filter((tag) => badNames.has(keyOf(tag)));
    const merge = mergeLists(
      this.#before.filter((tag) => !badNames.has(keyOf(tag))),
      tags,
    );
    this.#draft = { rows, merge, kept, leftOut };
    const bad = rows.reduce((n, row) => n + (row.tag === null ? 1 : 0), 0);
    const sampled = list.first.slice(list.columns.headerAt + 1);
    return ok({
      encoding,
      encodingConfidence: confidence,
      accented: accentedLines(text, ACCENTED),
      delimiter: list.delimiter,
      decimalComma: list.decimalComma,
      headerAt: list.columns.headerAt,
      columns: list.columns.guesses.map((guess, at) => ({
        ...guess,
        heading: list.columns.header[at]?.trim() ?? '',
        samples: sampled.flatMap((cells) => (cells[at]?.trim() ? [cells[at].trim()] : [])).slice(0, SAMPLES),
      })),
      problems: list.problems,
      rows: rows.length,
      good: rows.length - bad,
      bad,
      leftOut: leftOut.length,
      merge: {
        same: merge.same.length,
        changed: merge.changed.length,
        changedBytes: merge.changed.filter((c) => c.changesBytes).length,
        added: merge.added.length,
        gone: merge.gone.length,
        proposals: merge.proposals.length,
        ambiguous: merge.proposals.filter((p) => p.alternatives.length > 0).length,
      },
    });
  }

  /** Some rows of one part, those with problems first where all are asked for. */
  rows(part: DraftPart, from: number, count: number): DraftRows {
    if (!this.#draft) return { total: 0, rows: [] };
    const { rows, merge, leftOut } = this.#draft;
    const page = <T>(list: readonly T[], of: (item: T) => DraftRow): DraftRows => ({
      total: list.length,
      rows: list.slice(from, from + count).map(of),
    });
    const out = new Set(leftOut);
    switch (part) {
      case 'all':
        return page([...rows.filter((r) => r.tag === null), ...rows.filter((r) => r.tag !== null)], (row) => ({
          kind: 'row',
          row,
          isChosen: !out.has(row),
        }));
      case 'bad':
        return page(
          rows.filter((r) => r.tag === null),
          (row) => ({ kind: 'row', row, isChosen: true }),
        );
      case 'leftOut':
        return page(leftOut, (row) => ({ kind: 'row', row, isChosen: false }));
      case 'added':
        return page(merge.added, (tag) => ({ kind: 'added', tag }));
      case 'gone':
        return page(merge.gone, (tag) => ({ kind: 'gone', tag }));
      case 'changed':
        return page(
          [...merge.changed].sort((a, b) => Number(b.changesBytes) - Number(a.changesBytes)),
          (change) => ({ kind: 'changed', change }),
        );
      case 'proposals':
        return page(merge.proposals, (proposal) => ({ kind: 'proposal', proposal }));
    }
  }

  /**
   * What becomes of each tag by these decisions, and what the source stands at afterwards. What is held back stays in the
   * version as it was, so that the next import tells it again.
   */
  outcome({ renames, bytes }: DraftDecisions): { readonly outcomes: readonly Outcome[]; readonly version: readonly ListTag[] } {
    if (!this.#draft) return { outcomes: [], version: this.#before };
    const { merge, kept } = this.#draft;
    const [accepted, acceptedBytes] = [new Set(renames), new Set(bytes)];
    const [from, to] = [new Set<ListTag>(), new Set<ListTag>()];
    // Of two tags only one can have become the same.
    const renamed = merge.proposals.filter((p) => {
      if (!accepted.has(p.from.listName) || to.has(p.to)) return false;
      from.add(p.from);
      to.add(p.to);
      return true;
    });
    const outcomes: Outcome[] = renamed.map((p) => ({ kind: 'update', before: p.from, after: p.to }));
    const version: ListTag[] = [...merge.same, ...kept, ...renamed.map((p) => p.to)];
    for (const { before, after, changesBytes } of merge.changed) {
      if (changesBytes && !acceptedBytes.has(after.listName)) version.push(before);
      else {
        version.push(after);
        outcomes.push({ kind: 'update', before, after });
      }
    }
    for (const tag of merge.added) {
      if (to.has(tag)) continue;
      version.push(tag);
      outcomes.push({ kind: 'new', tag });
    }
    for (const tag of merge.gone) if (!from.has(tag)) outcomes.push({ kind: 'gone', tag });
    return { outcomes, version };
  }
}
