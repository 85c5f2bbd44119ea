import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { v7 as uuid } from 'uuid';
import type { Change } from '@/core/project/command.ts';
import { newPoint, type PointSource } from '@/core/project/tagSource.ts';
import { pointSet } from '../support/pointSet.ts';
import { addressIn } from '../support/addressIn.ts';
import { newTag } from '../support/newTag.ts';
import { openBench, smallProject, type Bench, type SmallProject } from '../support/services.ts';
import { tagNamed } from '../support/tagNamed.ts';

let bench: Bench;
let small: SmallProject;
beforeAll(async () => {
  bench = await openBench();
  small = await smallProject(bench, 1);
});
afterAll(() => bench.close());

/** The whole project, by kind and id: neither the order of entities nor that of their fields matters. */
const state = (): unknown =>
  Object.fromEntries(
    Object.entries(bench.services.snapshot()).map(([kind, all]) => [
      kind,
      Array.isArray(all) ? new Map((all as { id?: string; digest?: string }[]).map((e) => [e.id ?? e.digest, e])) : kind === 'revision' ? 0 : all,
    ]),
  );
const refused = async (changes: readonly Change[]): Promise<{ code: string; place: string }> => {
  const before = state();
  const done = await bench.services.projects.execute({ id: uuid(), label: 'x', changes }, 'test');
  expect(state()).toEqual(before);
  return done.ok ? { code: 'taken', place: '' } : { code: done.problem.code, place: done.problem.place ?? '' };
};

