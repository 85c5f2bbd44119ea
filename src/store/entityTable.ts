/** How the entities of one kind are kept in its table: one at a time, or thousands at once. */
import { fieldsOf, type Kind, type Stored } from '@/core/project/kinds/kind.ts';
import type { Statement } from './protocol.ts';

export interface EntityTable<T> {
  readonly load: string;
  readonly fromRow: (row: Readonly<Record<string, unknown>>) => T;
  readonly put: (entity: T) => Statement;
  readonly remove: (id: string) => Statement;
  /** Lines of CSV for {@link EntityTable.putAll}. */
  readonly csvOf: (entity: T) => string;
  /** Puts many at once. @param areNew none of them is there yet */
  readonly putAll: (csv: string, areNew: boolean) => readonly Statement[];
  readonly removeAll: (ids: readonly string[]) => Statement;
}

export function entityTable<T extends { readonly id: string }>(kind: Kind<T>): EntityTable<T> {
  const { table } = kind;
  const all = fieldsOf(kind).map(([field, { column, stored }]) => ({ field: field as keyof T & string, column, stored }));
  const fields = all.map(({ field }) => field);
  const names = all.map(({ column }) => column);
  const list = names.join(', ');
  const onConflict = `on conflict (id) do update set ${names
    .filter((name) => name !== 'id')
    .map((name) => `${name} = excluded.${name}`)
    .join(', ')}`;
  const upsert = `insert into ${table} (${list}) values (${names.map((_, i) => `$${i + 1}`).join(', ')}) ${onConflict}`;
  return {
    load: `select ${list} from ${table}`,
    fromRow: (row) => Object.fromEntries(all.map(({ field, column, stored }) => [field, read(row[column], stored)])) as unknown as T,
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

function read(value: unknown, stored: Stored): unknown {
  if (value === null || value === undefined || stored === 'plain') return value;
  return stored === 'number' ? Number(value) : typeof value === 'string' ? value : JSON.stringify(value);
}
