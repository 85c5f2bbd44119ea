import { afterAll, beforeAll, beforeEach, describe, expect, test } from '@jest/globals';
import { existsSync, readFileSync, rmSync, truncateSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Database, type OpenOptions } from '@/store/database.ts';
import { askForRestore, listBackups } from '@/store/backups.ts';
import { copyFolder } from '@/store/copyFolder.ts';
import { DamagedFolder } from '@/store/tallies.ts';
import { newFolder } from '../support/server.ts';
import { DATABASE_FILES } from '../support/services.ts';
import { uuidOf } from '../support/uuidOf.ts';

const kept = newFolder();
const { folder, remove } = newFolder();
/** Files of tables, inside the database. */
const paths = new Map<string, string>();
let backup = '';

const open = (options: OpenOptions = {}) => Database.open(folder, DATABASE_FILES, options);
const panels = async (database: Database) => Number((await database.query('select count(*)::int as n from panels'))[0]?.n);
const refusal = async (): Promise<string> => {
  try {
    await (await open()).close();
    return 'opened';
  } catch (error) {
    if (!(error instanceof DamagedFolder)) throw error;
    return error.message;
  }
};

beforeAll(async () => {
  const database = await Database.open(kept.folder, DATABASE_FILES);
  for (let i = 0; i < 300; i++)
    await database.query('insert into panels (id, name) values ($1, $2)', [uuidOf(i + 1), `Panel ${i} ${'long '.repeat(40)}`]);
  backup = (await database.backUp('on request')).name;
  await database.query(`update panels set name = 'Renamed' where id = $1`, [uuidOf(1)]);
  await database.query(`insert into change_log (command_id, label, origin, at, changes, state) values ($1, 'x', 'test', now(), '[]', 'done')`, [
    uuidOf(1),
  ]);
  for (const table of ['panels', 'change_log', 'tallies'])
    paths.set(table, String((await database.query(`select pg_relation_filepath('${table}') as path`))[0]?.path));
  await database.close();
});
afterAll(() => {
  remove();
  kept.remove();
});
beforeEach(async () => {
  rmSync(folder, { recursive: true, force: true });
  await copyFolder(kept.folder, folder);
});
const table = (name: string): string => join(folder, 'db', paths.get(name) ?? '');

describe('a data folder that is whole', () => {
  test('opens, again and again, and with a manifest that did not come along with the last changes', async () => {
    for (let i = 0; i < 3; i++) {
      const database = await open();
      expect(await panels(database)).toBe(300);
      await database.query('insert into panels (id, name) values ($1, $2)', [uuidOf(500 + i), 'New']);
      const before = readFileSync(join(folder, 'manifest.json'));
      await database.query(`delete from panels where id = $1`, [uuidOf(500 + i)]);
      await database.close();
      writeFileSync(join(folder, 'manifest.json'), before);
    }
  });
  test('is not damaged by adding, changing and removing rows by one or many, and rolled back', async () => {
    const database = await open();
    await database.query(`update panels set name = upper(name)`);
    await database.query(`delete from panels where name like '%7%'`);
    await expect(database.transaction([{ sql: 'delete from panels' }, { sql: 'select nothing' }])).rejects.toThrow();
    await database.transaction([{ sql: `insert into panels (id, name) select gen_random_uuid(), 'x' || g from generate_series(1, 500) g` }]);
    await database.query('truncate trail');
    await database.close();
    expect(await refusal()).toBe('opened');
  });
});

describe('a damaged data folder is refused with what is wrong, and stays as it is', () => {
  test.each([
    ['its database gone', () => rmSync(join(folder, 'db'), { recursive: true }), 'The database is gone'],
    ['no PG_VERSION', () => rmSync(join(folder, 'db/PG_VERSION')), '“db/PG_VERSION” is missing'],
    ['no control file', () => rmSync(join(folder, 'db/global/pg_control')), '“db/global/pg_control” is missing'],
    ['an empty database in its place', () => replaceBy(DATABASE_FILES.template), 'The database is older than the data folder'],
    ['an older database in its place', () => replaceBy(join(folder, 'backups', backup)), 'The database is older than the data folder'],
    ['a table cut short', () => truncateSync(table('panels'), 8192 * 2), 'panels holds'],
    ['a table of zeros', () => writeFileSync(table('panels'), Buffer.alloc(8192 * 10)), 'panels holds 0 rows, 300 were stored'],
    ['a byte changed', () => flip(table('panels'), 8192 + 4000), 'The database cannot be read'],
    ['a control file of nonsense', () => writeFileSync(join(folder, 'db/global/pg_control'), Buffer.alloc(8192, 7)), 'The database cannot be read'],
    ['its tallies cut away', () => truncateSync(table('tallies'), 0), 'damaged'],
  ])(
    '%s',
    async (_what, damage: () => void | Promise<void>, words) => {
      await damage();
      const before = existsSync(join(folder, 'db')) ? readFileSync(join(folder, 'manifest.json'), 'utf8') : '';
      expect(await refusal()).toContain(words);
      if (before) expect(readFileSync(join(folder, 'manifest.json'), 'utf8')).toBe(before);
      // What is asked for brings a backup back, whatever lies there.
      expect((await askForRestore(folder, backup)).ok).toBe(true);
      const database = await open();
      expect(await panels(database)).toBe(300);
      await database.close();
    },
    90_000,
  );
  test('what was changed behind the back of the database is told, and can be taken as it is once a copy is made', async () => {
    const database = await open();
    await database.transaction([{ sql: `set local session_replication_role = 'replica'` }, { sql: `delete from panels where name like 'Panel 1%'` }]);
    await database.close();
    expect(await refusal()).toMatch(/panels holds 1\d\d rows, 300 were stored/);
    const taken = await open({ asItIs: true });
    expect(await panels(taken)).toBeLessThan(200);
    await taken.close();
    expect(await refusal()).toBe('opened');
    expect((await listBackups(folder)).map((b) => b.why)).toContain('before it was taken as it is');
  });
});

async function replaceBy(other: string): Promise<void> {
  rmSync(join(folder, 'db'), { recursive: true });
  await copyFolder(other, join(folder, 'db'));
}

function flip(file: string, at: number): void {
  const bytes = readFileSync(file);
  bytes[at] = (bytes[at] ?? 0) ^ 0xff;
  writeFileSync(file, bytes);
}
