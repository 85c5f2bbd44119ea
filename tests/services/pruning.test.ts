/** What is kept of the past is bounded, and all that undo can lead to is there. */
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { randomBytes } from 'node:crypto';
import { v7 as uuid } from 'uuid';
import { DECIDE_NOTHING } from '@/services/lists/listService.ts';
import { Database } from '@/store/database.ts';
import { prune } from '@/store/pruning.ts';
import { addressIn } from '../support/addressIn.ts';
import { newFolder } from '../support/server.ts';
import { DATABASE_FILES, openBench, smallProject, type Bench } from '../support/services.ts';
import { until } from '../support/until.ts';
import { tagNamed } from '../support/tagNamed.ts';

let bench: Bench;
let deviceId = '';
beforeEach(async () => {
  bench = await openBench(newFolder().folder);
  ({ deviceId } = await smallProject(bench, 1));
});
afterEach(() => bench.close().catch(() => undefined));

const tag = (name: string) => tagNamed(bench.services.model, name);
const rename = (unit: string): Promise<void> => bench.change(unit, [{ kind: 'tag', id: tag('bed')?.id ?? '', set: { unit } }]);

/** A version of a list, with a tag that only this one has. */
async function bring(version: number, count: number): Promise<void> {
  const { lists } = bench.services;
  const rows = Array.from({ length: count }, (_, i) => `t${i},HR${i},INT`);
  const text = ['Name,Address,Type', ...rows, `only${version},HR9${version},INT`].join('\n');
  const opened = await lists.open({ deviceId, fileName: 'a.csv', sourceId: null }, new TextEncoder().encode(text));
  if (!opened.ok) throw new Error(opened.problem.message);
  await until('it is read', () => {
    const told = lists.status(opened.value.id);
    return told.ok && told.value.phase === 'ready';
  });
  const taken = await lists.take(opened.value.id, uuid(), DECIDE_NOTHING);
  if (!taken.ok) throw new Error(taken.problem.message);
}
const undo = async (): Promise<boolean> => (await bench.services.projects.step('undo')).ok;

describe('the change log', () => {
  test('keeps its newest changes, and undo reaches back as far', async () => {
    for (const unit of ['A', 'V', 'W', 'Hz']) await rename(unit);
    await bench.services.projects.prune({ changes: 2, versions: 20 });
    expect((await bench.services.projects.history(10)).map((entry) => entry.label)).toEqual(['Hz', 'W']);
    expect([await undo(), await undo(), await undo()]).toEqual([true, true, false]);
    expect(tag('bed')?.unit).toBe('V');
  });

  test('holds nothing of what can no longer be redone but its line', async () => {
    await bring(1, 600);
    await undo();
    await rename('A');
    expect((await bench.services.projects.history(10)).map((entry) => entry.state).slice(0, 2)).toEqual(['done', 'dropped']);
    const { folder } = bench;
    await bench.close();
    const database = await Database.open(folder, DATABASE_FILES);
    expect(await database.query(`select changes, packed, pack_id from change_log where state = 'dropped'`)).toEqual([
      { changes: [], packed: null, pack_id: null },
    ]);
    await database.close();
  });
});

test('a secret goes once nothing names it that is there or can come back', async () => {
  const link = (set: Record<string, unknown> | null) => ({ kind: 'link' as const, id: linkId, set });
  const linkId = uuid();
  const [kept, orphan] = [await bench.services.secrets.keep('used'), await bench.services.secrets.keep('never named')];
  const settings = { endpoint: 'opc.tcp://127.0.0.1:4840', policy: 'None', user: 'password', userName: 'R. Vale', password: kept };
  await bench.change('link', [link({ name: 'Weigher', driver: 'opc-ua', settings })]);
  const there = async (): Promise<readonly string[]> => {
    const { folder } = bench;
    await bench.close();
    const database = await Database.open(folder, DATABASE_FILES);
    const ids = (await database.query('select id from secrets')).map((row) => String(row.id));
    await database.close();
    bench = await openBench(folder);
    return ids;
  };
  await bench.services.projects.prune({ changes: 100, versions: 20 });
  expect(await there()).toHaveLength(2);
  await bench.services.projects.prune({ changes: 100, versions: 20, unnamedHours: 0 });
  expect(await there()).toEqual([kept]);
  expect(orphan).not.toBe(kept);
  await bench.change('link removed', [link(null)]);
  await bench.services.projects.prune({ changes: 100, versions: 20, unnamedHours: 0 });
  expect(await there()).toEqual([kept]);
  await rename('A');
  await bench.services.projects.prune({ changes: 1, versions: 20, unnamedHours: 0 });
  expect(await there()).toEqual([]);
});

