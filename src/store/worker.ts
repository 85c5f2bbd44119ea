/** The thread that holds PGlite: statements of the database must never hold up the engine's loop. */
import { PGlite } from '@electric-sql/pglite';
import { setPriority } from 'node:os';
import { parentPort } from 'node:worker_threads';
import { copyFolder } from './copyFolder.ts';
import type { Statement, WorkerReply, WorkerRequest } from './protocol.ts';

const NICE = 5;

// On Linux this is the priority of the calling thread alone: where cores are few, the engine's loop goes first.
if (process.platform === 'linux') setPriority(NICE);

const port = parentPort;
if (!port) throw new Error('The store worker must be started as a worker thread.');
let database: PGlite;
let folder = '';
const reply = (message: WorkerReply): void => port.postMessage(message);

async function run(statements: readonly Statement[]): Promise<unknown[][]> {
  return database.transaction(async (tx) => {
    const results: unknown[][] = [];
    for (const { sql, params, copy } of statements)
      results.push(
        copy === undefined
          ? (await tx.query(sql, params === undefined ? [] : [...params])).rows
          : // PGlite has no standard input: what is copied in stands in a file of its own.
            (await tx.query(sql.replace('from stdin', `from '/dev/blob'`), [], { blob: new Blob([copy]) })).rows,
      );
    return results;
  });
}

/** Rows that go over in one message: taking thousands over at once would hold up the engine's loop. */
const ROWS = 250;
const begun = new Map<number, readonly Statement[]>();
const unsent = new Map<number, Generator<unknown[][], unknown[][]>>();

/** Rows of each statement in portions; the last one is returned. */
function* portionsOf(results: readonly unknown[][]): Generator<unknown[][], unknown[][]> {
  const empty = (): unknown[][] => results.map(() => []);
  let portion = empty();
  let room = ROWS;
  for (const [i, rows] of results.entries())
    for (let from = 0; from < rows.length;) {
      if (room === 0) {
        yield portion;
        portion = empty();
        room = ROWS;
      }
      const taken = rows.slice(from, from + room);
      portion[i] = taken;
      from += taken.length;
      room -= taken.length;
    }
  return portion;
}

port.on('message', (request: WorkerRequest) => {
  void (async () => {
    try {
      if (request.kind === 'open') {
        folder = request.folder;
        database = await PGlite.create({ dataDir: folder });
        // Rows are compared as texts: a time must be the same text wherever the server runs.
        await database.exec(`set timezone = 'UTC'; set datestyle = 'ISO, MDY'; set extra_float_digits = 1; set bytea_output = 'hex'`);
        reply({ id: request.id, rows: [], more: false });
      } else if (request.kind === 'close') {
        await database.close();
        reply({ id: request.id, rows: [], more: false });
        port.close();
      } else if (request.kind === 'script') {
        await database.transaction(async (tx) => tx.exec(request.sql));
        reply({ id: request.id, rows: [], more: false });
      } else if (request.kind === 'vacuum') {
        for (const table of request.tables) await database.exec(`vacuum ${table}`);
        reply({ id: request.id, rows: [], more: false });
      } else if (request.kind === 'copy') {
        await database.exec('checkpoint');
        await database.runExclusive(() => copyFolder(folder, request.to));
        reply({ id: request.id, rows: [], more: false });
      } else if (request.kind === 'part') begun.set(request.id, [...(begun.get(request.id) ?? []), ...request.statements]);
      else if (request.kind === 'next') replyPart(request.id);
      else {
        const statements = [...(begun.get(request.id) ?? []), ...request.statements];
        begun.delete(request.id);
        unsent.set(request.id, portionsOf(await run(statements)));
        replyPart(request.id);
      }
    } catch (error) {
      reply({ id: request.id, error: error instanceof Error ? error.message : String(error) });
    }
  })();
});
function replyPart(id: number): void {
  const step = unsent.get(id)?.next();
  if (!step) return;
  if (step.done) unsent.delete(id);
  reply({ id, rows: step.value, more: !step.done });
}
