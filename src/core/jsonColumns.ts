/** Like objects by columns: what is alike stands side by side, and JSON of it compresses to half of what that of objects does. */
import { fromTable, toTable } from './jsonTable.ts';

export interface JsonColumns {
  readonly count: number;
  /** What all of them have alike. */
  readonly shared: Readonly<Record<string, unknown>>;
  readonly fields: readonly string[];
  /** One list a field, in the order of the objects. */
  readonly columns: readonly (readonly unknown[])[];
}

/** @param items all with the same fields */
export function toColumns(items: readonly object[]): JsonColumns {
  const table = toTable(items);
  if (!table && items.length > 0) throw new Error('Objects with different fields have no columns in common.');
  const { shared, fields, rows } = table ?? { shared: {}, fields: [], rows: [] };
  return { count: items.length, shared, fields, columns: fields.map((_, i) => rows.map((row) => row[i])) };
}

/** The objects again; values that they share are one and the same, and not to be changed. */
export function fromColumns<T>({ count, shared, fields, columns }: JsonColumns): readonly T[] {
  return fromTable<T>({ shared, fields, rows: Array.from({ length: count }, (_, n) => columns.map((column) => column[n])) });
}
