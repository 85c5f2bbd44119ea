/** What lies in one area of a device's memory: its tags as spans, and the requests that read them. */
import { overlapsOf, type Span } from '@/core/address/memoryMap.ts';
import { MemoryRows } from '@/core/address/memoryRows.ts';
import type { Device, Link, Tag } from '@/core/project/entities.ts';
import { deviceIdOf } from '@/core/project/tagSource.ts';
import type { DriverDescription, MemoryArea, MemoryPart } from '@/drivers/contract.ts';
import { pointOf, type AskSignal, type EffectiveSignal } from './effective.ts';

export interface AreaMap {
  readonly spans: readonly Span[];
  readonly rows: MemoryRows;
  /** Tags that have bits in common with others. */
  readonly clashing: ReadonlySet<string>;
  /** What is read, by period: the requests are planned from it. */
  readonly groups: ReadonlyMap<number, AreaGroup>;
}

/** The tags of one period with their signals, side by side: points are made of them when requests are planned. */
interface AreaGroup {
  readonly ids: string[];
  readonly signals: EffectiveSignal[];
}

/** One request of the read plan of a scan group. */
export interface AreaRequest {
  readonly from: number;
  readonly to: number;
  readonly periodMs: number;
  readonly tags: number;
}

export interface MappedProject {
  allTags(): Iterable<Tag>;
  /** Asks for the signals of tags in their order. */
  effectiveInTurn(): AskSignal;
}

export interface MappedArea {
  readonly device: Device;
  readonly link: Link;
  readonly driver: DriverDescription;
  readonly part: MemoryPart;
  readonly area: MemoryArea;
}

const STEP = 500;

/** In steps: a device may have a hundred thousand tags. */
export function* mappingArea(project: MappedProject, { device, area }: MappedArea): Generator<void, AreaMap> {
  const spans: Span[] = [];
  /** Tags that an index moves: they lie over others by intent. */
  const moved = new Set<string>();
  const groups = new Map<number, AreaGroup>();
  const effectiveOf = project.effectiveInTurn();
  let seen = 0;
  for (const tag of project.allTags()) {
    if (++seen % STEP === 0) yield;
    if (deviceIdOf(tag) !== device.id) continue;
    const signal = effectiveOf(tag);
    if (!signal.ok || signal.value.span?.area !== area.id) continue;
    const { periodMs, index, span } = signal.value;
    spans.push(span);
    if (index) moved.add(tag.id);
    let group = groups.get(periodMs);
    if (!group) groups.set(periodMs, (group = { ids: [], signals: [] }));
    group.ids.push(tag.id);
    group.signals.push(signal.value);
  }
  yield;
  const rows = new MemoryRows(spans, area.cellBits);
  yield;
  // Bits lie in words by intent.
  const whole = rows.spans.filter(({ key, from, to }) => to - from >= area.cellBits && !moved.has(key));
  const clashing = new Set(overlapsOf(whole).flatMap(({ one, other }) => [one.key, other.key]));
  return { spans, rows, clashing, groups };
}

/** The requests that read an area, in cells, by where they begin; in steps, and after the map itself, which does not wait for them. */
export function* planningArea({ device, link, driver, area }: MappedArea, groups: AreaMap['groups']): Generator<void, readonly AreaRequest[]> {
  const requests: AreaRequest[] = [];
  for (const [periodMs, { ids, signals }] of groups) {
    yield;
    const points = signals.map((signal, i) => pointOf(ids[i] ?? '', signal));
    yield;
    for (const { area: of, start, count, keys } of driver.foresee?.(link.settings, device.settings, device.dialect, points) ?? [])
      if (of === area.id) requests.push({ from: start, to: start + count, periodMs, tags: keys.length });
  }
  return requests.sort((a, b) => a.from - b.from);
}
