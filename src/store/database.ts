/** The database in its worker thread: whole transactions go over, rows come back. */
import { mkdir, readdir, readFile, rename, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { nextTurn } from '@/core/inSlices.ts';
import { copyFolder } from './copyFolder.ts';
import { backUpBeforeMigration, carryOutRestore, rememberSchema } from './backups.ts';
import type { Statement, WorkerReply, WorkerRequest } from './protocol.ts';

export interface DatabaseFiles {
  /** The built worker, the migrations, and an empty database made at build time. */
  readonly worker: string;
  readonly migrations: string;
  readonly template: string;
}

/** `001_project.sql`: applied in the order of their numbers. */
const SCRIPT = /^\d{3}_.*\.sql$/;
const versionOf = (name: string): number => Number(name.slice(0, 3));

export type Row = Readonly<Record<string, unknown>>;

/** Statements that go over in one message: handing thousands over at once would hold up the engine's loop. */
const STATEMENTS = 100;
const PART_BYTES = 500_000;

interface Waiter {
  /** Rows of each statement, as far as they have come. */
  readonly rows: unknown[][];
  readonly resolve: (rows: readonly unknown[][]) => void;
  readonly reject: (error: Error) => void;
}

export class Database {
  readonly #worker: Worker;
  readonly #waiting = new Map<number, Waiter>();
  #nextId = 1;
  #ended: Error | null = null;

  private constructor(worker: Worker) {
    this.#worker = worker;
    worker.on('message', (message: WorkerReply) => this.#take(message));
    const end = (error: Error): void => {
      this.#ended = error;
      for (const waiter of this.#waiting.values()) waiter.reject(error);
      this.#waiting.clear();
    };
    worker.on('error', end);
    worker.on('exit', () => end(new Error('The database thread has ended.')));
  }

  /** Opens the database in a data folder, made from the template when there is none, and brings it up to date. */
  static async open(folder: string, files: DatabaseFiles): Promise<Database> {
    // Its thread gets ready while the folder does.
    const worker = new Worker(files.worker);
    try {
      return await Database.#openIn(worker, folder, files);
    } catch (error) {
      await worker.terminate();
      throw error;
    }
  }

  static async #openIn(worker: Worker, folder: string, files: DatabaseFiles): Promise<Database> {
    const data = join(folder, 'db');
    const restored = await carryOutRestore(folder);
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
    const database = new Database(worker);
    await database.#send({ id: 0, kind: 'open', folder: data });
    await database.#migrate(files.migrations, scripts, newest);
    await rememberSchema(folder, newest);
    return database;
  }

  /** Runs statements in one transaction; rows of each in turn. */
  async transaction(statements: readonly Statement[]): Promise<readonly (readonly Row[])[]> {
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
    return (await this.#send({ id, kind: 'transaction', statements: part })) as readonly (readonly Row[])[];
  }

  async query(sql: string, params: readonly unknown[] = []): Promise<readonly Row[]> {
    return (await this.transaction([{ sql, params }]))[0] ?? [];
  }

  /** Gives the room of removed rows back to their tables. */
  async vacuum(tables: readonly string[]): Promise<void> {
    await this.#send({ id: this.#nextId++, kind: 'vacuum', tables });
  }

  async close(): Promise<void> {
    if (!this.#ended) await this.#send({ id: this.#nextId++, kind: 'close' });
    await this.#worker.terminate();
  }

  async #migrate(folder: string, scripts: readonly string[], newest: number): Promise<void> {
    await this.query('create table if not exists schema_version (version integer primary key, applied_at timestamptz not null default now())');
    const applied = new Set((await this.query('select version from schema_version')).map((row) => Number(row.version)));
    const unknown = [...applied].filter((version) => version > newest);
    if (unknown.length > 0)
      throw new Error(
        `The data folder was written by a newer Mill Latch (schema ${Math.max(...unknown)}, this one knows ${newest}). Use the newer one.`,
      );
    for (const name of scripts) {
      const version = versionOf(name);
      if (applied.has(version)) continue;
      await this.#send({
        id: this.#nextId++,
        kind: 'script',
        sql: `${await readFile(join(folder, name), 'utf8')}\ninsert into schema_version (version) values (${version});`,
      });
    }
  }

  #send(request: WorkerRequest): Promise<readonly unknown[][]> {
    if (this.#ended) return Promise.reject(this.#ended);
    return new Promise((resolve, reject) => {
      this.#waiting.set(request.id, { rows: [], resolve, reject });
      this.#worker.postMessage(request);
    });
  }

  #take(message: WorkerReply): void {
    const waiter = this.#waiting.get(message.id);
    if (!waiter) return;
    if ('error' in message) {
      this.#waiting.delete(message.id);
      waiter.reject(new Error(message.error));
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

async function exists(path: string): Promise<boolean> {
  return stat(path).then(
    () => true,
    () => false,
  );
}
