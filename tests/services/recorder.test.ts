/** What came over the wire is kept for hours: any moment can be looked at, and decoded anew with a mapping that was put right since. */
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { readdirSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { uuidOf } from '../support/uuidOf.ts';
import { pointSet } from '../support/pointSet.ts';
import { newFolder } from '../support/server.ts';
import { openBench, smallProject, type Bench, type SmallProject } from '../support/services.ts';
import { startKiln, type RunningStandin } from '../support/standin.ts';
import { until } from '../support/until.ts';
import { RecordingRing } from '@/store/recordingRing.ts';

let bench: Bench;
let kiln: RunningStandin;
let small: SmallProject;

beforeAll(async () => {
  kiln = await startKiln();
  bench = await openBench();
  // Its words the wrong way round: what it shows is nonsense.
  small = await smallProject(
    bench,
    kiln.modbusPort,
    { name: 'bed_temp', address: 'HR17', type: 'REAL', order: 'ABCD', unit: '°C', decimals: 1 },
    { witnessUrl: kiln.controlUrl },
  );
  await until('it is read', () => (bench.services.engine.live.get(small.tagId)?.wire ?? null) !== null);
});
afterAll(async () => {
  await bench.close();
  await kiln.stop();
});

const recorder = () => bench.services.recorder;
const rest = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));

describe('the past of a device', () => {
  let moment: number;
  let truth: number;
  test('is kept only of devices that were chosen', async () => {
    expect(recorder().state).toMatchObject({ tags: 0, from: null });
    await recorder().set({ deviceIds: [small.deviceId, uuidOf(99)], hours: 8, megabytes: 100 });
    expect(recorder().state).toMatchObject({ tags: 1, settings: { deviceIds: [small.deviceId] } });
  });
  test('is decoded anew with a mapping that was put right since, beside what was shown then', async () => {
    await kiln.hold(true);
    await rest(400);
    truth = Number(await kiln.value('bed_temp'));
    moment = Date.now();
    await rest(300);
    await kiln.hold(false);
    const [before] = await recorder().at(moment, [small.tagId]);
    expect(before).toMatchObject({ isChanged: false, reason: '' });
    expect(before?.shown).toBe(before?.byNow);
    await bench.change('order', [{ kind: 'tag', id: small.tagId, set: pointSet(bench.services.model, small.tagId, { order: 'CDAB' }) }]);
    const [after] = await recorder().at(moment, [small.tagId]);
    expect(after?.isChanged).toBe(true);
    expect(after?.shown).toBe(before?.shown);
    expect(Math.abs(Number(after?.byNow) - truth)).toBeLessThan(0.1);
  });
  test('is there after a restart, and recording goes on', async () => {
    bench = await bench.reopen();
    const [after] = await recorder().at(moment, [small.tagId]);
    expect(Math.abs(Number(after?.byNow) - truth)).toBeLessThan(0.1);
    expect(recorder().state).toMatchObject({ tags: 1 });
    await until('more comes', async () => (await recorder().history(small.tagId, moment, Date.now(), 1000)).length > 4);
    const times = (await recorder().history(small.tagId, 0, Date.now(), 1000)).map(({ at }) => at);
    expect(times).toEqual([...new Set(times)].sort((a, b) => a - b));
  });
  test('says so where there was no value, and why', async () => {
    await kiln.stop();
    await until('the loss is seen', () => bench.services.engine.live.get(small.tagId)?.quality.level === 'bad');
    await rest(50);
    const [lost] = await recorder().at(Date.now(), [small.tagId]);
    expect([lost?.raw, lost?.shown, lost?.reason === '']).toEqual(['', '–', false]);
  });
  test('is nothing where nothing was recorded', async () => {
    expect(await recorder().at(moment - 3_600_000, [small.tagId])).toEqual([]);
    expect(await recorder().at(moment, [uuidOf(77)])).toEqual([]);
  });
});

describe('the ring on the disk', () => {
  const files = newFolder();
  afterAll(() => files.remove());
  const content = Uint8Array.from({ length: 4000 }, (_, i) => (i * 7919) & 255);

  test('gives its oldest stretches for new ones, and never takes more than it may', async () => {
    const ring = await RecordingRing.open(files.folder);
    for (let i = 0; i < 20; i++) await ring.add(1e12 + i * 60_000, 1e12 + (i + 1) * 60_000, content, 3000);
    expect(ring.bytes).toBeLessThanOrEqual(3000);
    expect(ring.stretches.at(-1)?.to).toBe(1e12 + 20 * 60_000);
    expect(readdirSync(join(files.folder, 'recordings'))).toHaveLength(ring.stretches.length);
    await ring.prune(1e9, 1e12 + 19.5 * 60_000);
    expect(ring.stretches.map(({ from }) => from)).toEqual([1e12 + 19 * 60_000]);
  });
  test('opens with what is whole; a draft that was never finished goes, and a stretch that was cut off is not read', async () => {
    const folder = join(files.folder, 'recordings');
    writeFileSync(join(folder, `${1e12}-${1e12 + 60_000}.rec`), Uint8Array.of(1, 2, 3));
    writeFileSync(join(folder, `${1e12}-${1e12 + 60_000}.rec.new-77`), 'half');
    const ring = await RecordingRing.open(files.folder);
    expect(readdirSync(folder).filter((name) => name.includes('new'))).toEqual([]);
    expect(await ring.read({ from: 1e12, to: 1e12 + 60_000 })).toBeNull();
    rmSync(folder, { recursive: true });
    expect((await RecordingRing.open(files.folder)).stretches).toEqual([]);
  });
});