describe('a change of the project', () => {
  test.each([
    ['a tag without its device', { kind: 'tag', set: { ...newTag(uuid(), 'a') } }, 'reference'],
    ['a name that is taken, by case too', { kind: 'tag', set: 'BED' }, 'name-taken'],
    ['an unknown field', { kind: 'panel', set: { name: 'P', color: 'red' } }, 'invalid'],
    ['a period too short', { kind: 'tag', set: 'a', point: { periodMs: 1 } }, 'invalid'],
    ['an address that cannot hold the type', { kind: 'tag', set: 'a', point: { address: 'CO1' } }, 'address-type'],
    ['an order of another width', { kind: 'tag', set: 'a', point: { order: 'ABCD' } }, 'order-unfit'],
    ['a range that ends before it begins', { kind: 'tag', set: 'a', rangeLow: 5, rangeHigh: 1 }, 'invalid'],
    ['a name with a line break', { kind: 'panel', set: { name: 'a\nb' } }, 'invalid'],
    ['a port out of range', { kind: 'link', set: { name: 'L', driver: 'modbus-tcp', settings: { host: 'a', port: 0 } } }, 'invalid'],
    ['a driver that is not there', { kind: 'link', set: { name: 'L', driver: 'smoke', settings: {} } }, 'driver'],
    ['a control channel on another machine', { kind: 'device', set: 'witness' }, 'invalid'],
    ['something removed that is not there', { kind: 'panel', set: null }, 'gone'],
  ])('%s is refused, and nothing changes', async (_what, { kind, set, ...more }, code) => {
    const { point, ...over } = more as { readonly point?: Partial<PointSource> };
    const full =
      set === 'witness'
        ? { linkId: small.linkId, name: 'D', settings: { unit: 1 }, dialect: {}, witnessUrl: 'http://192.0.2.1:80' }
        : typeof set === 'string'
          ? { ...newTag(small.deviceId, set, 'HR2', point), ...over }
          : set;
    expect((await refused([{ kind: kind as 'tag', id: uuid(), set: full }])).code).toBe(code);
  });

  test('all or nothing: one bad part refuses the whole', async () => {
    expect(
      await refused([
        { kind: 'tag', id: uuid(), set: newTag(small.deviceId, 'good') },
        { kind: 'tag', id: small.tagId, set: { source: newPoint(small.deviceId, '99999') } },
      ]),
    ).toMatchObject({ code: 'address-form', place: expect.stringContaining('address') as unknown as string });
  });

  test('the same command sent twice is done once', async () => {
    const command = { id: uuid(), label: 'once', changes: [{ kind: 'panel' as const, id: uuid(), set: { name: 'Once' } }] };
    expect((await bench.services.projects.execute(command, 'test')).ok).toBe(true);
    const again = await bench.services.projects.execute(command, 'test');
    expect(again.ok && again.value.changes).toEqual([]);
    expect(bench.services.model.all('panel').filter((p) => p.name === 'Once')).toHaveLength(1);
  });

  test('a change made from what another page has changed meanwhile is refused, and says what is there now', async () => {
    const change = (set: Record<string, unknown>, was: Record<string, unknown>) =>
      bench.services.projects.execute({ id: uuid(), label: 'x', changes: [{ kind: 'tag', id: small.tagId, set, was }] }, 'test');
    expect((await change({ unit: '°C' }, { unit: '' })).ok).toBe(true);
    expect(await change({ unit: 'K' }, { unit: '' })).toMatchObject({
      ok: false,
      problem: { code: 'changed-elsewhere', message: expect.stringContaining('unit is "°C" now') as unknown as string },
    });
    expect(bench.services.model.get('tag', small.tagId)?.unit).toBe('°C');
    expect((await change({ comment: 'another field' }, { comment: '' })).ok).toBe(true);
    const { linkId } = small;
    const settings = bench.services.model.get('link', linkId)?.settings ?? {};
    const turned = Object.fromEntries(Object.entries(settings).reverse());
    const link = { kind: 'link' as const, id: linkId, set: { name: 'Line' }, was: { settings: turned } };
    expect((await bench.services.projects.execute({ id: uuid(), label: 'x', changes: [link] }, 'test')).ok).toBe(true);
    await bench.change('back', [{ kind: 'tag', id: small.tagId, set: { unit: '', comment: '' } }]);
  });
  test('removing a link takes all on it along, panel elements stay without their tag, and undo brings all back', async () => {
    const [panelId, pageId, elementId] = [uuid(), uuid(), uuid()];
    await bench.change('a page', [
      { kind: 'panel', id: panelId, set: { name: 'P' } },
      { kind: 'page', id: pageId, set: { panelId, name: 'Page', position: 0 } },
      { kind: 'element', id: elementId, set: { pageId, kind: 'value', tagId: small.tagId, label: '', x: 0, y: 0, w: 200, h: 64, settings: {} } },
      { kind: 'scale', id: small.tagId, set: { scale: { kind: 'power', exponent: -1 } } },
    ]);
    const before = state();
    await bench.change('link removed', [{ kind: 'link', id: small.linkId, set: null }]);
    expect([bench.services.model.all('device'), bench.services.model.all('tag'), bench.services.model.all('scale')]).toEqual([[], [], []]);
    expect(bench.services.model.get('element', elementId)?.tagId).toBeNull();
    expect((await bench.services.projects.step('undo')).ok).toBe(true);
    expect(state()).toEqual(before);
  });

  test('of thousands of tags and of their device takes it offline while it is taken over: nothing runs by half of it', async () => {
    const fresh = await smallProject(bench, 2, { name: 'big' }, { name: 'BIG' });
    const ids = Array.from({ length: 6000 }, () => uuid());
    await bench.change(
      'many',
      ids.map((id, i) => ({ kind: 'tag', id, set: newTag(fresh.deviceId, `big${i}`, `HR${i}`) })),
    );
    const { model, engine } = bench.services;
    const [turns, halves]: [number[], string[]] = [[], []];
    let isOver = false;
    const look = (): void => {
      if (isOver) return;
      const [first, last] = [model.get('device', fresh.deviceId)?.name, addressIn(model.get('tag', ids.at(-1) ?? ''))];
      if (first === 'MOVED' && last === 'HR5999') {
        turns.push(1);
        if (engine.session(fresh.deviceId) !== null) halves.push('runs');
      }
      setImmediate(look);
    };
    look();
    await bench.change('moved', [
      { kind: 'device', id: fresh.deviceId, set: { name: 'MOVED', settings: { unit: 9 } } },
      ...ids.map((id, i) => ({ kind: 'tag' as const, id, set: pointSet(bench.services.model, id, { address: `HR${i + 10}` }) })),
    ]);
    isOver = true;
    expect([turns.length > 0, halves]).toEqual([true, []]);
    await bench.change('after it', [{ kind: 'panel', id: uuid(), set: { name: 'Next' } }]);
    expect(engine.session(fresh.deviceId)).not.toBeNull();
    for (let i = 0; i < 3; i++) await bench.services.projects.step('undo');
    await bench.services.projects.step('undo');
  });
  test('undo stops where the project begins: the project itself is never taken away', async () => {
    let undone = 0;
    while (undone < 100 && (await bench.services.projects.step('undo')).ok) undone++;
    expect(await bench.services.projects.step('undo')).toMatchObject({ ok: false, problem: { code: 'nothing-to-undo' } });
    expect(bench.services.snapshot().project.name).toBe('New machine');
    while (undone-- > 0) await bench.services.projects.step('redo');
  });
  test('undo and redo go on after a restart, and a new change ends redo', async () => {
    await bench.change('renamed', [{ kind: 'tag', id: small.tagId, set: { name: 'bed2' } }]);
    await bench.services.projects.step('undo');
    bench = await bench.reopen();
    expect(bench.services.model.get('tag', small.tagId)?.name).toBe('bed');
    await bench.services.projects.step('redo');
    expect(bench.services.model.get('tag', small.tagId)?.name).toBe('bed2');
    await bench.services.projects.step('undo');
    await bench.change('another', [{ kind: 'tag', id: small.tagId, set: { comment: 'new' } }]);
    expect(await bench.services.projects.step('redo')).toMatchObject({ ok: false, problem: { code: 'nothing-to-redo' } });
  });

  test('random edits undone one by one lead back exactly, in memory and in the store', async () => {
    const before = state();
    const edit = fc.oneof(
      fc.record({ name: fc.stringMatching(/^[a-z]{1,8}$/) }),
      fc.record({ source: fc.constantFrom('HR1', '40009', 'IR3').map((address) => newPoint(small.deviceId, address)) }),
      fc.record({ type: fc.constantFrom('INT', 'UINT', 'WORD') }),
      fc.record({ rangeLow: fc.integer({ min: -50, max: 0 }), rangeHigh: fc.integer({ min: 1, max: 50 }) }),
    );
    const edits = fc.sample(fc.oneof(edit), 25);
    for (const set of edits) await bench.change('edit', [{ kind: 'tag', id: small.tagId, set }]);
    for (let i = 0; i < edits.length; i++) await bench.services.projects.step('undo');
    expect(state()).toEqual(before);
    const tag = bench.services.model.get('tag', small.tagId);
    bench = await bench.reopen();
    expect(bench.services.model.get('tag', small.tagId)).toEqual(tag);
  });
});

