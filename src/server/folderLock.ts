/** A data folder belongs to one process at a time: the database has no lock of its own. */
import { linkSync, mkdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fail, ok, type Result } from '@/core/result.ts';

interface Holder {
  readonly pid: number;
  /** When the process began, so that another one with the same number is not taken for it. */
  readonly began: string;
  readonly since: string;
}

export interface FolderLock {
  release(): void;
}

/** Takes the folder, or says who holds it. A lock whose process has ended is taken over. */
export function lockFolder(folder: string): Result<FolderLock> {
  const path = join(folder, 'server.lock');
  const mine: Holder = { pid: process.pid, began: beginningOf(process.pid) ?? '', since: new Date().toISOString() };
  const text = JSON.stringify(mine);
  const draft = `${path}.${process.pid}`;
  try {
    mkdirSync(folder, { recursive: true });
    writeFileSync(draft, text);
  } catch (error) {
    return fail(
      'folder',
      `The data folder ${folder} cannot be written: ${error instanceof Error ? error.message : String(error)}.`,
      'Choose another folder with --data, or give this user the right to write there.',
    );
  }
  try {
    for (let tries = 0; tries < 5; tries++) {
      if (linked(draft, path)) return ok({ release: () => release(path, text) });
      const seen = read(path);
      if (seen === null) continue;
      const holder = parse(seen);
      if (holder && beginningOf(holder.pid) === holder.began)
        return fail(
          'folder-held',
          `The data folder ${folder} is in use by process ${holder.pid} since ${holder.since}.`,
          'Stop that server, or start this one with another --data folder.',
        );
      setAside(path, seen);
    }
    return fail('folder-held', `The data folder ${folder} could not be locked.`, 'Try again.');
  } finally {
    rmSync(draft, { force: true });
  }
}

/** Creates the lock with its whole content at once; false when there is one. */
function linked(draft: string, path: string): boolean {
  try {
    linkSync(draft, path);
    return true;
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'EEXIST') return false;
    throw error;
  }
}

/** Removes a lock left behind, unless another process has replaced it meanwhile: then that one is put back. */
function setAside(path: string, seen: string): void {
  const aside = `${path}.left-${process.pid}`;
  try {
    renameSync(path, aside);
  } catch {
    return; // another process was faster: the next try sees its lock
  }
  if (read(aside) !== seen) linked(aside, path);
  rmSync(aside, { force: true });
}

function release(path: string, text: string): void {
  if (read(path) === text) rmSync(path, { force: true });
}

function read(path: string): string | null {
  try {
    return readFileSync(path, 'utf8');
  } catch {
    return null;
  }
}

function parse(text: string): Holder | null {
  try {
    const holder = JSON.parse(text) as Partial<Holder>;
    return typeof holder.pid === 'number' && typeof holder.began === 'string'
      ? { pid: holder.pid, began: holder.began, since: String(holder.since) }
      : null;
  } catch {
    return null;
  }
}

/** Start time of a process in the system's own count; null when there is none of that number. */
function beginningOf(pid: number): string | null {
  try {
    const stat = readFileSync(`/proc/${pid}/stat`, 'utf8');
    const fields = stat.slice(stat.lastIndexOf(')') + 2).split(' ');
    return fields[0] === 'Z' ? null : (fields[19] ?? null);
  } catch {
    if (process.platform === 'linux') return null;
  }
  try {
    process.kill(pid, 0);
    return '';
  } catch {
    return null;
  }
}
