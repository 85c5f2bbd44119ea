/** The database in its worker thread: whole transactions go over, rows come back. */
import { mkdir, readdir, readFile, rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { nextTurn } from '@/core/inSlices.ts';
import { copyFolder } from './copyFolder.ts';
import { exists } from './exists.ts';
import { backUp, backUpBeforeMigration, carryOutRestore, type Backup, type BackupReason } from './backups.ts';
import { readManifest, writeManifest } from './manifest.ts';
import type { Statement, WorkerReply, WorkerRequest } from './protocol.ts';
import { FULL, isFull, StoreTrouble, STUCK } from './storeTrouble.ts';
import { checkFiles, checkTallies, DamagedFolder, keepTallies, reachedBy } from './tallies.ts';

export interface DatabaseFiles {
  /** The built worker, the migrations, and an empty database made at build time. */
  readonly worker: string;
  readonly migrations: string;
  readonly template: string;
}

/** `001_project.sql`: applied in the order of their numbers. */
const SCRIPT = /^\d{3}_.*\.sql$/;
const versionOf = (name: string): number => Number(name.slice(0, 3));

const READS = /^\s*select\b/i;

export type Row = Readonly<Record<string, unknown>>;

/** Statements that go over in one message: handing thousands over at once would hold up the engine's loop. */
const STATEMENTS = 100;
const PART_BYTES = 500_000;

/** Longest time for an answer, and for one about many rows. */
const ANSWER_MS = 5000;
const LARGE_ANSWER_MS = 120_000;
const LOOK_MS = 500;

interface Waiter {
  /** Rows of each statement, as far as they have come. */
  readonly rows: unknown[][];
  readonly resolve: (rows: readonly unknown[][]) => void;
  readonly reject: (error: Error) => void;
  /** Until when an answer is waited for. */
  until: number;
  readonly patienceMs: number;
}

/** Longest time that opening may take: what is damaged may never answer. */
const OPENING_MS = 60_000;
/** How long after a change the manifest follows. */
const MANIFEST_MS = 1000;

export interface OpenOptions {
  /** A database that is not what was stored is opened as it is, once a copy of it is made. */
  readonly asItIs?: boolean;
}

export class Database {
  readonly #worker: Worker;
  readonly #waiting = new Map<number, Waiter>();
  readonly #folder: string;
  #schema = 0;
  #nextId = 1;
  #ended: Error | null = null;
  #noting: NodeJS.Timeout | undefined;
  #looking: NodeJS.Timeout | undefined;
  #lookedAt = 0;
  #full: StoreTrouble | null = null;

  private constructor(worker: Worker, folder: string) {
    this.#worker = worker;
    this.#folder = folder;
    worker.on('message', (message: WorkerReply) => this.#take(message));
    const end = (error: Error): void => {
      this.#ended ??= error;
      clearInterval(this.#looking);
      for (const waiter of this.#waiting.values()) waiter.reject(this.#ended);
      this.#waiting.clear();
    };
    worker.on('error', end);
    worker.on('exit', () => end(new Error('The database thread has ended.')));
  }

  /**
   * Opens the database in a data folder, made from the template when the folder is new, and brings it up to date.
   * @throws DamagedFolder when what lies there is not what was stored there
   */
  static async open(folder: string, files: DatabaseFiles, options: OpenOptions = {}): Promise<Database> {
    // Its thread gets ready while the folder does.
    const database = new Database(new Worker(files.worker), folder);
    try {
      await database.#open(files, options);
      return database;
    } catch (error) {
      await database.#worker.terminate();
      throw error;
    }
  }

  async #open(files: DatabaseFiles, { asItIs = false }: OpenOptions): Promise<void> {
    const folder = this.#folder;
    const data = join(folder, 'db');
    const restored = await carryOutRestore(folder);
    await checkFiles(folder);
    const scripts = (await readdir(files.migrations)).filter((name) => SCRIPT.test(name)).sort();
    const newest = Math.max(0, ...scripts.map(versionOf));
    // What was just gone back to lies there as a backup already.
    if (restored === null) await backUpBeforeMigration(folder, newest);
    if (!(await exists(data))) {
      await mkdir(folder, { recursive: true });
      const fresh = join(folder, `db.new-${process.pid}`);
      await copyFolder(files.template, fresh);
      await rename(fresh, data);
    }
    for (const left of await readdir(folder)) if (left.startsWith('db.new-')) await rm(join(folder, left), { recursive: true, force: true });
    await this.#readable(this.#send({ id: 0, kind: 'open', folder: data }, true));
    const manifest = await readManifest(folder);
    const damage = await this.#readable(checkTallies(this, manifest)).catch((error: unknown) =>
      error instanceof DamagedFolder ? error : Promise.reject(error as Error),
    );
    if (damage && !(asItIs && damage.canBeAccepted)) throw damage;
    if (damage) await this.backUp('before it was taken as it is');
    const migrated = await this.#migrate(files.migrations, scripts, newest);
    await keepTallies(this, migrated || damage !== undefined);
    this.#schema = newest;
    await this.#note();
  }

  /** Where it fails, or gives no answer, the database cannot be read. */
  async #readable<T>(work: Promise<T>): Promise<T> {
    let late: NodeJS.Timeout | undefined;
    const limit = new Promise<never>((_, reject) => {
      late = setTimeout(() => reject(new Error(`no answer for ${OPENING_MS / 1000} s`)), OPENING_MS);
    });
    try {
      return await Promise.race([work, limit]);
    } catch (error) {
      if (error instanceof DamagedFolder) throw error;
      throw new DamagedFolder(`The database cannot be read: ${error instanceof Error ? error.message : String(error)}.`, false);
    } finally {
      clearTimeout(late);
    }
  }

  /** Nothing is written any more while there is no room for it; reading goes on. */
  set isFull(isFull: boolean) {
    this.#full = isFull ? new StoreTrouble('disk-full', FULL) : null;
  }

  /** It gave no answer: nothing more can be asked of it. */
  get isStuck(): boolean {
    return this.#ended instanceof StoreTrouble;
  }

  /** Copies the database into the backups as it stands; everything else waits meanwhile. */
  backUp(why: BackupReason): Promise<Backup> {
    return backUp(this.#folder, why, async (to) => void (await this.#send({ id: this.#nextId++, kind: 'copy', to }, true)));
  }

  /** Notes beside the database how far it has come. */
  async #note(): Promise<void> {
    clearTimeout(this.#noting);
    this.#noting = undefined;
    await writeManifest(this.#folder, { schema: this.#schema, reached: await reachedBy(this) });
  }

  #noteSoon(): void {
    if (this.#noting || this.#schema === 0) return;
    this.#noting = setTimeout(() => void this.#noteOrSay(), MANIFEST_MS).unref();
  }

  /** The database stands without it. */
  async #noteOrSay(): Promise<void> {
    try {
      await this.#note();
    } catch (error) {
      if (!this.#ended) console.error(`The manifest could not be written: ${error instanceof Error ? error.message : String(error)}`);
    }
  }

  /**
   * Runs statements in one transaction; rows of each in turn.
   * @param isLarge they are about many rows, though they are few
   * @throws StoreTrouble when the disk is full, or the database gives no answer
   */
  async transaction(statements: readonly Statement[], isLarge = statements.length > STATEMENTS): Promise<readonly (readonly Row[])[]> {
    const writes = statements.some(({ sql }) => !READS.test(sql));
    if (writes && this.#full) throw this.#full;
    const id = this.#nextId++;
    let part: Statement[] = [];
    let bytes = 0;
    for (const statement of statements) {
      if (part.length === STATEMENTS || bytes > PART_BYTES) {
        if (this.#ended) throw this.#ended;
        this.#worker.postMessage({ id, kind: 'part', statements: part } satisfies WorkerRequest);
        [part, bytes] = [[], 0];
        await nextTurn();
      }
      part.push(statement);
      bytes += statement.copy?.length ?? 0;
    }
    const rows = (await this.#send({ id, kind: 'transaction', statements: part }, isLarge)) as readonly (readonly Row[])[];
    if (writes) this.#noteSoon();
    return rows;
  }

  async query(sql: string, params: readonly unknown[] = [], isLarge = false): Promise<readonly Row[]> {
    return (await this.transaction([{ sql, params }], isLarge))[0] ?? [];
  }

  /** Gives the room of removed rows back to their tables. */
  async vacuum(tables: readonly string[]): Promise<void> {
    await this.#send({ id: this.#nextId++, kind: 'vacuum', tables }, true);
  }

  async close(): Promise<void> {
    try {
      if (!this.#ended && this.#schema > 0) await this.#noteOrSay();
      if (!this.#ended) await this.#send({ id: this.#nextId++, kind: 'close' });
    } finally {
      clearInterval(this.#looking);
      clearTimeout(this.#noting);
      await this.#worker.terminate();
    }
  }

  /** @returns whether anything was to be done */
  async #migrate(folder: string, scripts: readonly string[], newest: number): Promise<boolean> {
    await this.query('create table if not exists schema_version (version integer primary key, applied_at timestamptz not null default now())');
    const applied = new Set((await this.query('select version from schema_version')).map((row) => Number(row.version)));
    const unknown = [...applied].filter((version) => version > newest);
    if (unknown.length > 0)
      throw new Error(
        `The data folder was written by a newer Mill Latch (schema ${Math.max(...unknown)}, this one knows ${newest}). Use the newer one.`,
      );
    const missing = scripts.filter((name) => !applied.has(versionOf(name)));
    for (const name of missing) {
      const version = versionOf(name);
      const sql = `${await readFile(join(folder, name), 'utf8')}\ninsert into schema_version (version) values (${version});`;
      await this.#send({ id: this.#nextId++, kind: 'script', sql }, true);
    }
    return missing.length > 0;
  }

  #send(request: WorkerRequest, isLarge = false): Promise<readonly unknown[][]> {
    if (this.#ended) return Promise.reject(this.#ended);
    const patienceMs = isLarge ? LARGE_ANSWER_MS : ANSWER_MS;
    if (!this.#looking) {
      this.#lookedAt = performance.now();
      this.#looking = setInterval(() => this.#lookForAnswers(), LOOK_MS).unref();
    }
    return new Promise((resolve, reject) => {
      this.#waiting.set(request.id, { rows: [], resolve, reject, patienceMs, until: performance.now() + patienceMs });
      this.#worker.postMessage(request);
    });
  }

  /**
   * Requests are answered one after the other, so the time of each begins with the answer before. Where none comes, nobody
   * knows what was stored: nothing more is asked, and the next start finds out.
   */
  #lookForAnswers(): void {
    const now = performance.now();
    const slept = now - this.#lookedAt - LOOK_MS;
    this.#lookedAt = now;
    // The whole machine may have slept.
    if (slept > LOOK_MS) for (const waiter of this.#waiting.values()) waiter.until += slept;
    const [first] = this.#waiting.values();
    if (!first) {
      clearInterval(this.#looking);
      this.#looking = undefined;
    }
    if (!first || now < first.until) return;
    this.#ended = new StoreTrouble('store-stuck', STUCK);
    console.error(STUCK);
    for (const waiter of this.#waiting.values()) waiter.reject(this.#ended);
    this.#waiting.clear();
    clearInterval(this.#looking);
    void this.#worker.terminate();
  }

  #take(message: WorkerReply): void {
    const waiter = this.#waiting.get(message.id);
    for (const each of this.#waiting.values()) each.until = performance.now() + each.patienceMs;
    if (!waiter) return;
    if ('error' in message) {
      this.#waiting.delete(message.id);
      waiter.reject(isFull(message.error) ? new StoreTrouble('disk-full', FULL) : new Error(message.error));
      return;
    }
    for (const [i, rows] of message.rows.entries()) {
      const known = (waiter.rows[i] ??= []);
      for (const row of rows) known.push(row);
    }
    if (message.more) void nextTurn().then(() => this.#worker.postMessage({ id: message.id, kind: 'next' } satisfies WorkerRequest));
    else {
      this.#waiting.delete(message.id);
      waiter.resolve(waiter.rows);
    }
  }
}
