/** Values that are set for checks or held: by permission, taken back only where they are still ours, and never left unsaid. */
import { afterAll, afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { cpSync } from 'node:fs';
import { join } from 'node:path';
import { v7 as uuid } from 'uuid';
import type { DrivenValue } from '@/core/check/driving/drivenValue.ts';
import type { Result } from '@/core/result.ts';
import { newTag } from '../support/newTag.ts';
import { pointSet } from '../support/pointSet.ts';
import { startRegisters, type Registers } from '../support/registers.ts';
import { newFolder } from '../support/server.ts';
import { openBench, smallProject, type Bench, type SmallProject } from '../support/services.ts';
import { until } from '../support/until.ts';

const WHO = 'R. Vale';
let bench: Bench;
let plc: Registers;
let small: SmallProject;
/** A set point at HR5, in tenths of a degree; it was 85.0 °C. */
let setpoint: string;
const folders: { remove(): void }[] = [];

beforeEach(async () => {
  plc = await startRegisters();
  plc.words[5] = 850;
  plc.words[6] = 7;
  bench = await openBench();
  await prepare();
});
afterEach(async () => {
  await bench.close();
  await plc.stop();
});
afterAll(() => {
  for (const folder of folders) folder.remove();
});

async function prepare(): Promise<void> {
  small = await smallProject(bench, plc.port, { address: 'HR6', type: 'UINT', access: 'readWrite' });
  setpoint = uuid();
  await bench.change('set point', [
    {
      kind: 'tag',
      id: setpoint,
      set: { ...newTag(small.deviceId, 'bed_setpoint', 'HR5'), type: 'UINT', unit: '°C', decimals: 1, access: 'readWrite' },
    },
    { kind: 'scale', id: setpoint, set: { scale: { kind: 'power', exponent: -1 } } },
  ]);
  await until('it is read', () => bench.services.engine.live.get(setpoint)?.text === '85.0');
  bench.services.guard.unlock(small.deviceId, WHO, 5, ['engineer', 'check']);
}

const driving = () => bench.services.driving;
const drive = (value: string, tagId = setpoint): Promise<Result<unknown>> => driving().drive({ id: uuid(), tagId, value, who: WHO });
const hold = (value: string, everyMs = 200, tagId = setpoint) => driving().hold({ id: uuid(), tagId, value, who: WHO }, everyMs);
const set = (): DrivenValue => {
  const [first] = driving().values;
  if (!first) throw new Error('Nothing is set.');
  return first;
};
const steps = async (): Promise<readonly string[]> =>
  (await bench.services.runs.stepsOfTag(setpoint)).map(({ what }) => `${what.step}: ${'words' in what ? what.words : ''}`);
async function mayBeSet(moves = true): Promise<void> {
  expect(await driving().permit(setpoint, WHO, '80', '95', moves)).toMatchObject({ ok: true });
  if (moves) expect(driving().isolate(small.deviceId, WHO, 5)).toMatchObject({ ok: true });
}

describe('nothing is set', () => {
  test.each<[string, () => Promise<unknown>, string, string]>([
    ['that nobody has permitted', async () => undefined, '90', 'not-permitted'],
    ['while nobody answers for the machine being isolated', () => driving().permit(setpoint, WHO, '80', '95', true), '90', 'not-isolated'],
    ['outside the range that was given', () => mayBeSet(), '95.1', 'out-of-range'],
    [
      'after the permission was taken away',
      async () => {
        await mayBeSet();
        await driving().forbid(setpoint);
      },
      '90',
      'not-permitted',
    ],
    [
      'while writing is open for others only',
      async () => {
        await mayBeSet();
        bench.services.guard.unlock(small.deviceId, WHO, 5, ['engineer', 'panel']);
      },
      '90',
      'locked',
    ],
    [
      'while another tag is set',
      async () => {
        await mayBeSet();
        await driving().permit(small.tagId, WHO, '0', '20', false);
        expect(await drive('8', small.tagId)).toMatchObject({ ok: true });
        plc.written.length = 0;
      },
      '90',
      'driven',
    ],
    [
      'where what is there now cannot be read',
      async () => {
        await mayBeSet();
        plc.isSilent = true;
      },
      '90',
      'no-value',
    ],
  ])('%s', async (_what, before, value, code) => {
    await before();
    expect(await drive(value)).toMatchObject({ ok: false, problem: { code } });
    expect(plc.written).toEqual([]);
    expect(plc.words[5]).toBe(850);
  });
  test('by a permission for another signal path, and again once that is undone', async () => {
    await mayBeSet();
    await bench.change('moved', [{ kind: 'tag', id: setpoint, set: pointSet(bench.services.model, setpoint, { address: 'HR6' }) }]);
    bench.services.guard.unlock(small.deviceId, WHO, 5, ['engineer', 'check']);
    expect(await drive('90')).toMatchObject({ ok: false, problem: { code: 'not-permitted' } });
    await bench.services.projects.step('undo');
    bench.services.guard.unlock(small.deviceId, WHO, 5, ['engineer', 'check']);
    expect(await drive('90')).toMatchObject({ ok: true });
  });
  test.each([
    ['eighty', '95', 'low'],
    ['95', '80', 'high'],
    ['80', '80', 'high'],
  ])('and a range from %s to %s is refused at its field', async (low, high, place) => {
    expect(await driving().permit(setpoint, WHO, low, high, true)).toMatchObject({ ok: false, problem: { code: 'range', place } });
  });
});

describe('a value that is set for a check', () => {
  test('reaches the controller, is logged, and what was there before goes back', async () => {
    await mayBeSet();
    expect(await drive('90')).toMatchObject({ ok: true, value: { state: 'done' } });
    expect(plc.words[5]).toBe(900);
    expect(set()).toMatchObject({ tagId: setpoint, oldText: '85.0', ourText: '90.0', left: null, place: expect.stringContaining('KILN') });
    expect(await drive('92.5')).toMatchObject({ ok: true });
    expect(await driving().takeBack(set().id, WHO)).toMatchObject({ ok: true, value: { isRestored: true } });
    expect(plc.words[5]).toBe(850);
    expect(driving().values).toEqual([]);
    const log = await bench.services.writes.log({ limit: 10 });
    expect(log.map(({ origin, by, sent }) => [origin, by, Number(sent.value)])).toEqual([
      ['check', WHO, 85],
      ['check', WHO, 92.5],
      ['check', WHO, 90],
    ]);
    expect(await steps()).toEqual(['driven: 90.0, before 85.0', 'driven: 92.5, before 85.0', 'restored: 85.0 was put back.']);
  });
  test('makes the proof one that was driven, and says to what', async () => {
    await mayBeSet();
    await drive('90');
    const done = await bench.services.checks.check(setpoint, { kind: 'typed', text: '90.0', who: WHO, where: 'display' });
    expect(done).toMatchObject({ ok: true, value: { proof: { outcome: 'proven', more: { how: 'driven' } } } });
  });
  test('is left as it is where the machine holds something else by then', async () => {
    await mayBeSet();
    await drive('90');
    plc.words[5] = 875;
    expect(await driving().takeBack(set().id, WHO)).toMatchObject({
      ok: true,
      value: { isRestored: false, sentence: expect.stringContaining('87.5') },
    });
    expect(plc.words[5]).toBe(875);
    expect(driving().values).toEqual([]);
    expect((await steps()).at(-1)).toContain('left: It holds 87.5');
  });
  test('that the controller cut to its own limit is ours all the same, and goes back', async () => {
    await mayBeSet();
    plc.most = 880;
    expect(await drive('90')).toMatchObject({ ok: true, value: { state: 'differs' } });
    expect(plc.words[5]).toBe(880);
    expect(await driving().takeBack(set().id, WHO)).toMatchObject({ ok: true, value: { isRestored: true } });
    expect(plc.words[5]).toBe(850);
  });
  test('goes back though its controller’s heartbeat stands still: what is held is known all the same', async () => {
    await bench.change('heartbeat', [{ kind: 'device', id: small.deviceId, set: { lifeTagId: small.tagId, lifeSeconds: 1 } }]);
    bench.services.guard.unlock(small.deviceId, WHO, 5, ['check']);
    const beat = setInterval(() => (plc.words[6] = (plc.words[6] ?? 0) + 1), 150);
    await until('it beats', () => bench.services.engine.live.get(setpoint)?.quality.level === 'good');
    await mayBeSet();
    expect(await drive('90')).toMatchObject({ ok: true, value: { state: 'done' } });
    clearInterval(beat);
    await until('it stands still', () => bench.services.engine.live.get(setpoint)?.quality.reason === 'stopped');
    expect(await driving().takeBack(set().id, WHO)).toMatchObject({ ok: true, value: { isRestored: true } });
    expect(plc.words[5]).toBe(850);
  });
  test('that was refused was never set', async () => {
    await mayBeSet();
    plc.exception = 4;
    expect(await drive('90')).toMatchObject({ ok: true, value: { state: 'refused' } });
    expect(driving().values).toEqual([]);
    plc.exception = null;
    expect(await drive('90')).toMatchObject({ ok: true, value: { state: 'done' } });
    plc.exception = 4;
    await drive('91');
    plc.exception = null;
    expect(set().ourText).toBe('90.0');
    expect(await driving().takeBack(set().id, WHO)).toMatchObject({ ok: true, value: { isRestored: true } });
  });
  test('stays listed while it cannot be put back, and is put back when that is asked again', async () => {
    await mayBeSet();
    await drive('90');
    plc.isSilent = true;
    expect(await driving().takeBack(set().id, WHO)).toMatchObject({ ok: false });
    expect(set().left).toContain('not known');
    expect(await drive('91')).toMatchObject({ ok: false, problem: { code: 'driven' } });
    plc.isSilent = false;
    await until('it is put back', async () => (await driving().takeBack(set().id, WHO)).ok);
    expect(plc.words[5]).toBe(850);
  });
  test('goes back when the machine is said to be in use again', async () => {
    await mayBeSet();
    await drive('90');
    await driving().endIsolation(small.deviceId);
    expect(plc.words[5]).toBe(850);
    expect(await drive('90')).toMatchObject({ ok: false, problem: { code: 'not-isolated' } });
  });
  test('goes back before its settings are changed, and the change waits for it', async () => {
    await mayBeSet();
    await drive('90');
    await bench.change('moved', [{ kind: 'tag', id: setpoint, set: pointSet(bench.services.model, setpoint, { address: 'HR7' }) }]);
    expect(plc.words[5]).toBe(850);
    expect(driving().values).toEqual([]);
  });
  test('refuses the change of its settings while it cannot be put back', async () => {
    await mayBeSet();
    await drive('90');
    plc.isSilent = true;
    await expect(
      bench.change('moved', [{ kind: 'tag', id: setpoint, set: pointSet(bench.services.model, setpoint, { address: 'HR7' }) }]),
    ).rejects.toThrow(/could not be put back/);
    plc.isSilent = false;
  });
  test('an unrelated change leaves it as it is', async () => {
    await mayBeSet();
    await drive('90');
    await bench.change('renamed', [{ kind: 'tag', id: small.tagId, set: { name: 'other' } }]);
    expect(plc.words[5]).toBe(900);
  });
  test('is told as left when writing is locked, and can be put back once it is open', async () => {
    await mayBeSet();
    await drive('90');
    bench.services.guard.lock(small.deviceId);
    expect(set().left).toContain('locked');
    expect(await driving().takeBack(set().id, WHO)).toMatchObject({ ok: false, problem: { code: 'locked' } });
    expect(plc.words[5]).toBe(900);
    bench.services.guard.unlock(small.deviceId, WHO, 5, ['check']);
    expect(await driving().takeBack(set().id, WHO)).toMatchObject({ ok: true });
    expect(plc.words[5]).toBe(850);
  });
  test('goes back when the server ends in order', async () => {
    await mayBeSet();
    await drive('90');
    await driving().close();
    expect(plc.words[5]).toBe(850);
  });
  test('keeps the exact raw value of what it puts back, whatever the scale makes of it', async () => {
    // 1/3 of a count a step: no entered value leads to every count.
    await bench.change('scale', [{ kind: 'scale', id: setpoint, set: { scale: { kind: 'linear', rawA: 0, engA: 0, rawB: 3000, engB: 100 } } }]);
    bench.services.guard.unlock(small.deviceId, WHO, 5, ['check']);
    plc.words[5] = 851;
    await until('it is read', () => bench.services.engine.live.get(setpoint)?.raw === 851);
    await driving().permit(setpoint, WHO, '20', '95', false);
    await drive('90');
    expect(plc.words[5]).toBe(2700);
    await driving().takeBack(set().id, WHO);
    expect(plc.words[5]).toBe(851);
  });
});

describe('a value that is held', () => {
  test('is written again and again, also over what the program writes, until it is released', async () => {
    expect(await hold('90')).toMatchObject({ ok: true });
    plc.words[5] = 850;
    await until('it is written again', () => plc.words[5] === 900);
    await until('and again', () => plc.written.length >= 4);
    expect(set()).toMatchObject({ everyMs: 200, left: null });
    expect(await driving().takeBack(set().id, WHO)).toMatchObject({ ok: true });
    const count = plc.written.length;
    await new Promise((resolve) => setTimeout(resolve, 500));
    expect(plc.written.length).toBe(count);
    expect(plc.words[5]).toBe(850);
  });
  test('needs no permission of a check, but writing that is open for the bench', async () => {
    bench.services.guard.unlock(small.deviceId, WHO, 5, ['check']);
    expect(await hold('90')).toMatchObject({ ok: false, problem: { code: 'locked' } });
    expect(plc.written).toEqual([]);
  });
  test('and others are released together', async () => {
    await hold('90');
    await hold('9', 500, small.tagId);
    expect([plc.words[5], plc.words[6]]).toEqual([900, 9]);
    const done = await driving().takeAllBack(WHO);
    expect(done).toHaveLength(2);
    expect([plc.words[5], plc.words[6]]).toEqual([850, 7]);
    expect(driving().values).toEqual([]);
  });
  test('is written no more once a write did not arrive, and is not taken up again unasked', async () => {
    await hold('90');
    plc.isSilent = true;
    await until('it is told', () => set().left !== null, 10_000);
    plc.isSilent = false;
    plc.words[5] = 860;
    await new Promise((resolve) => setTimeout(resolve, 700));
    expect(plc.words[5]).toBe(860);
    expect(set().left).toContain('no longer written');
  }, 20_000);
});

describe('after a crash', () => {
  test('what was set is told, not put back by itself, and put back when that is asked', async () => {
    const folder = newFolder();
    const after = newFolder();
    folders.push(folder, after);
    await bench.close();
    bench = await openBench(folder.folder);
    await prepare();
    await mayBeSet();
    await drive('90');
    await hold('9', 200, small.tagId);
    // As it lies on the disk at this moment: what a killed server leaves.
    cpSync(folder.folder, join(after.folder, 'left'), { recursive: true, filter: (path) => !path.endsWith('.pid') && !path.endsWith('lock') });
    const crashed = await openBench(join(after.folder, 'left'));
    const count = (await crashed.services.writes.log({ limit: 100 })).length;
    try {
      await until('the controller is read', () => crashed.services.engine.live.get(setpoint)?.text === '90.0');
      const { driving: again } = crashed.services;
      expect(again.values.map(({ tagName, ourText, oldText, left }) => [tagName, ourText, oldText, left])).toEqual([
        ['bed_setpoint', '90.0', '85.0', 'The server ended while it was set.'],
        ['bed', '9', '7', 'The server ended while it was set.'],
      ]);
      await new Promise((resolve) => setTimeout(resolve, 700));
      expect((await crashed.services.writes.log({ limit: 100 })).length).toBe(count);
      const [first] = again.values;
      expect(await again.takeBack(first?.id ?? '', WHO)).toMatchObject({ ok: false, problem: { code: 'locked' } });
      expect(plc.words[5]).toBe(900);
      crashed.services.guard.unlock(small.deviceId, WHO, 5, ['check', 'engineer']);
      expect(await again.takeBack(first?.id ?? '', WHO)).toMatchObject({ ok: true, value: { isRestored: true } });
      expect(plc.words[5]).toBe(850);
      const [second] = again.values;
      expect(await again.letStay(second?.id ?? '', WHO)).toMatchObject({ ok: true });
      expect(again.values).toEqual([]);
    } finally {
      await crashed.close();
    }
  }, 60_000);
});
