/** A run: tags that are checked in one go, by one person, against one witness. What became of each follows from the trail. */
import type { How, Outcome, WitnessKind } from './proof.ts';
import type { TrailStep } from './trailStep.ts';

export interface Run {
  readonly id: string;
  /** What is checked, in words: `Panel Kiln, page Overview`. */
  readonly name: string;
  readonly who: string;
  readonly witness: WitnessKind;
  readonly how: How;
  /** In the order in which they are looked at. */
  readonly tagIds: readonly string[];
  readonly begunAt: string;
  readonly endedAt: string | null;
}

export const MOST_TAGS = 20_000;
export const LONGEST_NAME = 120;
export const LONGEST_NOTE = 2000;

/** What a tag is called where a run is looked at without the project. */
export interface RunLabel {
  readonly name: string;
  /** Its device and groups. */
  readonly where: string;
  readonly unit: string;
  /** What it may show where that is one of a few; empty for numbers and texts. */
  readonly states: readonly string[];
}

/** One tag of a run as it is now, and what a panel might show of it. */
export interface RunLook {
  readonly text: string;
  readonly quality: string;
  readonly isGood: boolean;
  /** What it is set to from here, as it is shown; null where it is not. */
  readonly driven: string | null;
  /** What the mapping shows, then what likely mistakes would; empty where it has no value. */
  readonly choices: readonly string[];
}

export type RunState = 'open' | 'skipped' | Outcome;

export interface RunEntry {
  readonly tagId: string;
  readonly state: RunState;
  /** What was compared, or why it was not. */
  readonly sentence: string;
  readonly who: string;
  readonly at: string | null;
  readonly notes: readonly string[];
  /** Digests of photos, the oldest first. */
  readonly photos: readonly string[];
  /** Whose fault a difference is taken to be. */
  readonly side: 'mapping' | 'panel' | 'unknown' | null;
  /** What explained it, and what was changed. */
  readonly finding: string;
  readonly cure: string;
}

/** What became of each tag of a run, in its order: the newest step of each counts. */
export function entriesOf(run: Pick<Run, 'tagIds'>, steps: readonly TrailStep[]): readonly RunEntry[] {
  const entries = new Map<string, RunEntry>(
    run.tagIds.map((tagId) => [
      tagId,
      { tagId, state: 'open', sentence: '', who: '', at: null, notes: [], photos: [], side: null, finding: '', cure: '' },
    ]),
  );
  for (const { tagId, who, at, what } of steps) {
    const entry = tagId === null ? undefined : entries.get(tagId);
    if (entry && tagId !== null) entries.set(tagId, { ...entry, ...after(entry, what, who, at) });
  }
  return [...entries.values()];
}

function after(entry: RunEntry, what: TrailStep['what'], who: string, at: string): Partial<RunEntry> {
  switch (what.step) {
    case 'looked':
      return { state: what.outcome, sentence: what.sentence, who, at };
    case 'waived':
      return { state: 'waived', sentence: what.words, who, at };
    case 'skipped':
      return { state: 'skipped', sentence: what.words, who, at };
    case 'note':
      return {
        notes: what.words === '' ? entry.notes : [...entry.notes, what.words],
        photos: what.picture === null ? entry.photos : [...entry.photos, what.picture],
      };
    case 'finding':
      return { side: what.side, finding: what.words };
    case 'cured':
      // The mapping is another one: what was seen of the one before says nothing about it.
      return { state: 'open', cure: what.words };
    default:
      return {};
  }
}

export interface RunCounts {
  readonly all: number;
  readonly open: number;
  readonly agree: number;
  readonly failed: number;
  readonly skipped: number;
  readonly waived: number;
}

export function countsOf(entries: readonly RunEntry[]): RunCounts {
  const count = (...states: readonly RunState[]): number => entries.filter(({ state }) => states.includes(state)).length;
  return {
    all: entries.length,
    open: count('open'),
    agree: count('proven', 'consistent'),
    failed: count('failed'),
    skipped: count('skipped'),
    waived: count('waived'),
  };
}

/** The next tag to look at: the first open one after a place, or from the beginning; then the skipped ones. */
export function nextOpen(entries: readonly RunEntry[], after: string | null): string | null {
  const from = after === null ? 0 : entries.findIndex(({ tagId }) => tagId === after) + 1;
  const inTurn = [...entries.slice(from), ...entries.slice(0, from)].filter(({ tagId }) => tagId !== after);
  return (inTurn.find(({ state }) => state === 'open') ?? inTurn.find(({ state }) => state === 'skipped'))?.tagId ?? null;
}
