import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { rmSync } from 'node:fs';
import { join } from 'node:path';
import { toJson } from '@/core/value/engineering.ts';
import { Database } from '@/store/database.ts';
import { Trail, type StoredProof } from '@/store/trail.ts';
import { newFolder } from '../support/server.ts';
import { DATABASE_FILES } from '../support/services.ts';
import { uuidOf } from '../support/uuidOf.ts';

const { folder, remove } = newFolder();
let database: Database;
let book: Trail;
const proof = (n: number): StoredProof => ({
  tagId: uuidOf(n),
  digest: String(n % 10).repeat(64),
  outcome: 'proven',
  witness: 'display',
  who: 'R. Vale',
  at: '2026-11-25T08:00:00.000Z',
  madeIn: null,
  seen: { sentence: 'They agree.', value: toJson(12n ** 20n), witness: toJson(0.1 + 0.2) },
  // As it was recorded before there was more, and as it is now.
  more: n % 2 === 0 ? null : { how: 'observed', path: [{ what: 'order', text: 'ABCD' }], open: [], note: '', runId: null },
});
const add = (...numbers: number[]) => book.add(numbers.map(proof), (statements) => database.transaction(statements));
const altered = async (): Promise<readonly number[]> => (await book.load()).proofs.flatMap((p, i) => (p.madeIn === null ? [] : [i + 1]));

beforeAll(async () => {
  database = await Database.open(folder, DATABASE_FILES);
  book = await Trail.open(database, folder);
});
afterAll(async () => {
  await database.close();
  remove();
});

/** Changes rows by hand, looks, and puts them back. */
async function meanwhile(sql: string, look: () => Promise<void>): Promise<void> {
  await database.query('create table put_aside as select * from trail');
  await database.query(sql);
  await look();
  await database.query('delete from trail');
  await database.query('insert into trail overriding system value select * from put_aside');
  await database.query('drop table put_aside');
}

describe('records of proofs', () => {
  test('added at the same moment, alone or together, are one chain, and the same after opening again', async () => {
    await Promise.all([add(1), add(2, 3), add(4)]);
    book = await Trail.open(database, folder);
    await add(5);
    expect(await book.load()).toMatchObject({ altered: 0, gaps: 0, proofs: [1, 2, 3, 4, 5].map((n) => ({ tagId: uuidOf(n), madeIn: null })) });
  });
  test('that could not be stored leave the chain whole', async () => {
    await expect(book.add([proof(9)], () => Promise.reject(new Error('full')))).rejects.toThrow('full');
    await add(6);
    expect(await book.load()).toMatchObject({ altered: 0, gaps: 0 });
  });
  test.each([
    ['another path', `update trail set digest = repeat('e', 64) where seq = 2`, [2]],
    ['another verdict', `update trail set outcome = 'failed' where seq = 6`, [6]],
    ['another name', `update trail set who = 'N. N.' where seq = 1`, [1]],
    ['another value', `update trail set seen = '{"sentence": "", "value": 1, "witness": 1}' where seq = 3`, [3]],
    [
      'seals taken from others',
      `update trail p set after_hash = q.after_hash, signature = q.signature from trail q where p.seq = 5 and q.seq = 4`,
      [5],
    ],
    ['none at all', `update trail set signature = null, after_hash = null where seq = 4`, [4]],
  ])('into which somebody wrote %s prove nothing, and the others still do', async (_what, sql, wanted) => {
    await meanwhile(sql, async () => {
      expect(await altered()).toEqual(wanted);
      expect((await book.load()).altered).toBe(1);
    });
    expect(await book.load()).toMatchObject({ altered: 0, gaps: 0 });
  });
  test('out of which one was taken, such as the one that did not agree, are told to have a gap', async () => {
    await meanwhile('delete from trail where seq = 3', async () => {
      expect(await book.load()).toMatchObject({ gaps: 1, altered: 0 });
    });
  });
  test('are taken over once where there was no key before, and never without their own key', async () => {
    rmSync(join(folder, 'proof-key.json'));
    book = await Trail.open(database, folder);
    expect((await book.load()).altered).toBe(6);
    await database.query('update trail set signature = null, after_hash = null');
    rmSync(join(folder, 'proof-key.json'));
    book = await Trail.open(database, folder);
    expect(await book.load()).toMatchObject({ altered: 0, gaps: 0 });
  });
});
