/**
 * Which of the tags that are gone may have come back under another name. Evidence is the address, a comment that few
 * others have, and the words of the name; a name alone is none. Where the name is the address, it is the place in the list: a
 * controller that tells its tags itself has a renamed one where it was, and new ones at the end. Where two candidates are as good, nobody can know: that
 * is said, and the choice is left.
 */
import { nameKey } from '../project/nameKey.ts';
import type { ListTag } from './understand.ts';

export interface Proposal {
  /** *Renamed* stands where it stood; *moved* has another name and another address. */
  readonly kind: 'renamed' | 'moved';
  readonly from: ListTag;
  readonly to: ListTag;
  /** 0 to 1. */
  readonly confidence: number;
  readonly reason: string;
  /** Names that are as likely; empty where one alone fits. */
  readonly alternatives: readonly string[];
}

const WEIGHT = { address: 0.5, comment: 0.25, name: 0.4, otherComment: -0.1, place: 0.45, beside: 0.3 } as const;
/** Below this nothing is proposed. */
const ENOUGH = 0.5;
/** Two candidates closer than this are as good. */
const MARGIN = 0.1;
/** A comment that more tags have says nothing. */
const FEW = 20;

interface Pair {
  readonly from: ListTag;
  readonly to: ListTag;
  readonly score: number;
}

/** Two versions of a list, in the order that each has, with what is in one of them alone. */
export interface TwoVersions {
  readonly before: readonly ListTag[];
  readonly after: readonly ListTag[];
  /** Tags whose names are no longer in the list. */
  readonly gone: readonly ListTag[];
  /** Tags whose names are new in it. */
  readonly added: readonly ListTag[];
}

export function proposeRenames(versions: TwoVersions): readonly Proposal[] {
  const { gone, added } = versions;
  if (gone.length === 0 || added.length === 0) return [];
  const inPlace = standingWhere(versions);
  const byAddress = grouped(added, (tag) => tag.canonical);
  const byComment = grouped(added, (tag) => tag.comment);
  const goneByComment = grouped(gone, (tag) => tag.comment);
  const pairsOf = new Map<ListTag, Pair[]>();
  const pairs: Pair[] = [];
  for (const from of gone) {
    const sameComment = byComment.get(from.comment) ?? [];
    const isRare = sameComment.length <= FEW && (goneByComment.get(from.comment) ?? []).length <= FEW;
    const there = inPlace.get(from);
    for (const to of new Set([...(byAddress.get(from.canonical) ?? []), ...(isRare ? sameComment : []), ...(there ? [there.to] : [])])) {
      if (to.type !== from.type) continue;
      const pair = { from, to, score: scoreOf(from, to, isRare) + (to === there?.to ? there.weight : 0) };
      if (pair.score < ENOUGH) continue;
      pairs.push(pair);
      for (const tag of [from, to]) pairsOf.set(tag, [...(pairsOf.get(tag) ?? []), pair]);
    }
  }
  const settled = new Set<ListTag>();
  const proposals: Proposal[] = [];
  for (const pair of pairs.sort((a, b) => b.score - a.score || a.from.row - b.from.row || a.to.row - b.to.row)) {
    const { from, to, score } = pair;
    if (settled.has(from) || settled.has(to)) continue;
    const rivals = [...(pairsOf.get(from) ?? []), ...(pairsOf.get(to) ?? [])].filter(
      (other) => other !== pair && other.score > score - MARGIN && !settled.has(other.from) && !settled.has(other.to),
    );
    settled.add(from);
    if (rivals.length === 0) settled.add(to);
    const isInPlace = from.canonical === to.canonical && from.canonical !== '';
    const isBetween = inPlace.get(from)?.to === to;
    proposals.push({
      kind: isInPlace || isBetween ? 'renamed' : 'moved',
      from,
      to,
      confidence: Math.min(0.99, score) / (1 + rivals.length),
      reason: isBetween ? 'The same type, where it stood in the list.' : reasonOf(from, to, isInPlace),
      alternatives: [...new Set(rivals.map((r) => (r.from === from ? r.to.listName : r.from.listName)))],
    });
  }
  return proposals;
}

interface Standing {
  readonly to: ListTag;
  readonly weight: number;
}

/**
 * For each tag that is gone, the new one that stands where it stood: as many are gone between two neighbours as are new between
 * them, of the same types; less surely, it comes after the same one, or before it. Only where names are addresses, so that
 * nothing else tells them.
 */
