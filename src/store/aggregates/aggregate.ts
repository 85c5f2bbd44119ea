/** How one kind of entity is kept in its table. */
import type { Statement } from '../protocol.ts';

export interface Aggregate<T> {
  readonly load: string;
  readonly fromRow: (row: Readonly<Record<string, unknown>>) => T;
  readonly put: (entity: T) => Statement;
  readonly remove: (id: string) => Statement;
}

/** Columns of the database are never null where this reads them. */
export function text(value: unknown): string {
  return typeof value === 'string' ? value : String(value);
}
export function record(value: unknown): Readonly<Record<string, unknown>> {
  return value as Readonly<Record<string, unknown>>;
}
export function maybeText(value: unknown): string | null {
  return value === null || value === undefined ? null : text(value);
}
export function maybeNumber(value: unknown): number | null {
  return value === null || value === undefined ? null : Number(value);
}
