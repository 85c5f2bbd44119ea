/** A tag that lives in Mill Latch, as it is made while a page is drawn: its address comes later, or never. */
export function localTag(name: string, type: 'BOOL' | 'REAL' | 'INT'): Readonly<Record<string, unknown>> {
  return {
    name,
    source: { kind: 'local' },
    type,
    access: 'readWrite',
    unit: '',
    decimals: null,
    rangeLow: null,
    rangeHigh: null,
    comment: '',
    listId: '',
    initial: type === 'BOOL' ? 'off' : '0',
  };
}