function standingWhere({ before, after, gone, added }: TwoVersions): ReadonlyMap<ListTag, Standing> {
  const isNamed = (tag: ListTag | undefined): tag is ListTag => tag !== undefined && nameKey(tag.canonical) === nameKey(tag.listName);
  const found = new Map<ListTag, Standing>();
  if (!gone.some(isNamed)) return found;
  const fresh = runsOf(after, new Set(added));
  const comingAfter = new Map(fresh.map((run) => [run.after, run]));
  const comingBefore = new Map(fresh.map((run) => [run.before, run]));
  const pair = (were: readonly ListTag[], are: readonly ListTag[], weight: number): void => {
    for (const [i, tag] of were.entries()) {
      const to = are[i];
      if (!isNamed(tag) || !isNamed(to) || to.type !== tag.type) return;
      if (!found.has(tag)) found.set(tag, { to, weight });
    }
  };
  for (const run of runsOf(before, new Set(gone))) {
    const [behind, ahead] = [comingAfter.get(run.after), comingBefore.get(run.before)];
    const isAlike = behind?.tags.length === run.tags.length && run.tags.every((tag, i) => behind.tags[i]?.type === tag.type);
    if (behind && behind === ahead && isAlike) pair(run.tags, behind.tags, WEIGHT.place);
    pair(run.tags, behind?.tags ?? [], WEIGHT.beside);
    pair([...run.tags].reverse(), [...(ahead?.tags ?? [])].reverse(), WEIGHT.beside);
  }
  return found;
}

/** Tags that one version alone has, one after the other, with the names between which they stand. */
interface Run {
  readonly after: string;
  readonly before: string;
  readonly tags: readonly ListTag[];
}

function runsOf(tags: readonly ListTag[], only: ReadonlySet<ListTag>): readonly Run[] {
  const runs: Run[] = [];
  let run: ListTag[] = [];
  let last = '';
  for (const tag of [...tags, null]) {
    if (tag && only.has(tag)) {
      run.push(tag);
      continue;
    }
    const next = tag ? nameKey(tag.listName) : '';
    if (run.length > 0) runs.push({ after: last, before: next, tags: run });
    [run, last] = [[], next];
  }
  return runs;
}

function scoreOf(from: ListTag, to: ListTag, isRare: boolean): number {
  const address = from.canonical !== '' && from.canonical === to.canonical ? WEIGHT.address : 0;
  const comment = from.comment === '' || to.comment === '' ? 0 : from.comment !== to.comment ? WEIGHT.otherComment : isRare ? WEIGHT.comment : 0;
  return address + comment + WEIGHT.name * nameLikeness(from.listName, to.listName);
}

function reasonOf(from: ListTag, to: ListTag, isInPlace: boolean): string {
  const shared = from.comment !== '' && from.comment === to.comment;
  if (isInPlace) return `The same ${from.type} at ${to.address}${shared ? ', with the same comment' : ''}.`;
  return `The same type and comment${from.canonical === '' ? '' : `; it was at ${from.address} and is at ${to.address} now`}.`;
}

/** Words that two names share, of those that either has: 0 to 1. */
export function nameLikeness(a: string, b: string): number {
  const [one, other] = [wordsOf(a), wordsOf(b)];
  let shared = 0;
  const left = new Map<string, number>();
  for (const word of other) left.set(word, (left.get(word) ?? 0) + 1);
  for (const word of one) {
    const there = left.get(word) ?? 0;
    if (there === 0) continue;
    shared++;
    left.set(word, there - 1);
  }
  return (2 * shared) / Math.max(1, one.length + other.length);
}

/** `RollStand2.motorCurrent` is roll, stand, 2, motor, current. */
function wordsOf(name: string): readonly string[] {
  return (name.match(/\p{Lu}?\p{Ll}+|\p{Lu}+(?!\p{Ll})|\p{Lo}+|\d+/gu) ?? [name]).map((word) => word.toLowerCase());
}

function grouped(tags: readonly ListTag[], of: (tag: ListTag) => string): ReadonlyMap<string, readonly ListTag[]> {
  const groups = new Map<string, ListTag[]>();
  for (const tag of tags) {
    const key = of(tag);
    if (key === '') continue;
    const group = groups.get(key);
    if (group) group.push(tag);
    else groups.set(key, [tag]);
  }
  return groups;
}
