/** The services on a folder of their own, as the server makes them, without HTTP. */
import { rmSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll } from '@jest/globals';
import { fileURLToPath } from 'node:url';
import { v7 as uuid } from 'uuid';
import type { Change } from '@/core/project/command.ts';
import { systemClock } from '@/runtime/clock.ts';
import type { AskPages } from '@/services/checks/drawnPages.ts';
import { createServices, type Services } from '@/services/services.ts';
import { KEPT_FILE } from '@/store/keptJournal.ts';
import { Database } from '@/store/database.ts';
import { newTag } from './newTag.ts';
import { newFolder } from './server.ts';

const built = (name: string): string => fileURLToPath(new URL(`../../dist/${name}`, import.meta.url));
export const DATABASE_FILES = { worker: built('storeWorker.mjs'), migrations: built('migrations'), template: built('db-template') };

export interface Bench {
  readonly services: Services;
  readonly folder: string;
  close(): Promise<void>;
  /** From here on nothing can be stored, as on a full disk. */
  breakStore(): Promise<void>;
  /** Closes and opens the same folder again. */
  reopen(): Promise<Bench>;
  change(label: string, changes: readonly Change[]): Promise<void>;
}

/** One database for the benches of a test file that need no folder of their own: opening one takes seconds. */
let shared: { readonly database: Database; readonly folder: string } | null = null;
afterAll(async () => {
  await shared?.database.close();
  shared = null;
});

/** @param own a folder that is opened for real; without it the bench gets an emptied database */
export async function openBench(own?: string, askPages: AskPages = async () => []): Promise<Bench> {
  if (own === undefined && shared === null) {
    const { folder } = newFolder();
    shared = { folder, database: await Database.open(folder, DATABASE_FILES) };
  }
  const folder = own ?? shared?.folder ?? '';
  const database = own === undefined && shared ? shared.database : await Database.open(folder, DATABASE_FILES);
  const services = await createServices(database, systemClock, askPages, {
    folder,
    port: 4780,
    restart: () => undefined,
    listen: async () => ({ ok: true, value: null }),
    draftThread: built('draftThread.mjs'),
    fileThread: built('fileThread.mjs'),

    startedAgain: '',
  });
  const closeStore = async (): Promise<void> => {
    if (shared?.database === database) shared = null;
    await database.close();
  };
  const close = async (): Promise<void> => {
    await services.close();
    if (shared?.database === database) {
      await empty(database);
      for (const file of ['held.jsonl', 'driven.jsonl', KEPT_FILE]) rmSync(join(folder, file), { force: true });
    } else await closeStore();
  };
  return {
    services,
    folder,
    close,
    breakStore: closeStore,
    async reopen() {
      await services.close();
      await closeStore();
      return openBench(folder, askPages);
    },
    async change(label, changes) {
      const done = await services.projects.execute({ id: uuid(), label, changes }, 'test');
      if (!done.ok) throw new Error(`${done.problem.place}: ${done.problem.message}`);
    },
  };
}

async function empty(database: Database): Promise<void> {
  const tables = await database.query(
    `select tablename from pg_tables where schemaname = 'public' and tablename not in ('schema_version', 'tallies')`,
  );
  await database.query(`truncate ${tables.map((t) => String(t.tablename)).join(', ')} restart identity`, [], true);
}

export interface SmallProject {
  readonly linkId: string;
  readonly deviceId: string;
  readonly tagId: string;
}

/** A link, a device and one tag on it. @param tag fields of the tag, and of its point */
export async function smallProject(
  bench: Bench,
  port: number,
  { address = 'HR2', order = '', ...tag }: Record<string, unknown> = {},
  device: Record<string, unknown> = {},
): Promise<SmallProject> {
  const [linkId, deviceId, tagId] = [uuid(), uuid(), uuid()];
  await bench.change('small project', [
    { kind: 'link', id: linkId, set: { name: 'Line', driver: 'modbus-tcp', settings: { host: '127.0.0.1', port } } },
    {
      kind: 'device',
      id: deviceId,
      set: { linkId, name: 'KILN', settings: { unit: 1 }, dialect: { timeoutMs: 200, readRetries: 0 }, witnessUrl: '', ...device },
    },
    { kind: 'tag', id: tagId, set: { ...newTag(deviceId, 'bed', String(address), { order: String(order) }), ...tag } },
  ]);
  return { linkId, deviceId, tagId };
}
