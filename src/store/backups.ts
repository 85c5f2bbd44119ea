/**
 * Copies of the database beside it: made by themselves before a migration and before a restore. A restore is asked
 * for while the server runs and carried out at its next start, when nothing holds the database.
 */
import { mkdir, readdir, readFile, rename, rm, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { fail, ok, type Result } from '@/core/result.ts';
import { copyFolder } from './copyFolder.ts';

const KEPT = 8;
const NAME = /^\d{4}-\d{2}-\d{2}T\d{2}-\d{2}-\d{2}(-\d+)? (before schema \d+|before a restore)$/;
const SCHEMA_FILE = 'schema.json';
const RESTORE_FILE = 'restore.json';

export interface Backup {
  readonly name: string;
  readonly at: string;
  /** Why it was made. */
  readonly why: string;
}

export async function listBackups(folder: string): Promise<readonly Backup[]> {
  const names = await readdir(join(folder, 'backups')).catch(() => []);
  return names
    .filter((name) => NAME.test(name))
    .sort()
    .reverse()
    .map((name) => {
      const [stamp = '', ...why] = name.split(' ');
      return { name, at: stamp.replace(/T(\d\d)-(\d\d)-(\d\d).*/, 'T$1:$2:$3Z'), why: why.join(' ') };
    });
}

/** Before a database of an older schema is opened, it is copied. */
export async function backUpBeforeMigration(folder: string, newest: number): Promise<void> {
  if (!(await exists(join(folder, 'db'))) || (await schemaOf(folder)) >= newest) return;
  await copyOf(folder, `before schema ${newest}`);
}

/** Remembers the schema that the database has been brought to. */
export async function rememberSchema(folder: string, schema: number): Promise<void> {
  await writeFile(join(folder, SCHEMA_FILE), JSON.stringify({ schema }));
}

/** Asks for a restore at the next start. */
export async function askForRestore(folder: string, name: string): Promise<Result<null>> {
  if (!NAME.test(name) || !(await exists(join(folder, 'backups', name))))
    return fail('gone', 'There is no such backup (any more).', 'Look at the list again.', 'name');
  await writeFile(join(folder, RESTORE_FILE), JSON.stringify({ name }));
  return ok(null);
}

/** Carries out what was asked for. What is replaced is kept as a backup itself. Returns the name, or null. */
export async function carryOutRestore(folder: string): Promise<string | null> {
  const asked = await readFile(join(folder, RESTORE_FILE), 'utf8').catch(() => null);
  if (asked === null) return null;
  const name = nameIn(asked);
  const from = join(folder, 'backups', name ?? '');
  if (name === null || !(await exists(from))) {
    await rm(join(folder, RESTORE_FILE), { force: true });
    return null;
  }
  const fresh = join(folder, `db.new-${process.pid}`);
  await copyFolder(from, fresh);
  if (await exists(join(folder, 'db'))) {
    await mkdir(join(folder, 'backups'), { recursive: true });
    await rename(join(folder, 'db'), join(folder, 'backups', await freeName(folder, 'before a restore')));
  }
  await rename(fresh, join(folder, 'db'));
  await rm(join(folder, SCHEMA_FILE), { force: true });
  await rm(join(folder, RESTORE_FILE), { force: true });
  await prune(folder, name);
  return name;
}

async function copyOf(folder: string, why: string): Promise<void> {
  await mkdir(join(folder, 'backups'), { recursive: true });
  const name = await freeName(folder, why);
  const draft = join(folder, 'backups', `.draft-${process.pid}`);
  await rm(draft, { recursive: true, force: true });
  await copyFolder(join(folder, 'db'), draft);
  await rename(draft, join(folder, 'backups', name));
  await prune(folder, name);
}

/** The newest stay, and the one that was just used: whoever goes back to one may do it again. */
async function prune(folder: string, used: string): Promise<void> {
  for (const { name } of (await listBackups(folder)).slice(KEPT))
    if (name !== used) await rm(join(folder, 'backups', name), { recursive: true, force: true });
}

async function freeName(folder: string, why: string): Promise<string> {
  const stamp = new Date().toISOString().slice(0, 19).replaceAll(':', '-');
  for (let i = 0; ; i++) {
    const name = `${stamp}${i === 0 ? '' : `-${i}`} ${why}`;
    if (!(await exists(join(folder, 'backups', name)))) return name;
  }
}

async function schemaOf(folder: string): Promise<number> {
  const text = await readFile(join(folder, SCHEMA_FILE), 'utf8').catch(() => '');
  return Number(/"schema"\s*:\s*(\d+)/.exec(text)?.[1] ?? 0);
}

function nameIn(text: string): string | null {
  try {
    const { name } = JSON.parse(text) as { name?: unknown };
    return typeof name === 'string' && NAME.test(name) ? name : null;
  } catch {
    return null;
  }
}

function exists(path: string): Promise<boolean> {
  return stat(path).then(
    () => true,
    () => false,
  );
}