test('a PIN goes once its person is not there and cannot come back', async () => {
  const [ann, bob] = [uuid(), uuid()];
  for (const [id, name] of [[ann, 'Ann'], [bob, 'Bob']] as const) await bench.change('a person', [{ kind: 'operator', id, set: { name, level: 1 } }]); // prettier-ignore
  for (const id of [ann, bob]) expect((await bench.services.signIn.setPin(id, '2718')).ok).toBe(true);
  const havePin = async (): Promise<readonly boolean[]> => {
    await bench.services.signIn.load();
    return [ann, bob].map((id) => bench.services.signIn.withPin.has(id));
  };
  await bench.change('Ann removed', [{ kind: 'operator', id: ann, set: null }]);
  await bench.services.projects.prune({ changes: 100, versions: 20 });
  expect(await havePin()).toEqual([true, true]);
  await rename('A');
  await bench.services.projects.prune({ changes: 1, versions: 20 });
  expect(await havePin()).toEqual([false, true]);
});

describe('versions of a list', () => {
  test('the newest stay, with those that undo leads to; an older one can be gone back to and imported upon', async () => {
    for (let version = 1; version <= 6; version++) await bring(version, version === 1 ? 600 : 3);
    const sourceId = tag('only6')?.listId ?? '';
    await bench.services.projects.prune({ changes: 3, versions: 1 });
    expect((await bench.services.lists.versions(sourceId)).map((v) => v.rowCount)).toEqual([4, 4, 4, 4]);
    bench = await bench.reopen();
    expect([await undo(), await undo(), await undo(), await undo()]).toEqual([true, true, true, false]);
    expect([tag('only3')?.isGone, tag('only4')]).toEqual([false, null]);
    await bring(7, 3);
    expect([addressIn(tag('only7')), tag('only3')]).toEqual(['HR97', null]);
  });

  test('of a list that was removed go once undo no longer leads to them, and its tags are nowhere', async () => {
    await bring(1, 600);
    const { model } = bench.services;
    const sourceId = tag('only1')?.listId ?? '';
    const tags = model.all('tag').filter((each) => each.listId === sourceId);
    await bench.change('list removed', [
      ...tags.map(({ id }) => ({ kind: 'tag', id, set: null }) as const),
      { kind: 'source', id: sourceId, set: null },
    ]);
    await bench.services.projects.prune({ changes: 1, versions: 20 });
    expect(await bench.services.lists.versions(sourceId)).toHaveLength(1);
    await rename('A');
    await bench.services.projects.prune({ changes: 1, versions: 20 });
    expect(await bench.services.lists.versions(sourceId)).toEqual([]);
    const { folder } = bench;
    await bench.close();
    const database = await Database.open(folder, DATABASE_FILES);
    expect(await database.query('select id from packs union all select id from unpacked')).toEqual([]);
    await database.close();
  });
});

test('the room of what was removed is used again', async () => {
  const { folder, remove } = newFolder();
  const database = await Database.open(folder, DATABASE_FILES);
  const sizes: number[] = [];
  for (let round = 0; round < 8; round++) {
    for (let i = 0; i < 4; i++)
      await database.query(
        `insert into list_versions (id, source_id, at, file_name, origin, row_count, packed) values ($1, $2, now(), 'a.csv', 'test', 1, $3)`,
        [uuid(), uuid(), randomBytes(300_000).toString('base64')],
      );
    await prune(database, []);
    sizes.push(Number((await database.query(`select pg_total_relation_size('list_versions') as size`))[0]?.size));
  }
  // What came in eight rounds would be eight times this.
  expect(Math.max(...sizes)).toBeLessThan(4 * 400_000);
  await database.close();
  remove();
});
