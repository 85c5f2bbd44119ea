/** What the memory of a tag is made of, by what its driver says of the area that it lies in. */
import type { Cells } from '@/core/check/mistakes/mistakeSpace.ts';
import type { MemoryArea } from '@/drivers/contract.ts';
import type { EffectiveSignal } from './effective.ts';

/** The area of memory that a tag lies in; null where its source gives values, not bytes. */
export function areaOf({ span, driver }: Pick<EffectiveSignal, 'span' | 'driver'>): MemoryArea | null {
  return (span && driver?.memory?.areas.find(({ id }) => id === span.area)) ?? null;
}

/** Bytes of one cell as they come: a single bit comes as a byte of its own. */
export function cellBytes({ cellBits }: MemoryArea): number {
  return cellBits === 1 ? 1 : cellBits / 8;
}

/** Null where its source gives values, not bytes. */
export function cellsOf(signal: Pick<EffectiveSignal, 'span' | 'driver'>): Cells | null {
  const area = areaOf(signal);
  return area && { bytes: cellBytes(area), name: area.cell };
}
