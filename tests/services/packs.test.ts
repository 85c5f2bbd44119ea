/** Tags that came by thousands lie packed in one row; whatever happens to them afterwards, nothing of it is lost. */
import { afterAll, afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { v7 as uuid, validate, version } from 'uuid';
import type { Change } from '@/core/project/command.ts';
import type { Tag } from '@/core/project/entities.ts';
import { DECIDE_NOTHING } from '@/services/lists/listService.ts';
import { addressOf } from '@/core/project/tagSource.ts';
import { FaultyServer } from '../support/faultyServer.ts';
import { randomOf } from '../support/listHistory.ts';
import { newFolder } from '../support/server.ts';
import { openBench, smallProject, type Bench } from '../support/services.ts';
import { until } from '../support/until.ts';
import { tagNamed } from '../support/tagNamed.ts';

let bench: Bench;
let deviceId = '';
const server = await FaultyServer.start();
beforeEach(async () => {
  bench = await openBench(newFolder().folder);
  ({ deviceId } = await smallProject(bench, server.port));
});
afterEach(() => bench.close().catch(() => undefined));
afterAll(() => server.stop());

const COUNT = 600;
const row = (i: number, comment = `Row ${i}`): string => `t${i},HR${i},INT,0,27648,0,${i + 1},"${comment}"`;
const list = (rows: readonly string[]): string => ['Name,Address,Type,Raw low,Raw high,Low,High,Comment', ...rows].join('\n');
const all = (): readonly Tag[] => [...bench.services.model.all('tag')].sort((a, b) => (a.id < b.id ? -1 : 1));
/** Tags and scales as they are, to be compared with how they are after a restart. */
const stand = (): unknown => [all(), [...bench.services.model.all('scale')].sort((a, b) => (a.id < b.id ? -1 : 1))];
const named = (name: string): Tag => {
  const tag = tagNamed(bench.services.model, name);
  if (!tag) throw new Error(`no tag ${name}`);
  return tag;
};

async function bring(text: string, fileName = 'line2.csv'): Promise<void> {
  const { lists } = bench.services;
  const opened = await lists.open({ deviceId, fileName, sourceId: null }, new TextEncoder().encode(text));
  if (!opened.ok) throw new Error(opened.problem.message);
  const { id } = opened.value;
  await until('it is read', () => {
    const told = lists.status(id);
    return told.ok && told.value.phase === 'ready';
  });
  const done = await lists.take(id, uuid(), DECIDE_NOTHING);
  if (!done.ok) throw new Error(done.problem.message);
}
async function step(way: 'undo' | 'redo'): Promise<void> {
  const done = await bench.services.projects.step(way);
  if (!done.ok) throw new Error(done.problem.message);
}
/** The same after a restart as before it. */
async function survives(): Promise<void> {
  const before = stand();
  bench = await bench.reopen();
  expect(stand()).toEqual(before);
}
test('a page is told of many tags how many there are, and of few all of them', async () => {
  await bring(list(Array.from({ length: 30 }, (_, i) => row(i))));
  expect(bench.services.firstSnapshot()).toEqual(bench.services.snapshot());
  await bring(list(Array.from({ length: 2500 }, (_, i) => row(100 + i))), 'line3.csv');
  const { tags, scales, coming, devices, sources, revision } = bench.services.firstSnapshot();
  const whole = bench.services.snapshot();
  expect([tags.length, scales.length, coming]).toEqual([0, 0, { count: whole.tags.length, on: { [deviceId]: whole.tags.length } }]);
  expect({ devices, sources, revision }).toEqual({ devices: whole.devices, sources: whole.sources, revision: whole.revision });
});

const change = (label: string, ...changes: readonly Change[]): Promise<void> => bench.change(label, changes);

describe('a list of hundreds of tags', () => {
  test('is there after a restart, with its scales, whatever was changed, removed or added since', async () => {
    await bring(list(Array.from({ length: COUNT }, (_, i) => row(i))));
    expect(all()).toHaveLength(COUNT + 1);
    await change('one renamed', { kind: 'tag', id: named('t5').id, set: { name: 'oven', unit: '°C' } });
    await change('one removed', { kind: 'tag', id: named('t6').id, set: null });
    await change('one scale', { kind: 'scale', id: named('t7').id, set: { scale: { kind: 'power', exponent: -1 } } });
    await change('one scale removed', { kind: 'scale', id: named('t8').id, set: null });
    await survives();
    expect([named('oven').unit, tagNamed(bench.services.model, 't6'), bench.services.model.get('scale', named('t8').id)]).toEqual(['°C', null, null]);
    for (let i = 0; i < 4; i++) await step('undo');
    expect(named('t6').comment).toBe('Row 6');
    for (let i = 0; i < 4; i++) await step('redo');
    await survives();
    expect(tagNamed(bench.services.model, 't6')).toBeNull();
  });

  test('goes with one undo and comes back with one redo as it was brought, over restarts', async () => {
    const before = stand();
    await bring(list(Array.from({ length: COUNT }, (_, i) => row(i))));
    const brought = stand();
    await change('one renamed', { kind: 'tag', id: named('t5').id, set: { name: 'oven' } });
    await step('undo');
    await step('undo');
    expect(stand()).toEqual(before);
    await survives();
    await step('redo');
    expect(stand()).toEqual(brought);
    await step('redo');
    expect(addressOf(named('oven'))).toBe('HR5');
    await survives();
  });

  test('whose tags have ids that are counted on, each a UUID of version 8 (RFC 9562, 5.8) by another library', async () => {
    await bring(list(Array.from({ length: COUNT }, (_, i) => row(i))));
    const ids = all().flatMap((tag) => (tag.name === 'bed' ? [] : tag.id));
    expect(ids.filter((id) => !validate(id) || version(id) !== 8)).toEqual([]);
    expect(new Set(ids).size).toBe(COUNT);
  });

  test('is still there as a version when its import was undone and something else was done since', async () => {
    await bring(list([row(0)]));
    const { listId: sourceId } = named('t0');
    await bring(list(Array.from({ length: COUNT }, (_, i) => row(i))));
    await step('undo');
    await change('another', { kind: 'tag', id: named('t0').id, set: { unit: 'A' } });
    const { lists } = bench.services;
    const [newer, older] = await lists.versions(sourceId);
    const compared = await lists.compare(sourceId, older?.id ?? '', newer?.id ?? '');
    if (!compared.ok) throw new Error(compared.problem.message);
    await until('they are compared', () => {
      const told = lists.status(compared.value.id);
      return told.ok && told.value.phase === 'ready';
    });
    const told = lists.status(compared.value.id);
    expect(told.ok && told.value.summary?.merge).toMatchObject({ same: 1, added: COUNT - 1, gone: 0 });
    // The one that lies in a pack, with nothing before it.
    await bring(list(Array.from({ length: COUNT }, (_, i) => row(i + 1000))), 'other.csv');
    const other = named('t1000').listId;
    await step('undo');
    await change('another', { kind: 'tag', id: named('t0').id, set: { unit: 'V' } });
    const [only] = await lists.versions(other);
    expect(only).toMatchObject({ rowCount: COUNT });
    await survives();
  });

  test('that was undone can be imported again, and another change leaves nothing of the first', async () => {
    await bring(list(Array.from({ length: COUNT }, (_, i) => row(i))));
    await step('undo');
    await bring(list(Array.from({ length: COUNT }, (_, i) => row(i, 'again'))));
    await survives();
    expect([all().length, named('t9').comment]).toEqual([COUNT + 1, 'again']);
    expect((await bench.services.projects.step('redo')).ok).toBe(false);
  });

  test('whose names are taken by then is refused whole', async () => {
    const { lists } = bench.services;
    const opened = await lists.open(
      { deviceId, fileName: 'a.csv', sourceId: null },
      new TextEncoder().encode(list(Array.from({ length: COUNT }, (_, i) => row(i)))),
    );
    if (!opened.ok) throw new Error('not opened');
    await until('it is read', () => {
      const told = lists.status(opened.value.id);
      return told.ok && told.value.phase === 'ready';
    });
    await change('taken', { kind: 'tag', id: named('bed').id, set: { name: 'T77' } });
    const before = stand();
    expect(await lists.take(opened.value.id, uuid(), DECIDE_NOTHING)).toMatchObject({ ok: false, problem: { code: 'name-taken' } });
    expect(stand()).toEqual(before);
    await survives();
  });
});

test.each([11, 12])(
  'random changes, versions, undo, redo and restarts lose nothing (seed %i)',
  async (seed) => {
    const random = randomOf(seed);
    const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)] as T;
    /** What the project was before each change that still stands. */
    const past: unknown[] = [];
    const future: unknown[] = [];
    const done = async (work: () => Promise<void>): Promise<void> => {
      past.push(stand());
      future.length = 0;
      await work();
    };
    for (let round = 0; round < 12; round++) {
      const kind = round === 0 ? 0 : Math.floor(random() * 7);
      if (kind === 0)
        await done(() => bring(list(Array.from({ length: COUNT }, (_, i) => row(i, pick(['a', 'b', `Row ${i}`])))), pick(['x.csv', 'x.csv'])));
      else if (kind <= 2) {
        const tags = all().filter((t) => t.name !== 'bed');
        if (tags.length === 0) continue;
        const tag = pick(tags);
        await done(() =>
          change(
            'one',
            random() < 0.3 ? { kind: 'tag', id: tag.id, set: null } : { kind: 'tag', id: tag.id, set: { unit: pick(['A', 'rpm']) + String(round) } },
          ),
        );
      } else if (kind === 3 && past.length > 0) {
        const now = stand();
        await step('undo');
        expect(stand()).toEqual(past.pop());
        future.push(now);
      } else if (kind === 4 && future.length > 0) {
        const now = stand();
        await step('redo');
        expect(stand()).toEqual(future.pop());
        past.push(now);
      } else if (kind === 5) await bench.services.projects.prune();
      else await survives();
    }
    while (past.length > 0) {
      await step('undo');
      expect(stand()).toEqual(past.pop());
    }
    await survives();
  },
  300_000,
);
