import { describe, expect, test } from '@jest/globals';
import { fileURLToPath } from 'node:url';
import { v7 as uuid } from 'uuid';
import { TroubleService } from '@/services/troubleService.ts';
import { Database } from '@/store/database.ts';
import { isFull } from '@/store/storeTrouble.ts';
import { FakeClock } from '../support/fakeClock.ts';
import { newFolder } from '../support/server.ts';
import { DATABASE_FILES, openBench } from '../support/services.ts';

const NO_DOUBT = { startedAgain: '', doubt: () => ({ altered: 0, gaps: 0 }), disagreement: () => null };
const codes = (troubles: TroubleService): readonly string[] => troubles.all.map(({ code }) => code);

describe('a disk that fills', () => {
  test('is told when it is low, and before it is full nothing more is stored; with room again everything goes on', async () => {
    const database = { isStuck: false, isFull: false };
    let free = 1e12;
    const troubles = new TroubleService(database, '/', new FakeClock(), { ...NO_DOUBT, free: async () => free });
    const seen: unknown[] = [];
    for (free of [1e12, 500e6, 499e6, 96e6, 95e6, 0, 97e6, 1e12]) {
      await troubles.look();
      seen.push([free / 1e6, codes(troubles), database.isFull, troubles.problem?.code]);
    }
    expect(seen).toEqual([
      [1e6, [], false, undefined],
      [500, [], false, undefined],
      [499, ['disk-low'], false, undefined],
      [96, ['disk-low'], false, undefined],
      [95, ['disk-full'], true, 'disk-full'],
      [0, ['disk-full'], true, 'disk-full'],
      [97, ['disk-low'], false, undefined],
      [1e6, [], false, undefined],
    ]);
  });
  test('is one that cannot be written to where its room cannot be told', async () => {
    const database = { isStuck: false, isFull: false };
    const troubles = new TroubleService(database, '/nowhere at all', new FakeClock(), NO_DOUBT);
    await troubles.look();
    expect(codes(troubles)).toEqual(['disk-full']);
  });
  // The words of PostgreSQL 18 and Linux for ENOSPC.
  test.each(['could not write to file "pg_wal/xlogtemp.42": No space left on device', 'ENOSPC: no space left on device, write'])('says %s', (words) =>
    expect(isFull(words)).toBe(true),
  );
});

describe('a database that gives no answer', () => {
  test('is declared stuck after five seconds, refuses at once from then on, and ends when it is told to', async () => {
    const { folder, remove } = newFolder();
    const worker = fileURLToPath(new URL('../support/hangingWorker.mjs', import.meta.url));
    const database = await Database.open(folder, { ...DATABASE_FILES, worker });
    const begun = performance.now();
    const waiting = [database.query('select 1 /* hang */'), database.query('select 2')];
    for (const each of waiting) await expect(each).rejects.toMatchObject({ code: 'store-stuck' });
    const tookMs = performance.now() - begun;
    expect([tookMs > 4500, tookMs < 7000]).toEqual([true, true]);
    const again = performance.now();
    await expect(database.query('select 3')).rejects.toMatchObject({ code: 'store-stuck' });
    const troubles = new TroubleService(database, folder, new FakeClock(), NO_DOUBT);
    expect([codes(troubles), troubles.problem?.code]).toEqual([['store-stuck'], 'store-stuck']);
    await database.close();
    expect(performance.now() - again).toBeLessThan(1000);
    // What was stored before is there.
    await (await Database.open(folder, DATABASE_FILES)).close();
    remove();
  });
});

describe('while nothing can be stored', () => {
  test('the project is not changed, undone or exported with a backup, and says why; what is there is still told', async () => {
    const { folder, remove } = newFolder();
    const database = await Database.open(folder, DATABASE_FILES);
    database.isFull = true;
    await expect(database.query(`insert into panels (id, name) values ('${uuid()}', 'x')`)).rejects.toMatchObject({ code: 'disk-full' });
    expect(await database.query('select 1 as one')).toEqual([{ one: 1 }]);
    database.isFull = false;
    await database.close();
    remove();
    const bench = await openBench();
    try {
      bench.services.projects.refusal = () => ({ code: 'disk-full', message: 'full' });
      const before = bench.services.projects.revision;
      const changes = [{ kind: 'panel' as const, id: uuid(), set: { name: 'x' } }];
      expect(await bench.services.projects.execute({ id: uuid(), label: 'x', changes }, 'test')).toMatchObject({
        ok: false,
        problem: { code: 'disk-full' },
      });
      expect(await bench.services.projects.step('undo')).toMatchObject({ ok: false, problem: { code: 'disk-full' } });
      expect(bench.services.projects.revision).toBe(before);
    } finally {
      await bench.close();
    }
  });
});
