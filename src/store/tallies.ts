/**
 * What the database holds against what was stored in it. The tallies are kept by triggers in the transaction of each
 * change; beside the database lies a manifest of how far it had come, so that an older or empty one is no less noticed.
 */
import { join } from 'node:path';
import type { Database, Row } from './database.ts';
import { exists } from './exists.ts';
import { MANIFEST, SCHEMA_FILE, type Manifest } from './manifest.ts';

/** Tables that are not counted: what counts them, and what is known by its files. */
const UNCOUNTED: readonly string[] = ['tallies', 'schema_version'];
/** Records that only ever grow. */
const GROWING = ['change_log', 'trail', 'audit'];
/** What they are called now, where a folder of before has noted them by another name. */
const RENAMED: Readonly<Record<string, string>> = { proofs: 'trail' };
/** The schema that brought the tallies. */
const COUNTED_SINCE = 10;
/** What lies in a data folder that was in use. */
const TRACES = [MANIFEST, SCHEMA_FILE, 'proof-key.json', 'backups'];

/** The data folder is not what was stored in it. Its words say what is wrong. */
export class DamagedFolder extends Error {
  /** Whether what is there could be opened all the same. */
  readonly canBeAccepted: boolean;

  constructor(message: string, canBeAccepted: boolean) {
    super(message);
    this.canBeAccepted = canBeAccepted;
  }
}

/** Looks whether a database lies there at all, where there was one before. @throws DamagedFolder */
export async function checkFiles(folder: string): Promise<void> {
  const wasUsed = (await Promise.all(TRACES.map((name) => exists(join(folder, name))))).some(Boolean);
  const db = join(folder, 'db');
  if (!(await exists(db))) {
    if (wasUsed) throw new DamagedFolder('The database is gone: the folder “db” is missing, though the data folder was in use.', false);
    return;
  }
  for (const name of ['PG_VERSION', 'global/pg_control', 'base', 'pg_wal'])
    if (!(await exists(join(db, name)))) throw new DamagedFolder(`The database is not whole: “db/${name}” is missing.`, false);
}

/** Compares every table with its tally, and the whole with the manifest. @throws DamagedFolder */
export async function checkTallies(database: Database, manifest: Manifest | null): Promise<void> {
  const known = await tables(database);
  const isCounted = known.includes('tallies');
  const stored = new Map(
    isCounted ? (await database.query('select name, rows::text, sum::text from tallies')).map((row) => [String(row.name), row]) : [],
  );
  const wrong: string[] = [];
  for (const name of stored.keys()) if (!known.includes(name)) wrong.push(`the table ${name} is missing`);
  const found = await counted(
    database,
    known.filter((table) => stored.has(table)),
  );
  for (const is of found) {
    const name = String(is.name);
    const was = stored.get(name);
    if (is.rows !== was?.rows) wrong.push(`${name} holds ${String(is.rows)} rows, ${String(was?.rows)} were stored`);
    else if (is.sum !== was?.sum) wrong.push(`${name} does not say what was stored`);
  }
  // A server that was ended between a migration and counting anew has not noted the new schema yet.
  const isComplete = manifest !== null && manifest.schema >= COUNTED_SINCE && manifest.schema === (await schemaOf(database, known));
  if (isComplete)
    for (const name of known) if (!stored.has(name) && !UNCOUNTED.includes(name)) wrong.push(`what ${name} should hold is no longer known`);
  if (wrong.length > 0) throw new DamagedFolder(`The database is damaged: ${wrong.join('; ')}.`, true);
  const reached = await reachedBy(database);
  for (const [noted, before] of Object.entries(manifest?.reached ?? {})) {
    const isRenamed = !known.includes(noted);
    const name = isRenamed ? (RENAMED[noted] ?? noted) : noted;
    if (before > (reached[name] ?? 0))
      throw new DamagedFolder(
        `The database is older than the data folder: ${name} goes to ${reached[name] ?? 0}, it went to ${before} before.`,
        true,
      );
  }
}

/** Begins to count tables that are not counted yet. @param anew counts the others anew, too, after a migration */
export async function keepTallies(database: Database, anew: boolean): Promise<void> {
  const stored = new Set((await database.query('select name from tallies')).map((row) => String(row.name)));
  for (const name of (await tables(database)).filter((table) => !UNCOUNTED.includes(table))) {
    const trigger = (when: string, references: string, does: string): string =>
      `create or replace trigger tally_${when} after ${when} on ${name} ${references} for each statement execute function tally_${does}()`;
    const fresh = 'new table as fresh';
    const stale = 'old table as stale';
    const counting = `insert into tallies select '${name}', count(*), coalesce(sum(hashtextextended(counted_row::text, 0)), 0) from ${name} counted_row
                      on conflict (name) do update set rows = excluded.rows, sum = excluded.sum`;
    if (stored.has(name) && !anew) continue;
    await database.transaction(
      [
        ...(stored.has(name)
          ? []
          : [
              trigger('insert', `referencing ${fresh}`, 'added'),
              trigger('delete', `referencing ${stale}`, 'removed'),
              trigger('update', `referencing ${stale} ${fresh}`, 'changed'),
              trigger('truncate', '', 'emptied'),
            ].map((sql) => ({ sql }))),
        { sql: counting },
      ],
      true,
    );
  }
}

/** The last number in each table that only grows. */
export async function reachedBy(database: Database): Promise<Manifest['reached']> {
  const known = await tables(database);
  // Before the trail was one, there were proofs alone.
  const growing = [...GROWING, ...Object.keys(RENAMED)];
  const each = growing.filter((table) => known.includes(table)).map((name) => `select '${name}' as name, coalesce(max(seq), 0) as seq from ${name}`);
  const rows = each.length === 0 ? [] : await database.query(each.join(' union all '));
  return Object.fromEntries(rows.map((row) => [String(row.name), Number(row.seq)]));
}

async function schemaOf(database: Database, known: readonly string[]): Promise<number> {
  if (!known.includes('schema_version')) return 0;
  return Number((await database.query('select max(version) as version from schema_version'))[0]?.version ?? 0);
}

async function tables(database: Database): Promise<readonly string[]> {
  const rows = await database.query(`select relname from pg_class where relnamespace = 'public'::regnamespace and relkind = 'r' order by relname`);
  return rows.map((row) => String(row.relname));
}

/** Rows and sum of each table, read in one go: asking one by one takes longer than counting. */
async function counted(database: Database, names: readonly string[]): Promise<readonly Row[]> {
  const each = names.map(
    (name) =>
      `select '${name}' as name, count(*)::text as rows, coalesce(sum(hashtextextended(counted_row::text, 0)), 0)::text as sum from ${name} counted_row`,
  );
  return each.length === 0 ? [] : database.query(each.join(' union all '), [], true);
}
