/** What lies in one area of a device's memory: its tags as spans, and the requests that read them. */
import { overlapsOf, type Span } from '@/core/address/memoryMap.ts';
import { MemoryRows } from '@/core/address/memoryRows.ts';
import type { Device, Link, Tag } from '@/core/project/entities.ts';
import { deviceIdOf } from '@/core/project/tagSource.ts';
import type { Result } from '@/core/result.ts';
import type { DriverDescription, MemoryArea, MemoryPart, PointSpec } from '@/drivers/contract.ts';
import { pointOf, type EffectiveSignal } from './effective.ts';

export interface AreaMap {
  readonly spans: readonly Span[];
  readonly rows: MemoryRows;
  /** Tags that have bits in common with others. */
  readonly clashing: ReadonlySet<string>;
  /** In cells, by where they begin. */
  readonly requests: readonly AreaRequest[];
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
  effective(tagId: string): Result<EffectiveSignal>;
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
export function* mappingArea(project: MappedProject, { device, link, driver, part, area }: MappedArea): Generator<void, AreaMap> {
  const spans: Span[] = [];
  const groups = new Map<number, PointSpec[]>();
  let seen = 0;
  for (const tag of project.allTags()) {
    if (++seen % STEP === 0) yield;
    if (deviceIdOf(tag) !== device.id) continue;
    const signal = project.effective(tag.id);
    const span = signal.ok ? part.spanOf(signal.value.canonical, signal.value.def.type, device.dialect) : null;
    if (!signal.ok || span?.area !== area.id) continue;
    spans.push({ key: tag.id, from: span.from, to: span.from + span.bits });
    const points = groups.get(signal.value.periodMs);
    if (points) points.push(pointOf(tag.id, signal.value));
    else groups.set(signal.value.periodMs, [pointOf(tag.id, signal.value)]);
  }
  yield;
  const rows = new MemoryRows(spans, area.cellBits);
  yield;
  // Bits lie in words by intent.
  const whole = spans.filter(({ from, to }) => to - from >= area.cellBits);
  const clashing = new Set(overlapsOf(whole).flatMap(({ one, other }) => [one.key, other.key]));
  const requests: AreaRequest[] = [];
  for (const [periodMs, points] of groups) {
    yield;
    for (const { area: of, start, count, keys } of driver.foresee?.(link.settings, device.settings, device.dialect, points) ?? [])
      if (of === area.id) requests.push({ from: start, to: start + count, periodMs, tags: keys.length });
  }
  return { spans, rows, clashing, requests: requests.sort((a, b) => a.from - b.from) };
}
