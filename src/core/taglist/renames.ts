/**
 * Which of the tags that are gone may have come back under another name. Evidence is the address, a comment that few
 * others have, and the words of the name; a name alone is none. Where two candidates are as good, nobody can know: that
 * is said, and the choice is left.
 */
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

const WEIGHT = { address: 0.5, comment: 0.25, name: 0.4, otherComment: -0.1 } as const;
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

/** @param gone tags whose names are no longer in the list @param added tags whose names are new in it */
export function proposeRenames(gone: readonly ListTag[], added: readonly ListTag[]): readonly Proposal[] {
  if (gone.length === 0 || added.length === 0) return [];
  const byAddress = grouped(added, (tag) => tag.canonical);
  const byComment = grouped(added, (tag) => tag.comment);
  const goneByComment = grouped(gone, (tag) => tag.comment);
  const pairsOf = new Map<ListTag, Pair[]>();
  const pairs: Pair[] = [];
  for (const from of gone) {
    const sameComment = byComment.get(from.comment) ?? [];
    const isRare = sameComment.length <= FEW && (goneByComment.get(from.comment) ?? []).length <= FEW;
    for (const to of new Set([...(byAddress.get(from.canonical) ?? []), ...(isRare ? sameComment : [])])) {
      if (to.type !== from.type) continue;
      const pair = { from, to, score: scoreOf(from, to, isRare) };
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
    proposals.push({
      kind: isInPlace ? 'renamed' : 'moved',
      from,
      to,
      confidence: Math.min(0.99, score) / (1 + rivals.length),
      reason: reasonOf(from, to, isInPlace),
      alternatives: [...new Set(rivals.map((r) => (r.from === from ? r.to.listName : r.from.listName)))],
    });
  }
  return proposals;
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
