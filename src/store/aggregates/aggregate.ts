/** How one kind of entity is kept in its table: one at a time, or thousands at once. */
import type { Statement } from '../protocol.ts';

/** A column for each field, and how its value is read back. */
type ColumnsOf<T> = { readonly [K in keyof T]-?: readonly [column: string, read: (value: unknown) => T[K]] };

export interface Aggregate<T> {
  readonly load: string;
  readonly fromRow: (row: Readonly<Record<string, unknown>>) => T;
  readonly put: (entity: T) => Statement;
  readonly remove: (id: string) => Statement;
  /** Lines of CSV for {@link Aggregate.putAll}. */
  readonly csvOf: (entity: T) => string;
  /** Puts many at once. @param areNew none of them is there yet */
  readonly putAll: (csv: string, areNew: boolean) => readonly Statement[];
  readonly removeAll: (ids: readonly string[]) => Statement;
}

export function aggregate<T extends { readonly id: string }>(table: string, columns: ColumnsOf<T>): Aggregate<T> {
  const fields = Object.keys(columns) as (keyof T & string)[];
  const names = fields.map((field) => columns[field][0]);
  const list = names.join(', ');
  const onConflict = `on conflict (id) do update set ${names
    .filter((name) => name !== 'id')
    .map((name) => `${name} = excluded.${name}`)
    .join(', ')}`;
  const upsert = `insert into ${table} (${list}) values (${names.map((_, i) => `$${i + 1}`).join(', ')}) ${onConflict}`;
  return {
    load: `select ${list} from ${table}`,
    fromRow: (row) => Object.fromEntries(fields.map((field) => [field, columns[field][1](row[columns[field][0]])])) as unknown as T,
    put: (entity) => ({ sql: upsert, params: fields.map((field) => (Array.isArray(entity[field]) ? JSON.stringify(entity[field]) : entity[field])) }),
    remove: (id) => ({ sql: `delete from ${table} where id = $1`, params: [id] }),
    csvOf: (entity) => {
      let line = '';
      for (const field of fields) line += `${line === '' ? '' : ','}${csvCell(entity[field])}`;
      return `${line}\n`;
    },
    putAll: (csv, areNew) =>
      areNew
        ? [copyInto(table, list, csv)]
        : [
            { sql: `create temporary table put_${table} (like ${table} including defaults) on commit drop` },
            copyInto(`put_${table}`, list, csv),
            { sql: `insert into ${table} (${list}) select ${list} from put_${table} ${onConflict}` },
            { sql: `drop table put_${table}` },
          ],
    removeAll: (ids) => ({ sql: `delete from ${table} where id = any($1::uuid[])`, params: [`{${ids.join(',')}}`] }),
  };
}

function copyInto(table: string, list: string, csv: string): Statement {
  return { sql: `copy ${table} (${list}) from stdin with (format csv)`, copy: csv };
}

/** An empty cell is null, a quoted empty one the empty text. */
function csvCell(value: unknown): string {
  if (value === null || value === undefined) return '';
  if (typeof value === 'number' || typeof value === 'boolean') return String(value);
  const words = typeof value === 'string' ? value : JSON.stringify(value);
  return `"${words.includes('"') ? words.replaceAll('"', '""') : words}"`;
}

/** Columns of the database are never null where these read them. */
export const text = (value: unknown): string => (typeof value === 'string' ? value : String(value));
export const count = (value: unknown): number => Number(value);
export const json = <T>(value: unknown): T => value as T;
export const maybeText = (value: unknown): string | null => (value === null || value === undefined ? null : text(value));
export const maybeNumber = (value: unknown): number | null => (value === null || value === undefined ? null : Number(value));
