/** The bits of a device's memory that a value takes. */
import type { Span } from '@/core/address/memoryMap.ts';
import type { DataType } from '@/core/value/dataType.ts';
import type { DriverDescription, Settings } from '@/drivers/contract.ts';

export interface TagSpan extends Span {
  readonly area: string;
}

/** @param key of the tag; null where places are no bits of memory */
export function tagSpan(key: string, driver: DriverDescription | null, canonical: string, type: DataType, dialect: Settings): TagSpan | null {
  const span = driver?.memory?.spanOf(canonical, type, dialect) ?? null;
  return span && { key, area: span.area, from: span.from, to: span.from + span.bits };
}
