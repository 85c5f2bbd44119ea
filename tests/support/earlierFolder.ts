/**
 * A data folder of the version before groups and sources (schema 11), made of what that version stored. Its project: two
 * machines of one name on two links, tags by hand and two lists, one of them packed; changes, some undone.
 */
import { cp, mkdir, mkdtemp, readdir } from 'node:fs/promises';
import { readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { gunzipSync } from 'node:zlib';
import { Database } from '@/store/database.ts';
import type { Statement } from '@/store/protocol.ts';
import { newFolder } from './server.ts';
import { DATABASE_FILES } from './services.ts';

const SCHEMA = 11;
const data = (name: string): Buffer => readFileSync(fileURLToPath(new URL(`../data/earlier/${name}`, import.meta.url)));

type Row = Readonly<Record<string, unknown>>;
export interface EarlierTag {
  readonly id: string;
  readonly deviceId: string;
  readonly name: string;
  readonly group: string;
  readonly address: string;
  readonly order: string;
  readonly periodMs: number;
  readonly sourceId: string;
}
export interface Earlier {
  readonly tables: Readonly<Record<string, readonly Row[]>>;
  readonly snapshot: Readonly<Record<string, readonly Row[]>> & { readonly tags: readonly EarlierTag[] };
  /** Of signal paths, by tag. */
  readonly digests: Readonly<Record<string, string>>;
}

export const EARLIER = JSON.parse(gunzipSync(data('folder.json.gz')).toString()) as Earlier;
export const EARLIER_FILE = new Uint8Array(data('project.zip'));

/** @param more what else that version had stored @returns the folder, closed */
export async function earlierFolder(more: readonly string[] = []): Promise<string> {
  const { folder } = newFolder();
  const migrations = join(await mkdtemp(join(process.env.MILL_LATCH_SCRATCH ?? tmpdir(), 'earlier-')), 'migrations');
  await mkdir(migrations);
  for (const name of await readdir(DATABASE_FILES.migrations))
    if (Number(name.slice(0, 3)) <= SCHEMA) await cp(join(DATABASE_FILES.migrations, name), join(migrations, name));
  const database = await Database.open(folder, { ...DATABASE_FILES, migrations });
  await database.transaction(await statements(database), true);
  for (const sql of more) await database.query(sql);
  for (const { table_name } of await database.query(
    `select table_name from information_schema.columns where column_name = 'seq' and is_identity = 'YES'`,
  ))
    await database.query(`select setval(pg_get_serial_sequence($1, 'seq'), (select coalesce(max(seq), 0) + 1 from ${String(table_name)}))`, [
      table_name,
    ]);
  await database.close();
  return folder;
}

async function statements(database: Database): Promise<readonly Statement[]> {
  // Others refer to packs, and not all constraints are deferred.
  const names = Object.keys(EARLIER.tables).sort((a, b) => Number(b === 'packs') - Number(a === 'packs'));
  const columns = await database.query(
    `select table_name, column_name, data_type, udt_name from information_schema.columns where table_schema = 'public'`,
  );
  return names.flatMap((table) =>
    (EARLIER.tables[table] ?? []).map((row) => {
      const own = columns.filter((c) => c.table_name === table && String(c.column_name) in row);
      const json = new Set(own.filter((c) => c.data_type === 'jsonb').map((c) => String(c.column_name)));
      const lists = new Set(own.filter((c) => c.data_type === 'ARRAY').map((c) => String(c.column_name)));
      const fields = own.map((c) => String(c.column_name));
      const value = (field: string): unknown => {
        const held = row[field];
        if (held === null) return null;
        return json.has(field) ? JSON.stringify(held) : lists.has(field) && Array.isArray(held) ? `{${held.join(',')}}` : held;
      };
      return {
        sql: `insert into ${table} (${fields.join(', ')}) overriding system value values (${fields.map((_, i) => `$${i + 1}`).join(', ')}) on conflict do nothing`,
        params: fields.map(value),
      };
    }),
  );
}
