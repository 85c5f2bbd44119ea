/** The work of one draft, as it runs in its thread: reads the file, understands its rows, compares it with the version before. */
import type { Progress } from '../threads/messages.ts';
import { nameKey } from '@/core/project/nameKey.ts';
import { plainNumber, ruledAddress } from '@/core/taglist/addressRule.ts';
import { EVERYTHING, isChosen } from '@/core/taglist/choose.ts';
import { countingSample, countingSign, type KnownPlace } from '@/core/taglist/countingSigns.ts';
import { headingText } from '@/core/taglist/columns.ts';
import type { DraftChoices, DraftDecisions, DraftPart, DraftRow, DraftRows, DraftSummary, MergeCounts, Outcome } from '@/core/taglist/draft.ts';
import { inheriting, keyOf, mergeLists, silentFields, type ComparedField, type ListMerge } from '@/core/taglist/merge.ts';
import { TagTree, type TreeNode } from '@/core/taglist/tree.ts';
import { understander, type ListTag, type UnderstoodRow } from '@/core/taglist/understand.ts';
import { readTypeWord } from '@/core/taglist/typeWords.ts';
import { formatDataType, parseDataType } from '@/core/value/dataType.ts';
import { siblingName } from '@/core/project/tagPath.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import type { Settings } from '@/drivers/contract.ts';
import { describeDriver } from '@/drivers/descriptions.ts';
import type { CountingProbe } from './liveCounting.ts';
import { readAny, type AnyList } from './readAny.ts';

/** The device that the list is for, as far as its addresses go. */
export interface DeviceSide {
  readonly driver: string;
  readonly dialect: Settings;
}

/** A tag of the device that is none of the list's, as it is written. */
export interface OtherPlace {
  readonly name: string;
  readonly group: string;
  readonly address: string;
  readonly type: string;
}

/** Rows between two news of how far it is. */
const NEWS_ROWS = 5000;
const SAMPLES = 4;
const SAMPLE_CHARACTERS = 100;
/** Values that are compared with the device. */
const MOST_PROBES = 6;

/** Words for data types that are asked about. */
const MOST_TYPE_WORDS = 40;

/** Structure types that are offered to choose by. */
const MOST_STRUCTURES = 50;

/** The file as it was read and understood by some choices, whatever the rule. */
interface Understood {
  readonly choices: string;
  readonly list: AnyList;
  readonly rows: readonly UnderstoodRow[];
}

interface Draft {
  readonly rows: readonly UnderstoodRow[];
  readonly merge: ListMerge;
  /** Tags that stay as they were because their row is not understood now. */
  readonly kept: readonly ListTag[];
  readonly leftOut: readonly UnderstoodRow[];
  /** Fields that the list does not speak of. */
  readonly silent: readonly ComparedField[];
}

export class DraftWork {
  readonly #bytes: Uint8Array;
  readonly #device: DeviceSide;
  readonly #before: readonly ListTag[];
  readonly #taken = new Set<string>();
  readonly #others: KnownPlace[] = [];
  #understood: Understood | null = null;
  #draft: Draft | null = null;
  #tree: TagTree | null = null;

  /** @param before what the source stands at, nothing for a new one */
  constructor(bytes: Uint8Array, device: DeviceSide, before: readonly ListTag[]) {
    this.#bytes = bytes;
    this.#device = device;
    this.#before = before;
  }

