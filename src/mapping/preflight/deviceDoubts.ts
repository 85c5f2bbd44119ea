/** What is doubtful of the tags of one device beside each other. */
import { overlapsOf, type Overlap, type Span } from '@/core/address/memoryMap.ts';
import type { Tag } from '@/core/project/entities.ts';
import { formatDataType } from '@/core/value/dataType.ts';
import type { EffectiveSignal } from '../effective.ts';
import type { Doubt, PreflightProject } from './doubt.ts';

/** Where a tag lies and what is asked of it: worked out once, as long as the tag and its settings are the same. */
export interface Placed {
  readonly tag: Tag;
  readonly signal: EffectiveSignal;
  readonly isWritten: boolean;
  readonly area: string | null;
  readonly span: Span | null;
  /** Its name as a person would take it for another one. */
  readonly looksLike: string;
}

export function placedOf(tag: Tag, signal: EffectiveSignal): Placed {
  const { span, writable } = signal;
  return {
    tag,
    signal,
    isWritten: writable,
    area: span && span.area,
    span,
    looksLike: tag.name.toLowerCase().replace(/[\s_-]+/g, ''),
  };
}

/** The tags of one device, kept in the order of their places, and what is doubtful of them. */
export class DeviceLook {
  readonly #placed = new Map<string, Placed>();
  readonly #areas = new Map<string, { readonly spans: Map<string, Span>; doubts: readonly Doubt[] | null }>();
  readonly #named = new Gathered();
  readonly #alike = new Gathered();

  /** Takes what is known of a tag now; null when it is here no more, or has no place. */
  put(tagId: string, placed: Placed | null): void {
    const before = this.#placed.get(tagId);
    if (before) this.#remove(before);
    if (!placed) return;
    this.#placed.set(tagId, placed);
    this.#alike.add(placed.looksLike, placed);
    // What an index moves lies over others by intent.
    if (placed.signal.index) return;
    // Named places have no bits in common, but they can be named twice.
    if (!placed.span || placed.area === null) return this.#named.add(placed.signal.canonical, placed);
    const area = this.#areas.get(placed.area) ?? { spans: new Map<string, Span>(), doubts: null };
    area.spans.set(tagId, placed.span);
    area.doubts = null;
    this.#areas.set(placed.area, area);
  }

  #remove(placed: Placed): void {
    this.#placed.delete(placed.tag.id);
    this.#alike.remove(placed.looksLike, placed);
    if (placed.signal.index) return;
    const area = placed.area === null ? undefined : this.#areas.get(placed.area);
    if (!area) return this.#named.remove(placed.signal.canonical, placed);
    area.spans.delete(placed.tag.id);
    area.doubts = null;
  }

  *doubts(project: PreflightProject): Generator<void, readonly Doubt[]> {
    const all: Doubt[] = [];
    for (const area of this.#areas.values()) {
      if (area.doubts === null) {
        yield;
        area.doubts = overlapsOf([...area.spans.values()]).flatMap((overlap) => overlapDoubts(overlap, this.#placed));
      }
      all.push(...area.doubts);
    }
    for (const [first, ...others] of this.#named.several()) for (const other of others) if (first) all.push(...sameDoubts(first, other));
    for (const alike of this.#alike.several()) all.push(...alikeNames(project, alike));
    return all;
  }
}

/** Tags by a key, and those keys that several have. */
class Gathered {
  readonly #first = new Map<string, Placed>();
  /** The first too. */
  readonly #several = new Map<string, Placed[]>();

  add(key: string, placed: Placed): void {
    const first = this.#first.get(key);
    if (!first) return void this.#first.set(key, placed);
    const several = this.#several.get(key);
    if (several) several.push(placed);
    else this.#several.set(key, [first, placed]);
  }

  remove(key: string, placed: Placed): void {
    const left = (this.#several.get(key) ?? []).filter((one) => one !== placed);
    if (left.length > 1) this.#several.set(key, left);
    else this.#several.delete(key);
    const [first] = left;
    if (first) this.#first.set(key, first);
    else this.#first.delete(key);
  }

  several(): Iterable<readonly Placed[]> {
    return this.#several.values();
  }
}

function overlapDoubts({ one, other, how }: Overlap, placed: ReadonlyMap<string, Placed>): readonly Doubt[] {
  const [a, b] = [placed.get(one.key), placed.get(other.key)];
  if (!a || !b) return [];
  if (how === 'same') return sameDoubts(a, b);
  if (how === 'inside' && isPart(b) && holdsBits(a)) {
    if (!a.isWritten || !b.isWritten) return [];
    return [
      {
        code: 'bit-of-written-word',
        severity: 'warning',
        message: `${b.tag.name} is a part of ${a.tag.name}, and both are written: the one can undo the other.`,
        about: { kind: 'tag', id: b.tag.id },
      },
    ];
  }
  return [
    {
      code: 'overlap',
      severity: 'error',
      message: `${b.tag.name} (${described(b)}) overlaps ${a.tag.name} (${described(a)}).`,
      about: { kind: 'tag', id: b.tag.id },
      otherId: a.tag.id,
    },
  ];
}

function sameDoubts(a: Placed, b: Placed): readonly Doubt[] {
  const about = { kind: 'tag', id: b.tag.id } as const;
  const [typeA, typeB] = [formatDataType(a.signal.def.type), formatDataType(b.signal.def.type)];
  if (typeA !== typeB || a.signal.def.order !== b.signal.def.order)
    return [
      {
        code: 'two-types',
        severity: 'warning',
        message: `${b.tag.name} reads the same place as ${a.tag.name}, the one as ${described(b)}, the other as ${described(a)}.`,
        about,
      },
    ];
  if (a.isWritten && b.isWritten)
    return [
      { code: 'written-twice', severity: 'warning', message: `${b.tag.name} and ${a.tag.name} are the same place, and both are written.`, about },
    ];
  if (a.tag.unit !== b.tag.unit || JSON.stringify(a.signal.def.scale) !== JSON.stringify(b.signal.def.scale))
    return [
      {
        code: 'two-meanings',
        severity: 'warning',
        message: `${b.tag.name} and ${a.tag.name} are the same place with another scale or unit.`,
        about,
      },
    ];
  return [];
}

function described({ signal: { def } }: Placed): string {
  return def.type.kind === 'boolean' || def.order.length < 3 ? formatDataType(def.type) : `${formatDataType(def.type)} ${def.order}`;
}

function isPart({ signal: { def } }: Placed): boolean {
  return def.type.kind === 'boolean' || (def.type.kind === 'integer' && def.type.field !== null);
}

/** Whose bits can be values of their own. */
function holdsBits({ signal: { def } }: Placed): boolean {
  return def.type.kind === 'integer' && def.type.coding === 'binary' && def.type.time === null;
}

/** Names that a person would take for one: `Bed_Temp` and `bed_temp` in two groups. */
function alikeNames(project: PreflightProject, [first, ...others]: readonly Placed[]): readonly Doubt[] {
  if (!first) return [];
  return others
    .filter(({ tag }) => tag.name !== first.tag.name)
    .map(({ tag }) => ({
      code: 'alike-names',
      severity: 'note',
      message: `${project.pathOf(tag)} and ${project.pathOf(first.tag)} have names that look alike.`,
      about: { kind: 'tag', id: tag.id },
    }));
}
