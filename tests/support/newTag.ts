import { newPoint, type PointSource } from '@/core/project/tagSource.ts';

/** A whole number at an address, as a command brings it. */
export function newTag(deviceId: string, name: string, address = 'HR2', point: Partial<PointSource> = {}): Record<string, unknown> {
  return {
    name,
    source: newPoint(deviceId, address, { periodMs: 100, ...point }),
    type: 'INT',
    access: 'readWrite',
    unit: '',
    decimals: null,
    rangeLow: null,
    rangeHigh: null,
    comment: '',
    listId: '',
  };
}