  /** Tags of the device that are none of this list's. */
  knowOthers(places: readonly OtherPlace[]): void {
    const { notation } = describeDriver(this.#device.driver) ?? {};
    for (const { name, group, address, type: typeText } of places) {
      this.#taken.add(siblingName(group, name));
      const type = parseDataType(typeText);
      const read = type.ok ? notation?.parse(address, type.value, this.#device.dialect) : null;
      if (read?.ok) this.#others.push({ name, canonical: read.value.canonical, type: typeText });
    }
  }

  /** A few values, spread over the list; none where it was said what the list counts from. */
  countingProbes(): readonly CountingProbe[] {
    const { choices, rows } = this.#understood ?? {};
    const numbered = describeDriver(this.#device.driver)?.numbered;
    if (!numbered || !choices || !rows || (JSON.parse(choices) as DraftChoices).countsFrom !== undefined) return [];
    const found = rows.flatMap(({ tag, cells }) => {
      if (!tag) return [];
      const { rangeLow, rangeHigh, canonical, type, order } = tag;
      const place = { address: cells.address ?? '', canonical, type };
      const sample = countingSample(
        place,
        { range: rangeLow !== null && rangeHigh !== null, order: order !== '' },
        numbered.countsFrom(this.#device.dialect),
      );
      return sample ? [{ tag, sample }] : [];
    });
    const every = Math.max(1, Math.floor(found.length / MOST_PROBES));
    return found.filter((_probe, at) => at % every === 0).slice(0, MOST_PROBES);
  }

  /** Two versions that were kept, side by side. */
  compare(after: readonly ListTag[]): MergeCounts {
    const merge = mergeLists(this.#before, after);
    this.#draft = { rows: [], merge, kept: [], leftOut: [], silent: [] };
    return countsOf(merge);
  }

  read(choices: DraftChoices, progress: Progress): Result<DraftSummary> {
    const understood = this.#understand(choices, progress);
    if (!understood.ok) return understood;
    const { list, rows } = understood.value;
    return ok(this.#choose(list, rows, choices, progress));
  }

  /** Where only the rule is another one, the file is not read again. */
  #understand(choices: DraftChoices, progress: Progress): Result<Understood> {
    const said = JSON.stringify({ ...choices, rule: undefined });
    if (this.#understood?.choices === said) return ok(this.#understood);

    const driver = describeDriver(this.#device.driver);
    if (!driver) return fail('driver', `No driver “${this.#device.driver}” is known here.`);
    progress('Reading the file', 0);
    const usual = driver.bytes?.laysOut?.(this.#device.dialect);
    const layout = choices.layout ?? usual?.structures;
    const read = readAny(this.#bytes, { ...choices, layout }, usual?.texts);
    if (!read.ok) return read;
    const list = read.value;
    const understand = understander(list, {
      parseAddress: (address, type) => driver.notation.parse(address, type, this.#device.dialect),
      memberAddress: (base, atBit, type) =>
        driver.notation.member?.(base, atBit, type, this.#device.dialect) ?? fail('no-members', 'This device has no addresses inside others.'),
      textLength: choices.textLength,
      textLayout: usual?.texts,
      isNameTaken: (name, group) => this.#taken.has(siblingName(group, name)),
      prefix: choices.prefix ?? '',
      ruledAddress: (text, type) => ruledAddress(text, type, choices),
      typeWords: choices.typeWords,
      corrections: new Map((choices.corrections ?? []).map(({ name, cells }) => [nameKey(name), cells])),
    });
    const rows: UnderstoodRow[] = [];
    for (const row of list.rows) {
      if (rows.length % NEWS_ROWS === 0) progress('Understanding the rows', rows.length / list.rows.length);
      rows.push(understand(row));
    }
    this.#understood = { choices: said, list, rows };
    return ok(this.#understood);
  }

  #choose(list: AnyList, rows: readonly UnderstoodRow[], choices: DraftChoices, progress: Progress): DraftSummary {
    progress('Comparing with the version before', 1);
    const rule = choices.rule ?? EVERYTHING;
    const tags: ListTag[] = [];
    const leftOut: UnderstoodRow[] = [];
    const badNames = new Set<string>();
    for (const row of rows) {
      if (row.tag === null) badNames.add(nameKey(row.cells.name ?? ''));
      else if (isChosen(rule, row.tag)) tags.push(row.tag);
      else leftOut.push(row);
    }
    const kept = this.#before.filter((tag) => badNames.has(keyOf(tag)));
    const silent = this.#before.length > 0 ? silentFields(list) : [];
    const merge = mergeLists(
      this.#before.filter((tag) => !badNames.has(keyOf(tag))),
      tags,
      silent,
    );
    this.#draft = { rows, merge, kept, leftOut, silent };
    const bad = rows.reduce((n, row) => n + (row.tag === null ? 1 : 0), 0);
    const sampled = list.first.slice(list.columns.headerAt + 1);
    this.#tree = null;
    const structures = new Map<string, number>();
    for (const { tag } of rows)
      if (tag && tag.within.length > 0) for (const name of new Set(tag.within)) structures.set(name, (structures.get(name) ?? 0) + 1);
    return {
      format: list.format,
      sheets: list.sheets,
      sheet: list.sheet,
      programVersion: list.programVersion,
      typeWords: typeWordsOf(list, choices),
      ...this.#addressHints(rows, choices),
      unplaced: list.rows.reduce((n, row) => n + (row.isUnplaced ? 1 : 0), 0),
      encoding: list.encoding,
      encodingConfidence: list.encodingConfidence,
      accented: list.accented,
      delimiter: list.delimiter,
      decimalComma: list.decimalComma,
      headerAt: list.columns.headerAt,
      columns: list.columns.guesses.map((guess, at) => ({
        ...guess,
        heading: headingText(list.columns.header[at]),
        samples: sampled.flatMap((cells) => (cells[at]?.trim() ? [cells[at].trim().slice(0, SAMPLE_CHARACTERS)] : [])).slice(0, SAMPLES),
      })),
      problems: list.problems,
      rows: rows.length,
      good: rows.length - bad,
      bad,
      leftOut: leftOut.length,
      layout: choices.layout ?? describeDriver(this.#device.driver)?.bytes?.laysOut?.(this.#device.dialect).structures ?? 'none',
      structures: [...structures]
        .sort((a, b) => b[1] - a[1])
        .slice(0, MOST_STRUCTURES)
        .map(([name, count]) => ({ name, count })),
      merge: countsOf(merge),
    };
  }

  /** What the addresses leave open. */
  #addressHints(rows: readonly UnderstoodRow[], choices: DraftChoices): Pick<DraftSummary, 'plainNumbers' | 'areas' | 'counting'> {
    const numbered = describeDriver(this.#device.driver)?.numbered;
    if (!numbered) return { plainNumbers: 0, areas: [], counting: null };
    const unread = rows.flatMap(({ tag, cells }) => (tag === null && cells.address ? [cells.address] : []));
    const places = rows.flatMap(({ tag, cells }) =>
      tag && cells.address ? [{ address: cells.address, canonical: tag.canonical, type: tag.type }] : [],
    );
    return {
      areas: numbered.areas,
      plainNumbers: choices.plainNumbers === undefined ? unread.filter((text) => plainNumber(text) !== null).length : 0,
      counting: choices.countsFrom === undefined ? countingSign(unread, places, this.#others, numbered.countsFrom(this.#device.dialect)) : null,
    };
  }

  /** What is right under a node of the tree of all rows that are understood. */
  tree(index: number): readonly TreeNode[] {
    if (!this.#tree) {
      this.#tree = new TagTree();
      const out = new Set(this.#draft?.leftOut);
      for (const row of this.#draft?.rows ?? []) if (row.tag) this.#tree.add(row.tag, !out.has(row));
    }
    return this.#tree.under(index);
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
    const { merge, kept, silent } = this.#draft;
    const [accepted, acceptedBytes] = [new Set(renames), new Set(bytes)];
    const [from, to] = [new Set<ListTag>(), new Set<ListTag>()];
    // Of two tags only one can have become the same.
    const renamed = merge.proposals.filter((p) => {
      if (!accepted.has(p.from.listName) || to.has(p.to)) return false;
      from.add(p.from);
      to.add(p.to);
      return true;
    });
    const outcomes: Outcome[] = renamed.map((p) => ({ kind: 'update', before: p.from, after: inheriting(p.from, p.to, silent) }));
    const version: ListTag[] = [...merge.same, ...kept, ...renamed.map((p) => inheriting(p.from, p.to, silent))];
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

/** Words of the list for data types, with what they are taken for. */
function typeWordsOf(list: AnyList, { typeWords }: DraftChoices): DraftSummary['typeWords'] {
  const counts = new Map<string, { readonly type: string | null; count: number }>();
  for (const { cells } of list.rows) {
    if (!cells.type) continue;
    const read = readTypeWord(cells.type, typeWords);
    if (read.word === undefined || read.word.length > SAMPLE_CHARACTERS) continue;
    const known = counts.get(read.word) ?? { type: read.ok ? formatDataType(read.value) : null, count: 0 };
    known.count++;
    counts.set(read.word, known);
  }
  return [...counts]
    .map(([word, { type, count }]) => ({ word, type, count }))
    .sort((a, b) => Number(a.type !== null) - Number(b.type !== null) || b.count - a.count)
    .slice(0, MOST_TYPE_WORDS);
}

function countsOf(merge: ListMerge): MergeCounts {
  return {
    same: merge.same.length,
    changed: merge.changed.length,
    changedBytes: merge.changed.filter((c) => c.changesBytes).length,
    added: merge.added.length,
    gone: merge.gone.length,
    proposals: merge.proposals.length,
    ambiguous: merge.proposals.filter((p) => p.alternatives.length > 0).length,
  };
}
