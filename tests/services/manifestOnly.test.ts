/** A driver that is only a manifest and a session goes through every step of the work, with nothing written for it anywhere. */
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { v7 as uuid } from 'uuid';
import { writingProjectFile } from '@/core/projectFile/projectFile.ts';
import { addDriver } from '@/drivers/registry.ts';
import { describeDriver } from '@/drivers/descriptions.ts';
import { DECIDE_NOTHING } from '@/services/lists/listService.ts';
import { pathOf } from '@/ui/signalPath/signalPath.ts';
import { ProjectView } from '@/ui/live/project.ts';
import { liveSample } from '@/services/liveSample.ts';
import { Database } from '@/store/database.ts';
import { MockCells } from '../support/mockDriver.ts';
import { newFolder } from '../support/server.ts';
import { DATABASE_FILES, openBench, type Bench } from '../support/services.ts';
import { tagNamed } from '../support/tagNamed.ts';
import { until } from '../support/until.ts';

const SECRET = 'Flour&Water-7731';
const cells = new MockCells();
let bench: Bench;
const { folder } = newFolder();
const [link, device, panel, page] = [uuid(), uuid(), uuid(), uuid()];
const set = (over: Record<string, unknown> = {}) => ({ name: 'Shelf', driver: 'mock-cells', settings: { shelf: 'main', ...over } });
const refusal = async (changes: Parameters<Bench['change']>[1]): Promise<string> => {
  const done = await bench.services.projects.execute({ id: uuid(), label: 'x', changes }, 'test');
  return done.ok ? '' : `${done.problem.place?.split(' ').at(-1)}: ${done.problem.message}`;
};
const id = (name: string): string => tagNamed(bench.services.model, name)?.id ?? '';
const shown = (name: string): string => {
  const sample = bench.services.engine.live.get(id(name));
  return `${sample?.text} ${sample?.quality.level}`;
};

beforeAll(async () => {
  addDriver(cells.driver);
  cells.set('cell:bed_temp', 104.6);
  cells.set('cell:bed_temp/back', 12);
  cells.set('cell:speed_ro', 40);
  bench = await openBench(folder);
});
afterAll(() => bench.close());

describe('links', () => {
  test('are checked by the manifest, and say where they lead', async () => {
    expect(await refusal([{ kind: 'link', id: link, set: set({ colour: 'red' }) }])).toBe('settings.: A store of cells has no such setting.');
    await bench.change('link', [
      { kind: 'link', id: link, set: set() },
      { kind: 'device', id: device, set: { linkId: link, name: 'CELLS', settings: { row: 2, skips: ['a'] }, dialect: {}, witnessUrl: '' } },
    ]);
    expect(await refusal([{ kind: 'device', id: device, set: { settings: { row: 21 } } }])).toBe(
      'settings.row: The row is a whole number from 1 to 20.',
    );
    const driver = describeDriver('mock-cells');
    expect([driver?.target({ shelf: 'north' }), driver?.party({ row: 3 }), driver?.party({})]).toEqual(['shelf north', 'row 3', 'row 1']);
  });
  test('keep a password apart: only the session gets it', async () => {
    const kept = await bench.services.secrets.keep(SECRET);
    await bench.change('signed in', [{ kind: 'link', id: link, set: { settings: { shelf: 'main', who: 'user', password: kept } } }]);
    expect(cells.passwords.at(-1)).toBe(SECRET);
    expect(await refusal([{ kind: 'link', id: link, set: { settings: { shelf: 'main', who: 'user', password: SECRET } } }])).toContain(
      'settings.password',
    );
    bench = await bench.reopen();
    expect(cells.passwords.at(-1)).toBe(SECRET);
  });
  test('test the connection in its stages', async () => {
    const stages = bench.services.connections.test(device, new AbortController().signal);
    if (!stages.ok) throw new Error(stages.problem.message);
    const seen: string[] = [];
    for await (const stage of stages.value) seen.push(`${stage.id} ${stage.state}`);
    expect(seen).toContain('cells passed');
  });
});

