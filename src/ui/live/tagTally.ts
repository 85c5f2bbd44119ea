/**
 * What many views ask of all tags: their order, which do not fit, which want a scale. Worked out once, in steps, and
 * carried from change to change, since a project may have a hundred thousand.
 */
import type { Tag } from '@/core/project/entities.ts';
import { deviceIdOf, expressionIn } from '@/core/project/tagSource.ts';
import type { Applied } from '@/core/project/snapshot.ts';
import { merging, sorting } from '@/core/sortInSteps.ts';

export interface TagTally {
  /** By device, then by group, then by name. */
  readonly sorted: readonly Tag[];
  /** Tags whose settings do not fit together. */
  readonly unfit: ReadonlySet<string>;
  /** Whole numbers with a unit and no scale: most of them are raw counts. */
  readonly toScale: ReadonlySet<string>;
  readonly countOn: ReadonlyMap<string, number>;
}

/** The project that is looked at. */
export interface Tallied {
  allTags(): Iterable<Tag>;
  tag(id: string): Tag | null;
  scale(tagId: string): unknown;
  device(id: string): { readonly name: string } | null;
  groupTextOf(groupId: string | null): string;
  effective(tagId: string): { readonly ok: boolean };
}

const STEP = 200;
const names = new Intl.Collator('en', { numeric: true });
type Order = (a: Tag, b: Tag) => number;

/** By device, then by group, then by name; what is of no device comes last. @param project whose groups the tags stand in */
function byPlace(project: Tallied): Order {
  const deviceOf = (tag: Tag): string => project.device(deviceIdOf(tag) ?? '')?.name ?? '\uffff';
  const isSameDevice = (a: Tag, b: Tag): boolean => deviceIdOf(a) === deviceIdOf(b);
  return (a, b) =>
    (isSameDevice(a, b) ? 0 : names.compare(deviceOf(a), deviceOf(b))) ||
    (a.groupId === b.groupId ? 0 : names.compare(project.groupTextOf(a.groupId), project.groupTextOf(b.groupId))) ||
    names.compare(a.name, b.name);
}

export function* tallyOf(project: Tallied): Generator<void, TagTally> {
  const all = [...project.allTags()];
  const tally = { unfit: new Set<string>(), toScale: new Set<string>(), countOn: new Map<string, number>() };
  for (const [at, tag] of all.entries()) {
    look(project, tag, tally);
    if (at % STEP === STEP - 1) yield;
  }
  return { ...tally, sorted: yield* sorting(all, byPlace(project)) };
}

/** The tally after a change, from the one before it. */
export function* tallyAfter(project: Tallied, before: TagTally, changes: Applied['changes']): Generator<void, TagTally> {
  // Settings of a link, device or group are part of every tag below it.
  if (changes.some(({ kind }) => kind === 'link' || kind === 'device' || kind === 'group')) return yield* tallyOf(project);
  const touched = new Set<string>();
  for (const [at, { kind, id }] of changes.entries()) {
    if (kind === 'tag' || kind === 'scale') touched.add(id);
    if (at % (10 * STEP) === 0) yield;
  }
  if (touched.size === 0) return before;
  const tally = { unfit: new Set(before.unfit), toScale: new Set(before.toScale), countOn: new Map(before.countOn) };
  const kept: Tag[] = [];
  for (const [at, tag] of before.sorted.entries()) {
    if (!touched.has(tag.id)) {
      kept.push(tag);
      // What it uses may have changed.
      if (expressionIn(tag) !== null) lookForFit(project, tag, tally.unfit);
    } else count(tally.countOn, tag, -1);
    if (at % (10 * STEP) === 0) yield;
  }
  const added: Tag[] = [];
  let looked = 0;
  for (const id of touched) {
    tally.unfit.delete(id);
    tally.toScale.delete(id);
    const tag = project.tag(id);
    if (tag) {
      added.push(tag);
      look(project, tag, tally);
    }
    if (++looked % STEP === 0) yield;
  }
  const order = byPlace(project);
  const sorted = yield* sorting(added, order);
  return { ...tally, sorted: yield* merging(kept, sorted, order) };
}

function look(project: Tallied, tag: Tag, tally: { unfit: Set<string>; toScale: Set<string>; countOn: Map<string, number> }): void {
  count(tally.countOn, tag, 1);
  lookForFit(project, tag, tally.unfit);
  if (tag.unit !== '' && tag.source.kind !== 'calculated' && /INT\b/.test(tag.type) && !project.scale(tag.id)) tally.toScale.add(tag.id);
}

function lookForFit(project: Tallied, { id }: Tag, unfit: Set<string>): void {
  if (project.effective(id).ok) unfit.delete(id);
  else unfit.add(id);
}

function count(countOn: Map<string, number>, tag: Tag, by: number): void {
  const deviceId = deviceIdOf(tag);
  if (deviceId !== null) countOn.set(deviceId, (countOn.get(deviceId) ?? 0) + by);
}
