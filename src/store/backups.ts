/**
 * Copies of the database beside it: made when somebody asks, once a day, and before what is risky. A restore is asked
 * for while the server runs and carried out at its next start, when nothing holds the database.
 */
import { mkdir, readdir, readFile, rename, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { jsonObjectIn } from '@/core/jsonText.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import { copyFolder } from './copyFolder.ts';
import { exists } from './exists.ts';
import { KEPT_FILE } from './keptJournal.ts';
import { forgetManifest, readManifest } from './manifest.ts';

/** Why they are made: of each kind the newest are kept, so that daily ones do not push out what somebody asked for. */
const REASONS = ['on request', 'daily', 'before a project file', 'before a restore', 'before it was taken as it is'] as const;
export type BackupReason = (typeof REASONS)[number];
const KEPT = 8;
const NAME = new RegExp(`^\\d{4}-\\d{2}-\\d{2}T\\d{2}-\\d{2}-\\d{2}(-\\d+)? (before schema \\d+|${REASONS.join('|')})$`);
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
    .map(backupOf);
}

function backupOf(name: string): Backup {
  const [stamp = '', ...why] = name.split(' ');
  return { name, at: stamp.replace(/T(\d\d)-(\d\d)-(\d\d).*/, 'T$1:$2:$3Z'), why: why.join(' ') };
}

/** Before a database of an older schema is opened, it is copied. */
export async function backUpBeforeMigration(folder: string, newest: number): Promise<void> {
  if (!(await exists(join(folder, 'db'))) || ((await readManifest(folder))?.schema ?? 0) >= newest) return;
  const name = await draftedAs(folder, `before schema ${newest}`, (to) => copyFolder(join(folder, 'db'), to));
  await prune(folder, name);
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
  // Its values are newer than the backup's, and would stand over them.
  await rm(join(folder, KEPT_FILE), { force: true });
  await forgetManifest(folder);
  await rm(join(folder, RESTORE_FILE), { force: true });
  await prune(folder, name);
  return name;
}

/**
 * Makes a backup.
 * @param copy copies the database to a folder; while it is open only its own thread may
 */
export async function backUp(folder: string, why: BackupReason, copy: (to: string) => Promise<void>): Promise<Backup> {
  const name = await draftedAs(folder, why, copy);
  await prune(folder, name);
  return backupOf(name);
}

async function draftedAs(folder: string, why: string, copy: (to: string) => Promise<void>): Promise<string> {
  await mkdir(join(folder, 'backups'), { recursive: true });
  const draft = join(folder, 'backups', `.draft-${process.pid}`);
  await rm(draft, { recursive: true, force: true });
  try {
    await copy(draft);
    const name = await freeName(folder, why);
    await rename(draft, join(folder, 'backups', name));
    return name;
  } finally {
    await rm(draft, { recursive: true, force: true });
  }
}

/** The newest of each kind stay, and the one that was just used: whoever goes back to one may do it again. */
async function prune(folder: string, used: string): Promise<void> {
  const counts = new Map<string, number>();
  for (const { name, why } of await listBackups(folder)) {
    const kind = why.replace(/\d+$/, '');
    counts.set(kind, (counts.get(kind) ?? 0) + 1);
    if ((counts.get(kind) ?? 0) > KEPT && name !== used) await rm(join(folder, 'backups', name), { recursive: true, force: true });
  }
}

async function freeName(folder: string, why: string): Promise<string> {
  const stamp = new Date().toISOString().slice(0, 19).replaceAll(':', '-');
  for (let i = 0; ; i++) {
    const name = `${stamp}${i === 0 ? '' : `-${i}`} ${why}`;
    if (!(await exists(join(folder, 'backups', name)))) return name;
  }
}

function nameIn(text: string): string | null {
  const name = jsonObjectIn(text)?.name;
  return typeof name === 'string' && NAME.test(name) ? name : null;
}
