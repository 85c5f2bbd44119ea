/** The memory around a tag, read beside the scan: what another way to read it would find there. */
import { FARTHEST_CELLS } from '@/core/check/mistakes/mistakeSpace.ts';
import type { Sight } from '@/core/check/mistakes/way.ts';
import { deviceIdOf } from '@/core/project/tagSource.ts';
import type { WireValue } from '@/core/signal.ts';
import { areaOf, cellBytes } from '@/mapping/cells.ts';
import type { EffectiveSignal } from '@/mapping/effective.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import type { MemoryService } from '../memoryService.ts';

/** Where something differs, and where what agrees is looked at beside: a slow line has other things to do. */
const PATIENCE_MS = { patiently: 2000, briefly: 250 } as const;
/** A value of 64 bits in the place of one of 16. */
const WIDEST_BYTES = 8;

export class Surroundings {
  readonly #model: ProjectModel;
  readonly #memory: MemoryService;

  constructor(model: ProjectModel, memory: MemoryService) {
    this.#model = model;
    this.#memory = memory;
  }

  /** The value with what lies around it; without, where the device does not tell. */
  async around(tagId: string, signal: EffectiveSignal, wire: WireValue | null, how: keyof typeof PATIENCE_MS = 'patiently'): Promise<Sight> {
    const alone: Sight = { wire, around: null };
    const tag = this.#model.get('tag', tagId);
    const { span } = signal;
    const area = areaOf(signal);
    const device = this.#memory.of((tag && deviceIdOf(tag)) ?? '');
    if (!span || !area || !device.ok || wire?.kind !== 'bytes' || signal.index) return alone;
    const size = cellBytes(area);
    const cell = Math.floor(span.from / area.cellBits);
    const own = Math.ceil(wire.bytes.length / size);
    const from = Math.max(0, cell - FARTHEST_CELLS);
    const count = cell - from + Math.max(own, WIDEST_BYTES / size) + FARTHEST_CELLS;
    const read = await this.#memory.cells(device.value, { area: area.id, from, count }, AbortSignal.timeout(PATIENCE_MS[how])).catch(() => null);
    if (!read?.ok) return alone;
    // Only what hangs together with the value: a cell that is refused ends it.
    let first = cell - from;
    while (first > 0 && read.value[first - 1]) first--;
    let end = cell - from + own;
    while (read.value[end]) end++;
    const bytes = new Uint8Array((end - first) * size);
    for (let i = first; i < end; i++) bytes.set((read.value[i] ?? new Uint8Array(size)).subarray(0, size), (i - first) * size);
    const at = (cell - from - first) * size;
    // The value itself is that of the sample: what lies around it came a moment later.
    bytes.set(wire.bytes, at);
    return { wire, around: { bytes, at } };
  }
}
