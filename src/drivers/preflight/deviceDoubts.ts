/** What is doubtful of the tags of one device beside each other. */
import { overlapsOf, type Overlap, type Span } from '@/core/address/memoryMap.ts';
import { accessOf } from '@/core/project/inherited.ts';
import type { Device, Tag } from '@/core/project/entities.ts';
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

export function placedOf(project: PreflightProject, device: Device, tag: Tag, signal: EffectiveSignal): Placed {
  const { driver, canonical, def, writable } = signal;
  const isWritten = writable && accessOf(tag, project.inheritedBy(tag.groupId)) === 'readWrite';
  const span = driver?.memory?.spanOf(canonical, def.type, device.dialect) ?? null;
  return {
    tag,
    signal,
    isWritten,
    area: span && span.area,
    span: span && { key: tag.id, from: span.from, to: span.from + span.bits },
    looksLike: tag.name.toLowerCase().replace(/[\s_-]+/g, ''),
  };
}

export function deviceDoubts(project: PreflightProject, all: readonly Placed[]): readonly Doubt[] {
  const placed = new Map<string, Placed>();
  const byArea = new Map<string, Span[]>();
  const byPlace = new Map<string, Placed>();
  const doubts: Doubt[] = [];
  for (const here of all) {
    placed.set(here.tag.id, here);
    if (here.span && here.area !== null) {
      const spans = byArea.get(here.area);
      if (spans) spans.push(here.span);
      else byArea.set(here.area, [here.span]);
      continue;
    }
    // Named places have no bits in common, but they can be named twice.
    const twin = byPlace.get(here.signal.canonical);
    if (twin) doubts.push(...sameDoubts(twin, here));
    else byPlace.set(here.signal.canonical, here);
  }
  for (const spans of byArea.values()) for (const overlap of overlapsOf(spans)) doubts.push(...overlapDoubts(overlap, placed));
  return [...doubts, ...alikeNames(project, all)];
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
function alikeNames(project: PreflightProject, all: readonly Placed[]): readonly Doubt[] {
  const first = new Map<string, Tag>();
  const doubts: Doubt[] = [];
  for (const { tag, looksLike } of all) {
    const other = first.get(looksLike);
    if (!other) first.set(looksLike, tag);
    else if (other.name !== tag.name)
      doubts.push({
        code: 'alike-names',
        severity: 'note',
        message: `${project.pathOf(tag)} and ${project.pathOf(other)} have names that look alike.`,
        about: { kind: 'tag', id: tag.id },
      });
  }
  return doubts;
}
