/** A list that counts otherwise than its device is compared with what the device holds. */
import { afterAll, afterEach, beforeEach, expect, test } from '@jest/globals';
import type { DraftStatus } from '@/core/taglist/draft.ts';
import { FaultyServer } from '../support/faultyServer.ts';
import { openBench, smallProject, type Bench } from '../support/services.ts';
import { until } from '../support/until.ts';
import { tagNamed } from '../support/tagNamed.ts';

/** Reals at even registers, from 0 on: 850.5, 3.25, 1200.75, 42.5. */
const memory = Buffer.alloc(40);
[850.5, 3.25, 1200.75, 42.5].forEach((value, i) => memory.writeFloatBE(value, 4 * i));
const server = await FaultyServer.start();
server.onRequest = ({ pdu, answer }) => {
  const [start, count] = pdu[0] === 3 ? [pdu.readUInt16BE(1), pdu.readUInt16BE(3)] : [0, 0];
  const data = memory.subarray(2 * start, 2 * (start + count));
  if (count === 0 || data.length < 2 * count) answer([(pdu[0] ?? 0) | 0x80, 2]);
  else answer([3, data.length, ...data]);
};
let bench: Bench;
let deviceId = '';
beforeEach(async () => {
  bench = await openBench();
  ({ deviceId } = await smallProject(bench, server.port, { address: 'HR16' }));
});
afterEach(() => bench.close());
afterAll(() => server.stop());

async function read(text: string, asksDevice = true): Promise<DraftStatus> {
  const { lists, engine } = bench.services;
  await until('the device answers', () => engine.live.get(tagNamed(bench.services.model, 'bed')?.id ?? '')?.quality.level === 'good');
  const opened = await lists.open({ deviceId, fileName: 'a.csv', sourceId: null }, new TextEncoder().encode(text), asksDevice);
  if (!opened.ok) throw new Error(opened.problem.message);
  let status = opened.value;
  await until('it is read', () => {
    const told = lists.status(opened.value.id);
    if (told.ok) status = told.value;
    return status.phase === 'ready';
  });
  return status;
}
const list = (...addresses: readonly string[]): string => ['Name,Address,Type,Order', ...addresses.map((a, i) => `t${i},${a},REAL,ABCD`)].join('\n');

test('a list that counts from 0 is told by the values, and no longer once it is said', async () => {
  const status = await read(list('40002', '40004'));
  expect(status.summary?.counting).toEqual({ kind: 'values', countsFrom: 0, address: '40002', count: 2, neighbour: '' });
  const { lists } = bench.services;
  await lists.reread(status.id, { ...(bench.services.model.get('source', status.sourceId)?.choices ?? {}), countsFrom: 0 });
  await until('it is read again', () => {
    const told = lists.status(status.id);
    return told.ok && told.value.phase === 'ready' && told.value.summary?.counting === null;
  });
});

test('a device with swapped words is not taken for a list that counts otherwise', async () => {
  const right = Buffer.from(memory);
  for (let at = 0; at < 16; at += 4) memory.set([right[at + 2] ?? 0, right[at + 3] ?? 0, right[at] ?? 0, right[at + 1] ?? 0], at);
  const bare = ['Name,Address,Type', 't0,40001,REAL', 't1,40003,REAL', 't2,40005,REAL'].join('\n');
  expect((await read(bare)).summary?.counting).toBeNull();
  memory.set(right);
});

test('nothing is told of a list that counts as the device does, nor asked for a script', async () => {
  expect((await read(list('40001', '40003', '40005'))).summary?.counting).toBeNull();
  const before = server.requests.length;
  expect((await read(list('40002', '40004'), false)).summary?.counting).toBeNull();
  expect(server.requests.slice(before).filter(({ pdu }) => pdu[0] === 3 && pdu.readUInt16BE(1) < 16)).toEqual([]);
});

test('a device that does not answer keeps no list waiting for long', async () => {
  const { lists } = bench.services;
  await until('the device answers', () => server.requests.length > 0);
  const answers = server.onRequest;
  server.onRequest = () => undefined;
  const begun = performance.now();
  const opened = await lists.open({ deviceId, fileName: 'a.csv', sourceId: null }, new TextEncoder().encode(list('40002', '40004')));
  const id = opened.ok ? opened.value.id : '';
  await until('it is read', () => {
    const told = lists.status(id);
    return told.ok && told.value.phase === 'ready';
  });
  expect(performance.now() - begun).toBeLessThan(5000);
  server.onRequest = answers;
});