describe('lists and the map', () => {
  test('a list of its addresses comes in; one that is none is refused with what is accepted', async () => {
    const text = 'Name,Address,Type,Access,Group\nbed_temp,cell:BED_TEMP,REAL,RW,Bed\nspeed,cell:speed_ro,REAL,R,\nwrong,HR1,REAL,R,\n';
    const opened = await bench.services.lists.open({ deviceId: device, fileName: 'cells.csv', sourceId: null }, new TextEncoder().encode(text));
    if (!opened.ok) throw new Error(opened.problem.message);
    await until('it is read', () => {
      const told = bench.services.lists.status(opened.value.id);
      return told.ok && told.value.phase === 'ready';
    });
    const bad = await bench.services.lists.rows(opened.value.id, 'bad', 0, 5);
    expect(JSON.stringify(bad)).toContain('“HR1” is no address here.');
    expect(await bench.services.lists.take(opened.value.id, uuid(), { ...DECIDE_NOTHING, leaveOutBad: true })).toMatchObject({ ok: true });
    await until('values come', () => shown('bed_temp') === '104.6 good');
    cells.set('cell:bed_temp', 105.5);
    expect([shown('bed_temp'), shown('speed')]).toEqual(['105.5 good', '40 good']);
  });
  test('a point has its own settings', async () => {
    const tag = tagNamed(bench.services.model, 'bed_temp');
    if (tag?.source.kind !== 'point') throw new Error();
    expect(await refusal([{ kind: 'tag', id: tag.id, set: { source: { ...tag.source, settings: { side: 'top' } } } }])).toContain(
      'source.settings.side',
    );
    await bench.change('back', [{ kind: 'tag', id: tag.id, set: { source: { ...tag.source, settings: { side: 'back' } } } }]);
    expect(shown('bed_temp')).toBe('12 good');
    await bench.services.projects.step('undo');
    expect(shown('bed_temp')).toBe('105.5 good');
  });
  test('what may only be read is not written, what may be is, once it is unlocked', async () => {
    await bench.change('rw', [{ kind: 'tag', id: id('speed'), set: { access: 'readWrite' } }]);
    const write = (name: string, value: string) => bench.services.writes.write({ id: uuid(), tagId: id(name), value, writer: 'engineer' });
    expect(await write('bed_temp', '90')).toMatchObject({ ok: false, problem: { code: 'locked' } });
    bench.services.guard.unlock(device, 'R. Vale', 5);
    expect(await write('speed', '90')).toMatchObject({ ok: false, problem: { code: 'read-only' } });
    expect(await write('bed_temp', '90.5')).toMatchObject({ ok: true, value: { state: 'done', heldText: '90.5' } });
    expect(cells.values.get('cell:bed_temp')).toBe(90.5);
  });
});

describe('the panel, the signal path and the check', () => {
  test('a page made of what the server tells knows the driver, and shows every stage', async () => {
    await bench.change('page', [
      { kind: 'panel', id: panel, set: { name: 'P' } },
      { kind: 'page', id: page, set: { panelId: panel, name: 'Page', position: 0 } },
      {
        kind: 'element',
        id: uuid(),
        set: { pageId: page, kind: 'value', tagId: id('bed_temp'), label: 'Bed', x: 0, y: 0, w: 200, h: 64, settings: {} },
      },
    ]);
    const snapshot = bench.services.snapshot();
    expect(snapshot.drivers.map((d) => d.id)).toEqual(['mock-cells']);
    const view = ProjectView.of(JSON.parse(JSON.stringify(snapshot)) as typeof snapshot);
    const tag = view.tag(id('bed_temp'));
    const sample = bench.services.engine.live.get(id('bed_temp'));
    if (!tag || !sample) throw new Error();
    const path = pathOf(view, tag, { sample: liveSample(sample), level: 'good', reason: null, why: '', text: sample.text, recent: [] });
    expect(path.where).toBe('CELLS, row 2 · Bed');
    expect(path.stages.map(({ value }) => value)).toEqual(['cell:bed_temp', '90.5', '90.5', '90.5', '90.5']);
    expect(path.stages[0]?.setting).toBe('the cell cell:bed_temp');
  });
  test('a typed value is proven by who has seen it', async () => {
    const checked = await bench.services.checks.check(id('bed_temp'), { kind: 'typed', who: 'R. Vale', text: '90.5' });
    expect(checked).toMatchObject({ ok: true, value: { proof: { outcome: 'proven' } } });
    const wrong = await bench.services.checks.check(id('bed_temp'), { kind: 'typed', who: 'R. Vale', text: '9.05' });
    expect(wrong).toMatchObject({ ok: true, value: { proof: { outcome: 'failed' } } });
  });
  test('the trace has nothing to take apart, and says so', () => {
    expect(bench.services.traces.capture(link, 'pcap')).toMatchObject({ ok: false, problem: { code: 'no-capture' } });
    expect(bench.services.traces.capture(link, 'text').ok).toBe(true);
  });
});

describe('the password', () => {
  test('is in no page, no project file, no log and no table, and its key is its owner’s alone', async () => {
    const snapshot = bench.services.snapshot();
    const file = Buffer.concat([...writingProjectFile({ ...snapshot, proofs: [] }, '')]);
    const seen = [
      JSON.stringify(snapshot),
      JSON.stringify(bench.services.panels.list().map(({ id: panelId }) => bench.services.panels.bundle(panelId))),
      JSON.stringify(await bench.services.projects.history(100)),
      file.toString('latin1'),
    ];
    await bench.close();
    const database = await Database.open(folder, DATABASE_FILES);
    for (const { tablename } of await database.query(`select tablename from pg_tables where schemaname = 'public'`))
      seen.push(JSON.stringify(await database.query(`select * from ${String(tablename)}`, [], true)));
    await database.close();
    expect(seen.length).toBeGreaterThan(15);
    for (const text of seen) expect(text).not.toContain(SECRET);
    const key = join(folder, 'secret-key');
    expect(statSync(key).mode & 0o777).toBe(0o600);
    expect(Buffer.from(readFileSync(key, 'utf8').trim(), 'base64')).toHaveLength(32);
    bench = await openBench(folder);
  });
});
