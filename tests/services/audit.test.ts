import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { newFolder } from '../support/server.ts';
import { openBench, smallProject, type Bench } from '../support/services.ts';

const { folder, remove } = newFolder();
let bench: Bench;
beforeAll(async () => {
  bench = await openBench(folder);
});
afterAll(async () => {
  await bench.close();
  remove();
});
const kinds = async (filter = {}): Promise<readonly string[]> =>
  (await bench.services.audit.entries({ limit: 100, ...filter })).map(({ kind, who, detail }) => [kind, who, detail].filter(Boolean).join(' · '));

test('starts, ends, and what people did are kept over a restart, the newest first, found by words and by kind', async () => {
  bench.services.audit.record('unlocked', 'R. Vale', 'KILN, for 5 min, for engineer');
  bench.services.audit.record('joined', 'Hall panel', `from 192.0.2.7 ${'x'.repeat(2000)}`);
  expect((await kinds({ text: 'vale' })).length).toBe(1);
  expect((await kinds({ text: '%' })).length).toBe(0);
  bench = await bench.reopen();
  expect((await kinds()).map((words) => words.slice(0, 20))).toEqual(
    ['started', 'ended', 'joined · Hall panel ·', 'unlocked · R. Vale ·', 'started'].map((w) => w.slice(0, 20)),
  );
  expect(await kinds({ kind: 'unlocked' })).toEqual(['unlocked · R. Vale · KILN, for 5 min, for engineer']);
  expect((await kinds({ kind: 'joined' }))[0]?.length).toBeLessThan(600);
  expect((await bench.services.audit.entries({ limit: 2 })).length).toBe(2);
});
test('a device that is closed because it was changed has its entry', async () => {
  const { deviceId } = await smallProject(bench, 1);
  expect((await bench.services.guards.unlock({ deviceId, who: 'R. Vale', minutes: 5 })).ok).toBe(true);
  await bench.change('moved', [{ kind: 'device', id: deviceId, set: { settings: { unit: 9 } } }]);
  expect(await kinds({ kind: 'locked' })).toEqual(['locked · KILN: it was changed']);
});
