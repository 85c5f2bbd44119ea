/**
 * A made-up controller program that changes: two versions of its list, and the truth of what became of every tag. Written
 * before what is tested with it, from what engineers do: rename in place, move to another part, swap two names, give an
 * old name to something else, copy a part so that twins cannot be told apart, resize, add, delete.
 */
import type { ListTag } from '@/core/taglist/understand.ts';

export interface ListHistory {
  readonly before: readonly ListTag[];
  readonly after: readonly ListTag[];
  /** New name by old name, of the renamed whose evidence is clear. */
  readonly renamed: ReadonlyMap<string, string>;
  /** Old names whose new name nobody can know from the lists. */
  readonly ambiguous: ReadonlySet<string>;
  readonly deleted: ReadonlySet<string>;
}

const PARTS = ['Infeed', 'Steamer', 'Stand', 'Kiln', 'Cooler', 'Sifter', 'Bin', 'Bagger'];
const THINGS = ['Motor', 'Valve', 'Temp', 'Level', 'Speed', 'Current', 'Gap', 'Pressure', 'Weight', 'Door'];
const ASPECTS = ['Actual', 'SetPoint', 'Running', 'Fault', 'Ready', 'Hours', 'Limit', 'Auto'];
const OTHER_WORDS: Readonly<Record<string, string>> = { SetPoint: 'Sp', Actual: 'Act', Running: 'Run', Fault: 'Flt', Temp: 'Temperature' };
const TYPES = ['INT', 'UINT', 'REAL', 'DINT', 'BOOL'] as const;

/** Small and repeatable: a linear congruential generator (constants of Numerical Recipes, from memory). */
export function randomOf(seed: number): () => number {
  let state = seed >>> 0;
  return () => (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) / 2 ** 32;
}

/** @param part how much of the list changes, 0 to 1 */
export function listHistory(count: number, part: number, seed: number): ListHistory {
  const random = randomOf(seed);
  const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)] as T;
  const before: ListTag[] = [];
  for (let i = 0; i < count; i++) {
    const [area, thing, aspect] = [PARTS[i % 8] ?? '', THINGS[Math.floor(i / 8) % 10] ?? '', ASPECTS[Math.floor(i / 80) % 8] ?? ''];
    const name = `${area}${Math.floor(i / 640) + 1}.${thing}.${aspect}`;
    before.push(tagOf(name, i * 2, TYPES[i % 5] ?? 'INT', random() < 0.7 ? `${thing} of ${area} ${Math.floor(i / 640) + 1}, ${aspect}` : ''));
  }
  let nextFree = count * 2 + 1000;
  const after = new Map(before.map((tag) => [tag.listName, tag]));
  const renamed = new Map<string, string>();
  const ambiguous = new Set<string>();
  const deleted = new Set<string>();
  const touched = new Set<string>();
  const taken = new Set(before.map((t) => t.listName.toLowerCase()));
  const put = (old: ListTag, now: ListTag): void => {
    after.delete(old.listName);
    after.set(now.listName, now);
    taken.add(now.listName.toLowerCase());
  };
  const fresh = (): ListTag | null => {
    for (let tries = 0; tries < 50; tries++) {
      const tag = pick(before);
      if (touched.has(tag.listName)) continue;
      touched.add(tag.listName);
      return tag;
    }
    return null;
  };
  for (let n = 0; n < count * part; n++) {
    const tag = fresh();
    if (!tag) break;
    const what = random();
    if (what < 0.3) {
      // Renamed in place: another word, a prefix, a number.
      const name = free(taken, [otherWord(tag.listName), `x_${tag.listName}`, `${tag.listName}_old`, `${tag.listName}2`], pick);
      renamed.set(tag.listName, name);
      put(tag, { ...tag, listName: name, name });
    } else if (what < 0.42) {
      // Moved to another part of the program: its last words and its comment stay, its address does not.
      if (tag.comment === '') continue;
      const name = free(taken, [`Hall.${tag.listName}`, `Line2.${tag.listName}`], pick);
      renamed.set(tag.listName, name);
      put(tag, { ...tag, listName: name, name, address: `HR${nextFree}`, canonical: `HR${nextFree}` });
      nextFree += 2;
    } else if (what < 0.5) {
      // Two tags swap their names: nothing is gone, both have other addresses.
      const other = fresh();
      if (!other) break;
      after.set(tag.listName, { ...tag, address: other.address, canonical: other.canonical, type: other.type });
      after.set(other.listName, { ...other, address: tag.address, canonical: tag.canonical, type: tag.type });
    } else if (what < 0.56) {
      // A name is used again for something else, and what had it has a new one.
      const name = free(taken, [`${tag.listName}_1`, otherWord(tag.listName)], pick);
      put(tag, { ...tag, listName: name, name });
      after.set(tag.listName, tagOf(tag.listName, nextFree, tag.type, 'Spare'));
      nextFree += 2;
    } else if (what < 0.62) {
      // Twins: two tags that differ in nothing but the address go, and two come at other addresses.
      const other = fresh();
      if (!other) break;
      const stem = `Twin${n}`;
      for (const [i, twin] of [tag, other].entries()) {
        const place = before.indexOf(twin);
        const old = { ...tagOf(`${stem}.${'ab'[i] ?? ''}`, place * 2, 'INT', `twin ${n}`) };
        before[place] = old;
        after.delete(twin.listName);
        after.delete(old.listName);
        ambiguous.add(old.listName);
        touched.add(old.listName);
        const now = tagOf(`${stem}.${'xy'[i] ?? ''}`, nextFree, 'INT', `twin ${n}`);
        nextFree += 2;
        after.set(now.listName, now);
      }
    } else if (what < 0.74) {
      deleted.add(tag.listName);
      after.delete(tag.listName);
    } else if (what < 0.82) {
      const now = tagOf(`New${n}.${pick(THINGS)}.${pick(ASPECTS)}`, nextFree, pick(TYPES), random() < 0.5 ? 'Added later' : '');
      nextFree += 2;
      after.set(now.listName, now);
    } else if (what < 0.9) after.set(tag.listName, { ...tag, type: tag.type === 'INT' ? 'DINT' : 'INT' });
    else after.set(tag.listName, { ...tag, address: `HR${nextFree}`, canonical: `HR${(nextFree += 2) - 2}` });
  }
  return { before, after: [...after.values()], renamed, ambiguous, deleted };
}

function tagOf(name: string, offset: number, type: string, comment: string): ListTag {
  const address = type === 'BOOL' ? `CO${offset}` : `HR${offset}`;
  return {
    row: 0,
    listName: name,
    name,
    group: '',
    address,
    canonical: address,
    type,
    order: '',
    periodMs: 1000,
    access: 'read',
    unit: '',
    decimals: null,
    rangeLow: null,
    rangeHigh: null,
    scale: null,
    comment,
    initial: '',
    names: [],
    within: [],
    enumeration: '',
    isForPanel: false,
  };
}

function otherWord(name: string): string {
  for (const [word, other] of Object.entries(OTHER_WORDS)) if (name.includes(word)) return name.replace(word, other);
  return `${name}New`;
}

function free(taken: ReadonlySet<string>, names: readonly string[], pick: <T>(list: readonly T[]) => T): string {
  const open = names.filter((name) => !taken.has(name.toLowerCase()));
  return open.length > 0 ? pick(open) : `${names[0] ?? ''}_${taken.size}`;
}
