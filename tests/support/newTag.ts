/** A whole number at an address, as a command brings it. */
export function newTag(deviceId: string, name: string, address = 'HR2'): Record<string, unknown> {
  return {
    deviceId,
    name,
    group: '',
    address,
    type: 'INT',
    order: '',
    periodMs: 100,
    access: 'readWrite',
    unit: '',
    decimals: null,
    rangeLow: null,
    rangeHigh: null,
    comment: '',
    sourceId: '',
  };
}
