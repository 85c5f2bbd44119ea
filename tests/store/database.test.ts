import { describe, expect, test } from '@jest/globals';
import { cpSync, mkdirSync, readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Database } from '@/store/database.ts';
import { RecordStore } from '@/store/recordStore.ts';
import { newFolder } from '../support/server.ts';
import { DATABASE_FILES, openBench } from '../support/services.ts';
import { uuidOf } from '../support/uuidOf.ts';

const KNOWN = readdirSync(DATABASE_FILES.migrations).map((_name, i) => i + 1);

describe('the database', () => {
  test('a new folder is made from the template, and what a crash left half-copied is cleared away', async () => {
    const { folder, remove } = newFolder();
    mkdirSync(join(folder, 'db.new-99999'));
    const database = await Database.open(folder, DATABASE_FILES);
    expect(readdirSync(folder).sort()).toEqual(['db', 'manifest.json']);
    expect(await database.query('select count(*)::int as n from tags')).toEqual([{ n: 0 }]);
    await database.close();
    remove();
  });
  test('migrations are applied once, in order', async () => {
    const { folder, remove } = newFolder();
    const migrations = join(folder, 'migrations');
    cpSync(DATABASE_FILES.migrations, migrations, { recursive: true });
    const files = { ...DATABASE_FILES, migrations };
    await (await Database.open(folder, files)).close();
    writeFileSync(join(migrations, '900_note.sql'), 'create table notes (text text not null);');
    const database = await Database.open(folder, files);
    expect(await database.query('select version from schema_version order by version')).toEqual([
      ...KNOWN.map((version) => ({ version })),
      { version: 900 },
    ]);
    await database.close();
    await expect(Database.open(folder, DATABASE_FILES)).rejects.toThrow(`written by a newer Mill Latch (schema 900, this one knows ${KNOWN.length})`);
    remove();
  });
  test('a migration that fails leaves nothing of itself behind', async () => {
    const { folder, remove } = newFolder();
    const migrations = join(folder, 'migrations');
    cpSync(DATABASE_FILES.migrations, migrations, { recursive: true });
    writeFileSync(join(migrations, '900_bad.sql'), 'create table half (a integer); select nonsense from nowhere;');
    await expect(Database.open(folder, { ...DATABASE_FILES, migrations })).rejects.toThrow('nowhere');
    const database = await Database.open(folder, DATABASE_FILES);
    expect(await database.query(`select count(*)::int as n from information_schema.tables where table_name = 'half'`)).toEqual([{ n: 0 }]);
    await database.close();
    remove();
  });
  test('a transaction is whole or not at all, and its failure is told', async () => {
    const { folder, remove } = newFolder();
    const database = await Database.open(folder, DATABASE_FILES);
    const insert = { sql: 'insert into panels (id, name) values ($1, $2)', params: [uuidOf(1), 'P'] };
    await expect(database.transaction([insert, insert])).rejects.toThrow('duplicate key');
    expect(await database.query('select id from panels')).toEqual([]);
    await database.close();
    await expect(database.query('select 1')).rejects.toThrow();
    remove();
  });
  test('the event loop stays free while a large statement runs', async () => {
    const { folder, remove } = newFolder();
    const database = await Database.open(folder, DATABASE_FILES);
    let longest = 0;
    let last = performance.now();
    const timer = setInterval(() => {
      longest = Math.max(longest, performance.now() - last);
      last = performance.now();
    }, 5);
    await database.query('select sum(a * b) from generate_series(1, 1500) a, generate_series(1, 1500) b');
    clearInterval(timer);
    expect(longest).toBeLessThan(250);
    await database.close();
    remove();
  });
});

describe('records', () => {
  test('a write that was on its way when the server was killed is unknown afterwards, not forgotten', async () => {
    const { folder, remove } = newFolder();
    const database = await Database.open(folder, DATABASE_FILES);
    await new RecordStore(database).addWrite({
      id: uuidOf(2),
      at: new Date().toISOString(),
      tagId: uuidOf(3),
      tagName: 'sp',
      deviceName: 'KILN',
      origin: 'panel',
      who: 'R. Vale',
      by: '',
      host: '',
      old: null,
      asked: { kind: 'integer', value: '18446744073709551615' },
      sent: { kind: 'integer', value: '18446744073709551615' },
      held: null,
      state: 'sent',
      note: '',
    });
    await database.close();
    const bench = await openBench(folder);
    expect(await bench.services.writes.log({ limit: 5 })).toMatchObject([
      {
        state: 'unknown',
        asked: { value: '18446744073709551615' },
        note: expect.stringContaining('unknown whether it was done') as unknown as string,
      },
    ]);
    await bench.close();
    remove();
  });
});