describe('a list imported', () => {
  const rows = (n: number): string => Array.from({ length: n }, (_, i) => `t${i},HR${i},INT`).join('\n');
  test('one bad row keeps all out; corrected, all come in as one change with one undo', async () => {
    const request = { sourceId: uuid(), deviceId: small.deviceId, fileName: 'list.csv' };
    const bad = await bench.services.lists.commit({ ...request, commandId: uuid(), text: `name,address,type\n${rows(50)}\nbroken,HR1,NOPE` });
    expect(bad).toMatchObject({ ok: false, problem: { code: 'unknown-type', place: 'row 52, column 3 (type)' } });
    expect(tagNamed(bench.services.model, 't0')).toBeNull();
    const good = await bench.services.lists.commit({ ...request, commandId: uuid(), text: `name,address,type\n${rows(50)}` });
    expect(good.ok).toBe(true);
    expect(bench.services.model.tagsOf(small.deviceId)).toHaveLength(51);
    await bench.services.projects.step('undo');
    expect(bench.services.model.tagsOf(small.deviceId)).toHaveLength(1);
    expect(bench.services.model.all('source')).toEqual([]);
  });
  test('a list for a device that is gone is refused', async () => {
    expect(await bench.services.lists.open({ deviceId: uuid(), fileName: 'a.csv', sourceId: null }, new Uint8Array(1))).toMatchObject({
      ok: false,
      problem: { code: 'gone' },
    });
  });
});
