/**
 * Like objects as a table: fields that all of them share once, the others as rows. JSON of tags is a third as long so,
 * and read in half the time.
 */
export interface JsonTable {
  readonly shared: Readonly<Record<string, unknown>>;
  readonly fields: readonly string[];
  readonly rows: readonly (readonly unknown[])[];
}

/** Null where the objects do not all have the same fields. */
export function toTable(items: readonly object[]): JsonTable | null {
  const list = items as readonly Readonly<Record<string, unknown>>[];
  const [first] = list;
  if (!first) return null;
  const keys = Object.keys(first);
  for (const item of list) {
    let count = 0;
    for (const key in item) {
      if (!(key in first)) return null;
      count++;
    }
    if (count !== keys.length) return null;
  }
  const shared: Record<string, unknown> = {};
  const fields: string[] = [];
  for (const key of keys) {
    const value = first[key];
    if (list.every((item) => isSame(item[key], value))) shared[key] = value;
    else fields.push(key);
  }
  return { shared, fields, rows: list.map((item) => fields.map((field) => item[field])) };
}

/** The objects again; values that they share are one and the same, and not to be changed. */
export function fromTable<T>({ shared, fields, rows }: JsonTable): readonly T[] {
  return rows.map((row) => {
    const item: Record<string, unknown> = { ...shared };
    for (let i = 0; i < fields.length; i++) item[fields[i] ?? ''] = row[i];
    return item as T;
  });
}

/** Where a field of a table's objects stands: for those who build many, each with its own literal, which is faster. @param missing for a field that the table does not have */
export function fieldIn<T>({ shared, fields }: JsonTable, field: keyof T & string, missing: unknown): (row: readonly unknown[]) => unknown {
  const at = fields.indexOf(field);
  const value = field in shared ? shared[field] : missing;
  return at < 0 ? () => value : (row) => row[at];
}

/** Small things are compared as they are written. */
function isSame(a: unknown, b: unknown): boolean {
  return a === b || (typeof a === 'object' && typeof b === 'object' && a !== null && b !== null && JSON.stringify(a) === JSON.stringify(b));
}
