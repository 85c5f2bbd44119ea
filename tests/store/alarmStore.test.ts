/** What became of alarms is stored in its order, also when there is a flood, and the oldest go. */
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { NORMAL } from '@/core/alarm/alarmState.ts';
import { AlarmStore } from '@/store/alarmStore.ts';
import { Database } from '@/store/database.ts';
import { prune } from '@/store/pruning.ts';
import { newFolder } from '../support/server.ts';
import { DATABASE_FILES } from '../support/services.ts';
import { uuidOf } from '../support/uuidOf.ts';

const data = newFolder();
let database: Database;
let store: AlarmStore;
beforeAll(async () => {
  database = await Database.open(data.folder, DATABASE_FILES);
  store = new AlarmStore(database);
});
afterAll(async () => {
  await database.close();
  data.remove();
});
const keep = (n: number): Promise<void> =>
  store.keep(uuidOf(n % 50), { ...NORMAL, count: n }, { at: '2026-12-01T08:00:00.000Z', kind: 'came', text: `alarm ${n}`, priority: 'low', group: '', by: '', note: '' }); // prettier-ignore

test('of three thousand at once each is there, in order, and the last standing of each alarm is its last', async () => {
  await Promise.all(Array.from({ length: 3000 }, (_, n) => keep(n)));
  const records = await store.records({ limit: 10_000 });
  expect(records.map(({ text }) => text)).toEqual(Array.from({ length: 3000 }, (_, n) => `alarm ${2999 - n}`));
  const standings = await store.standings();
  expect(standings.size).toBe(50);
  expect(standings.get(uuidOf(49))?.count).toBe(2999);
});

test('what cannot be stored says so to who keeps it, and what comes after it is stored', async () => {
  const bad = store.keep('no id', NORMAL, { at: 'never', kind: 'came', text: '', priority: 'low', group: '', by: '', note: '' });
  await expect(bad).rejects.toThrow();
  await keep(3000);
  expect((await store.records({ limit: 1 }))[0]?.text).toBe('alarm 3000');
});

test('the oldest events go, and how alarms stand that are gone', async () => {
  await prune(database, [], { changes: 100, versions: 20, alarmEvents: 10 });
  expect((await store.records({ limit: 100 })).map(({ text }) => text)).toEqual(Array.from({ length: 10 }, (_, n) => `alarm ${3000 - n}`));
  // None of them is in the project.
  expect((await store.standings()).size).toBe(0);
});
