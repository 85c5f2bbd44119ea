import { afterAll, afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { v7 as uuid } from 'uuid';
import type { Tag } from '@/core/project/entities.ts';
import type { DraftChoices, DraftDecisions, DraftStatus } from '@/core/taglist/draft.ts';
import { DECIDE_NOTHING } from '@/services/lists/listService.ts';
import { groupText } from '@/core/project/tagPath.ts';
import { addressOf, withPoint } from '@/core/project/tagSource.ts';
import { randomOf } from '../support/listHistory.ts';
import { newTag } from '../support/newTag.ts';
import { openBench, smallProject, type Bench } from '../support/services.ts';
import { FaultyServer } from '../support/faultyServer.ts';
import { newFolder } from '../support/server.ts';
import { until } from '../support/until.ts';
import { tagNamed } from '../support/tagNamed.ts';

let bench: Bench;
let deviceId = '';
const server = await FaultyServer.start();
beforeEach(async () => {
  bench = await openBench();
  ({ deviceId } = await smallProject(bench, server.port));
});
afterEach(() => bench.close());
afterAll(() => server.stop());

const HEAD = 'Name,Address,Type,Unit,Low,High,Comment';
const list = (...rows: readonly string[]): string => [HEAD, ...rows].join('\n');
const named = (name: string): Tag => {
  const tag = tagNamed(bench.services.model, name);
  if (!tag) throw new Error(`no tag ${name}`);
  return tag;
};
const names = (): readonly string[] =>
  bench.services.model
    .tagsOf(deviceId)
    .map((t) => t.name)
    .sort();
const source = () => bench.services.model.all('source')[0];

/** All of it, whatever order it stands in. */
function project(): unknown {
  const { revision: _revision, ...rest } = bench.services.snapshot();
  return Object.fromEntries(
    Object.entries(rest).map(([kind, all]) => [
      kind,
      Array.isArray(all) ? [...(all as { id?: string }[])].sort((a, b) => ((a.id ?? '') < (b.id ?? '') ? -1 : 1)) : all,
    ]),
  );
}

async function open(text: string | Uint8Array, choices?: DraftChoices): Promise<DraftStatus> {
  const { lists } = bench.services;
  const bytes = typeof text === 'string' ? new TextEncoder().encode(text) : text.slice();
  const opened = await lists.open({ deviceId, fileName: 'line2.csv', sourceId: null }, bytes);
  if (!opened.ok) throw new Error(opened.problem.message);
  const read = async (): Promise<DraftStatus> => {
    let status = opened.value;
    await until('it is read', () => {
      const told = lists.status(opened.value.id);
      if (told.ok) status = told.value;
      return status.phase === 'ready' || status.phase === 'failed';
    });
    return status;
  };
  const status = await read();
  if (!choices) return status;
  await lists.reread(status.id, choices);
  return read();
}
async function bring(text: string, decisions: Partial<DraftDecisions> = {}, choices?: DraftChoices): Promise<void> {
  const { id } = await open(text, choices);
  const done = await bench.services.lists.take(id, uuid(), { ...DECIDE_NOTHING, ...decisions });
  if (!done.ok) throw new Error(`${done.problem.place}: ${done.problem.message}`);
}

describe('a list that comes again', () => {
  const first = list('motor,40010,INT,A,0,10,Current', 'speed,40011,UINT,rpm,,,Speed', 'gap,40012,INT,mm,,,Gap', 'old,40013,INT,,,,Spare');
  test('is compared by name: new, changed and gone, and what is the same is left alone', async () => {
    await bring(first);
    const before = named('speed');
    const status = await open(
      list('motor,40020,INT,A,0,10,Current', 'speed,40011,UINT,rpm,,,Speed', 'gap,40012,INT,mm,,,Gap of the rolls', 'fresh,40030,INT,,,,'),
    );
    expect(status).toMatchObject({
      isNewSource: false,
      sourceId: source()?.id,
      summary: { merge: { same: 1, changed: 2, changedBytes: 0, added: 1, gone: 1 } },
    });
    await bench.services.lists.take(status.id, uuid(), DECIDE_NOTHING);
    expect(names()).toEqual(['bed', 'fresh', 'gap', 'motor', 'speed']);
    expect([addressOf(named('motor')), named('gap').comment]).toEqual(['40020', 'Gap of the rolls']);
    expect(named('speed')).toBe(before);
    expect((await bench.services.lists.versions(source()?.id ?? '')).map((v) => [v.rowCount, v.origin])).toEqual([
      [4, 'engineer'],
      [4, 'engineer'],
    ]);
  });
  test('tells which of its tags were changed here since', async () => {
    await bring(first);
    expect(await bench.services.lists.setHere()).toEqual([]);
    const [motor, gap] = [named('motor').id, named('gap').id];
    await bench.change('by hand', [
      { kind: 'tag', id: motor, set: { unit: 'mA' } },
      // A scale is none of what the list says.
      { kind: 'scale', id: named('speed').id, set: { scale: { kind: 'power', exponent: -1 } } },
      { kind: 'tag', id: gap, set: { type: 'UINT' } },
    ]);
    expect([...(await bench.services.lists.setHere())].sort()).toEqual([motor, gap].sort());
    await bring(first.replace('gap,40012,INT', 'gap,40012,UINT'), { bytes: ['gap'] });
    expect(await bench.services.lists.setHere()).toEqual([motor]);
  });
  test('keeps what was made by hand, and takes what nobody touched', async () => {
    await bring(first);
    const { id } = named('motor');
    const drives = uuid();
    await bench.change('by hand', [
      { kind: 'group', id: drives, set: { name: 'Drives', deviceId } },
      { kind: 'tag', id, set: { unit: 'mA', groupId: drives, decimals: 2, rangeHigh: 20 } },
      { kind: 'scale', id, set: { scale: { kind: 'power', exponent: -1 } } },
    ]);
    await bring(first.replace('motor,40010,INT,A,0,10,Current', 'motor,40020,INT,kA,0,15,Current of the motor'));
    expect(named('motor')).toMatchObject({
      id,
      source: { address: '40020' },
      comment: 'Current of the motor',
      unit: 'mA',
      groupId: drives,
      decimals: 2,
      rangeLow: 0,
      rangeHigh: 20,
    });
    expect(bench.services.model.get('scale', id)?.scale).toEqual({ kind: 'power', exponent: -1 });
  });
  test('holds another type back until it is accepted, and tells it again the next time', async () => {
    await bring(first);
    const wider = first.replace('gap,40012,INT', 'gap,40012,DINT');
    await bring(wider);
    expect(named('gap').type).toBe('INT');
    expect((await open(wider)).summary?.merge).toMatchObject({ changedBytes: 1, same: 3 });
    await bring(wider, { bytes: ['gap'] });
    expect(named('gap').type).toBe('DINT');
    expect((await open(wider)).summary?.merge).toMatchObject({ changed: 0, same: 4 });
  });
  test('never renames without a yes; with it the tag stays itself, with its scale', async () => {
    await bring(first);
    const { id } = named('motor');
    await bench.change('scale', [{ kind: 'scale', id, set: { scale: { kind: 'power', exponent: -1 } } }]);
    const renamed = first.replace('motor,', 'motor_current,');
    const { id: draft, summary } = await open(renamed);
    expect(summary?.merge).toMatchObject({ proposals: 1, ambiguous: 0, added: 1, gone: 1 });
    const page = await bench.services.lists.rows(draft, 'proposals', 0, 10);
    expect(page).toMatchObject({
      value: { rows: [{ proposal: { kind: 'renamed', from: { listName: 'motor' }, to: { listName: 'motor_current' } }, uses: { hasScale: true } }] },
    });
    bench.services.lists.discard(draft);
    await bring(renamed, { renames: ['motor'] });
    expect(named('motor_current')).toMatchObject({ id, listName: 'motor_current' });
    expect(bench.services.model.get('scale', id)?.scale).toEqual({ kind: 'power', exponent: -1 });
    await bench.services.projects.step('undo');
    await bring(renamed);
    expect(tagNamed(bench.services.model, 'motor')).toBeNull();
    expect(named('motor_current').id).not.toBe(id);
  });
  test('a name that was given by hand stays through a rename in the list', async () => {
    await bring(first);
    await bench.change('name', [{ kind: 'tag', id: named('motor').id, set: { name: 'Main motor' } }]);
    await bring(first.replace('motor,40010', 'm1,40010'), { renames: ['motor'] });
    expect(named('Main motor')).toMatchObject({ listName: 'm1' });
  });
  test('a tag in use that has gone is kept and marked, and is itself again when it comes back', async () => {
    await bring(first);
    const { id } = named('old');
    const [panelId, pageId] = [uuid(), uuid()];
    await bench.change('on a panel', [
      { kind: 'panel', id: panelId, set: { name: 'P' } },
      { kind: 'page', id: pageId, set: { panelId, name: 'P', position: 0 } },
      { kind: 'element', id: uuid(), set: { pageId, kind: 'value', tagId: id, label: '', x: 0, y: 0, w: 200, h: 64, settings: {} } },
    ]);
    const less = list('motor,40010,INT,A,0,10,Current');
    await bring(less);
    expect(names()).toEqual(['bed', 'motor', 'old']);
    expect(named('old').isGone).toBe(true);
    await bring(list('motor,40010,INT,A,0,10,Current', 'old,40050,INT,,,,Spare'));
    expect(named('old')).toMatchObject({ id, isGone: false, source: { address: '40050' } });
  });
  test('undo of it restores the project exactly, also after a restart, and redo leads back', async () => {
    await bring(first);
    const before = project();
    await bring(list('motor,40020,REAL,A,0,10,Current', 'fresh,40030,INT,,,,'), { bytes: ['motor'] });
    const after = project();
    await bench.services.projects.step('undo');
    expect(project()).toEqual(before);
    await bench.services.projects.step('redo');
    expect(project()).toEqual(after);
  });
  test('groups may have names that every object of JavaScript answers to, and are there after a restart', async () => {
    await bench.close();
    bench = await openBench(newFolder().folder);
    ({ deviceId } = await smallProject(bench, server.port));
    const groups = ['__proto__', 'constructor', 'toString', 'Drives'];
    await bring(['Name,Address,Type,Group', ...groups.map((group, i) => `tag_${i},4010${i},INT,${group}`), 'bare,40110,INT,'].join('\n'));
    const there = (): readonly string[] => {
      const { model } = bench.services;
      return ['tag_0', 'tag_1', 'tag_2', 'tag_3', 'bare'].map((name) => groupText(named(name).groupId, { group: (id) => model.get('group', id) }));
    };
    expect(there()).toEqual([...groups, '']);
    bench = await bench.reopen();
    expect(there()).toEqual([...groups, '']);
  });
  test('one that was read before another was taken is refused: it was compared with something else', async () => {
    await bring(first);
    const stale = await open(first.replace('Gap', 'Other'));
    await bring(list('motor,40010,INT,A,0,10,Current'));
    expect(await bench.services.lists.take(stale.id, uuid(), DECIDE_NOTHING)).toMatchObject({ ok: false, problem: { code: 'changed-elsewhere' } });
  });
  test('one that is taken while what it was compared with is undone is refused, and changes nothing', async () => {
    await bring(list('a,40010,INT,,,,', 'b,40011,INT,,,,'));
    const first = project();
    await bring(list('a,40020,INT,,,,', 'b,40021,INT,,,,'));
    const third = await open(list('a,40010,INT,,,,', 'b,40031,INT,,,,'));
    const taking = bench.services.lists.take(third.id, uuid(), DECIDE_NOTHING);
    const undone = bench.services.projects.step('undo');
    expect((await undone).ok).toBe(true);
    expect(await taking).toMatchObject({ ok: false, problem: { code: 'changed-elsewhere' } });
    expect(project()).toEqual(first);
  });
  test('one that is taken while a tag of it is edited is refused rather than half on top of the edit', async () => {
    await bring(list('a,40010,INT,,,,', 'b,40011,INT,,,,'));
    const next = await open(list('a,40020,INT,,,,', 'b,40021,INT,,,,'));
    const taking = bench.services.lists.take(next.id, uuid(), DECIDE_NOTHING);
    await bench.change('edited', [{ kind: 'tag', id: named('a').id, set: withPoint(named('a'), { address: '40099' }) }]);
    const done = await taking;
    expect([addressOf(named('a')), addressOf(named('b'))]).toEqual(done.ok ? ['40020', '40021'] : ['40099', '40011']);
  });
  test('a rule is kept with the source: new tags that fit come in by themselves', async () => {
    await bring(first, {}, { rule: { include: ['m*', 's*'], exclude: ['*_tmp'], onlyForPanels: false } });
    expect(names()).toEqual(['bed', 'motor', 'speed']);
    await bring(`${first}\nmixer,40040,INT,,,,\nmixer_tmp,40041,INT,,,,\nvalve,40042,INT,,,,`);
    expect(names()).toEqual(['bed', 'mixer', 'motor', 'speed']);
  });
  // Property: whatever the list does, a field set by hand is never another one afterwards, and undo restores everything.
  test.each([11, 22, 33])(
    'under random edits what was set by hand stays, and undo restores the project (seed %i)',
    async (seed) => {
      const random = randomOf(seed);
      const pick = <T>(all: readonly T[]): T => all[Math.floor(random() * all.length)] as T;
      let rows = Array.from({ length: 40 }, (_, i) => ({ name: `t${i}`, address: 40_100 + i, type: 'INT', unit: 'A', comment: `c${i}` }));
      const text = (): string => list(...rows.map((r) => `${r.name},${r.address},${r.type},${r.unit},,,${r.comment}`));
      await bring(text());
      const mine = new Map<string, Partial<Tag>>();
      let next = 41_000;
      for (let round = 0; round < 4; round++) {
        for (const tag of bench.services.model.tagsOf(deviceId)) {
          if (tag.listId === '' || random() > 0.3) continue;
          const set = pick([
            { unit: `u${round}` },
            { rangeLow: round, rangeHigh: round + 10 },
            { decimals: round + 1 },
            { comment: `by hand ${round}` },
          ]);
          await bench.change('by hand', [{ kind: 'tag', id: tag.id, set }]);
          mine.set(tag.id, { ...mine.get(tag.id), ...set });
        }
        rows = rows.flatMap((r) => {
          const what = random();
          if (what < 0.05) return [];
          if (what < 0.2) return { ...r, unit: pick(['A', 'V', 'W']), comment: `c${next++}` };
          if (what < 0.3) return { ...r, address: next++ };
          return what < 0.35 ? { ...r, type: r.type === 'INT' ? 'UINT' : 'INT' } : r;
        });
        rows.push({ name: `n${next}`, address: next++, type: 'INT', unit: 'A', comment: '' });
        const before = project();
        await bring(text(), { bytes: rows.filter(() => random() < 0.5).map((r) => r.name) });
        for (const [id, fields] of mine) {
          const tag = bench.services.model.get('tag', id);
          if (tag) expect(tag).toMatchObject(fields);
        }
        await bench.services.projects.step('undo');
        expect(project()).toEqual(before);
        await bench.services.projects.step('redo');
      }
    },
    60_000,
  );
});

describe('a list on its way in', () => {
  test('bad rows keep it out unless they are excluded, and what such a row brought before stays', async () => {
    await bring(list('a,40010,INT,,,,', 'b,40011,INT,,,,'));
    const text = list('a,40010,NOPE,,,,', 'b,40012,INT,,,,', 'c,40013,INT,,,,');
    const { id, summary } = await open(text);
    expect(summary).toMatchObject({ good: 2, bad: 1, merge: { gone: 0 } });
    expect(await bench.services.lists.take(id, uuid(), DECIDE_NOTHING)).toMatchObject({ ok: false, problem: { place: 'row 2, column 3 (Type)' } });
    expect(names()).toEqual(['a', 'b', 'bed']);
    expect(await bench.services.lists.take(id, uuid(), { ...DECIDE_NOTHING, leaveOutBad: true })).toMatchObject({ ok: true });
    expect([names(), addressOf(named('a')), addressOf(named('b'))]).toEqual([['a', 'b', 'bed', 'c'], '40010', '40012']);
    expect((await open(list('a,40010,INT,,,,', 'b,40012,INT,,,,', 'c,40013,INT,,,,'))).summary?.merge).toMatchObject({ same: 3, gone: 0 });
  });
  test('a tag without an address comes in, is bad with the reason, and reads once it has one', async () => {
    await bring(list('later,,INT,,,,'));
    const { live } = bench.services.engine;
    expect(live.get(named('later').id)).toMatchObject({ quality: { level: 'bad' }, broken: { problem: { code: 'no-address' } } });
    server.onRequest = (asked) => asked.answer([3, 2, 0, 7]);
    await bring(list('later,40020,INT,,,,'));
    await until('it is read', () => live.get(named('later').id)?.quality.level === 'good');
  });
  test('a name that another tag has is told with what to do, and a prefix helps', async () => {
    const text = list('bed,40010,INT,,,,');
    expect((await open(text)).summary).toMatchObject({ bad: 1 });
    await bring(text, {}, { prefix: 'k2_' });
    expect(named('k2_bed')).toMatchObject({ listName: 'bed' });
  });
  test('the engineer may name the encoding, and it is kept for the next version', async () => {
    const bytes = Uint8Array.from([...'Name,Address,Type,Comment\na,40010,INT,T'].map((c) => c.charCodeAt(0)).concat(0xb3));
    const status = await open(bytes, { encoding: 'iso-8859-2' });
    expect(status.summary).toMatchObject({ encoding: 'iso-8859-2', encodingConfidence: 1, accented: ['a,40010,INT,Tł'] });
    await bench.services.lists.take(status.id, uuid(), DECIDE_NOTHING);
    expect([named('a').comment, source()?.choices]).toEqual(['Tł', { encoding: 'iso-8859-2' }]);
    expect((await open(bytes)).summary).toMatchObject({ encoding: 'iso-8859-2', merge: { same: 1 } });
  });
  test.each([
    ['nothing at all', new Uint8Array(0), 'empty'],
    ['bytes that are no text', Uint8Array.of(80, 75, 3, 4, 0, 0, 9, 0, 0, 255), 'encoding not-text missing-column workbook'],
  ])('%s is told, and nothing is stored', async (_what, bytes, codes) => {
    const { problem, summary } = await open(bytes);
    expect(codes.split(' ')).toContain((problem ?? summary?.problems[0])?.code);
    expect(names()).toEqual(['bed']);
  });
  test('one that is discarded while it is read changes nothing, and its thread is gone', async () => {
    const rows = Array.from({ length: 60_000 }, (_, i) => `t${i},HR${i},INT,,,,`);
    const opened = await bench.services.lists.open({ deviceId, fileName: 'big.csv', sourceId: null }, new TextEncoder().encode(list(...rows)));
    if (!opened.ok) throw new Error(opened.problem.message);
    expect(bench.services.lists.discard(opened.value.id)).toMatchObject({ ok: true });
    expect(bench.services.lists.status(opened.value.id)).toMatchObject({ ok: false, problem: { code: 'gone' } });
    expect(names()).toEqual(['bed']);
  });
  test('twenty thousand rows come in as one change, and go with one undo', async () => {
    await bring(list(...Array.from({ length: 20_000 }, (_, i) => `t${i},HR${i},INT,"a ""b""",0,10,"x, ${i}"`)));
    expect(named('t19999')).toMatchObject({ source: { address: 'HR19999' }, unit: 'a "b"', comment: 'x, 19999', rangeLow: 0 });
    await bench.services.projects.step('undo');
    expect(names()).toEqual(['bed']);
    await bench.services.projects.step('redo');
    expect(names()).toHaveLength(20_001);
  });
});

test('tags stored by thousands are what they were, over a restart', async () => {
  const own = await openBench(newFolder().folder);
  try {
    const small = await smallProject(own, server.port);
    const odd = ['plain', 'with "quotes"', 'with, comma; and\\backslash', "apostrophe's", 'üñí 温度', '', ' ', '\\N', 'NULL'];
    const tags = Array.from({ length: 500 }, (_, i) => ({
      kind: 'tag' as const,
      id: uuid(),
      set: {
        ...newTag(small.deviceId, `t${i}`, `HR${i}`),
        comment: odd[i % odd.length],
        decimals: i % 3 === 0 ? null : i % 12,
        rangeLow: i % 2 ? null : -0.1 * i - 1,
        rangeHigh: i % 2 ? null : 1e-7,
      },
    }));
    await own.change('many', tags);
    await own.change(
      'many again',
      tags.map(({ kind, id }, i) => ({ kind, id, set: { comment: odd[(i + 1) % odd.length], unit: '%' } })),
    );
    const before = own.services.model.tagsOf(small.deviceId);
    const again = await own.reopen();
    const sorted = (all: readonly Tag[]): readonly Tag[] => [...all].sort((a, b) => (a.id < b.id ? -1 : 1));
    expect(sorted(again.services.model.tagsOf(small.deviceId))).toEqual(sorted(before));
    await again.close();
  } finally {
    await own.close().catch(() => undefined);
  }
});
