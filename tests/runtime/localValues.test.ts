/** Local tags: there from the start, read and written like any other, kept over a restart, and nothing moves by them. */
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { v7 as uuid } from 'uuid';
import { openBench, smallProject, type Bench } from '../support/services.ts';
import { newFolder } from '../support/server.ts';

let bench: Bench;
const [batch, ready, name, timer] = [uuid(), uuid(), uuid(), uuid()];
const REST = { source: { kind: 'local' }, access: 'readWrite', unit: '', decimals: null, rangeLow: null, rangeHigh: null, comment: '', listId: '' };
beforeAll(async () => {
  bench = await openBench(newFolder().folder);
  await smallProject(bench, 9);
  await bench.change('local tags', [
    { kind: 'tag', id: batch, set: { ...REST, name: 'batch_sp', type: 'UINT', initial: '250', rangeLow: 0, rangeHigh: 500, unit: 'kg' } },
    { kind: 'tag', id: ready, set: { ...REST, name: 'ready', type: 'BOOL' } },
    { kind: 'tag', id: name, set: { ...REST, name: 'shift', type: 'STRING(20)', initial: 'early' } },
    { kind: 'tag', id: timer, set: { ...REST, name: 'soak', type: 'TIME', initial: 'T#90s' } },
  ]);
});
afterAll(() => bench.close());

const shown = (id: string): string => {
  const sample = bench.services.engine.live.get(id);
  return `${sample?.text} ${sample?.quality.level}`;
};
const write = (tagId: string, value: string) => bench.services.writes.write({ id: uuid(), tagId, value, writer: 'panel' });

describe('a local tag', () => {
  test('has its initial value from the start, or what a variable of its type begins with', () => {
    expect([shown(batch), shown(ready), shown(name), shown(timer)]).toEqual(['250 good', 'off good', 'early good', '1m30s good']);
  });
  test('is written without any unlocking, within its range, and the write is in the log', async () => {
    expect(await write(batch, '300')).toMatchObject({ ok: true, value: { state: 'done', heldText: '300' } });
    expect(shown(batch)).toBe('300 good');
    expect(await write(batch, '501')).toMatchObject({ ok: false, problem: { code: 'out-of-range' } });
    expect(await write(ready, 'on')).toMatchObject({ ok: true });
    expect((await bench.services.writes.log({ limit: 5 })).map((w) => [w.tagName, w.deviceName, w.state])).toEqual([
      ['ready', '', 'done'],
      ['batch_sp', '', 'done'],
    ]);
  });
  test('that may only be read is not written', async () => {
    await bench.change('read only', [{ kind: 'tag', id: ready, set: { access: null } }]);
    expect(await write(ready, 'off')).toMatchObject({ ok: false, problem: { code: 'read-only' } });
  });
  test('can be held on and lets go', async () => {
    await bench.change('writable', [{ kind: 'tag', id: ready, set: { access: 'readWrite' } }]);
    await write(ready, 'off');
    const { holds } = bench.services;
    expect(await holds.begin('press-1', ready)).toMatchObject({ ok: true });
    expect(shown(ready)).toBe('on good');
    expect(await holds.release('press-1')).toMatchObject({ ok: true });
    expect([shown(ready), holds.notReleased]).toEqual(['off good', []]);
  });
  test('keeps what was written over a restart, and after a change of its scale; another type begins anew', async () => {
    bench = await bench.reopen();
    expect(shown(batch)).toBe('300 good');
    await bench.change('scaled', [{ kind: 'scale', id: batch, set: { scale: { kind: 'power', exponent: -1 } } }]);
    expect(shown(batch)).toBe('30.0 good');
    await bench.change('text', [
      { kind: 'scale', id: batch, set: null },
      { kind: 'tag', id: batch, set: { type: 'STRING(5)', initial: 'none', rangeLow: null, rangeHigh: null } },
    ]);
    expect(shown(batch)).toBe('none good');
  });
  test('becomes the point of a device, and a local one again', async () => {
    const deviceId = bench.services.model.all('device')[0]?.id ?? '';
    await bench.change('to a device', [
      { kind: 'tag', id: timer, set: { source: { kind: 'point', deviceId, address: 'HR9', order: '', periodMs: null, settings: {} } } },
    ]);
    expect(shown(timer)).toBe('– bad');
    await bench.change('back', [{ kind: 'tag', id: timer, set: { source: { kind: 'local' } } }]);
    expect(shown(timer)).toBe('1m30s good');
  });
  test('that is removed is nowhere', async () => {
    await bench.change('removed', [{ kind: 'tag', id: name, set: null }]);
    expect(bench.services.engine.live.get(name)).toBeNull();
  });
});

describe('a source that is none', () => {
  test.each([
    ['of another kind', { kind: 'magic' }, 'source.kind'],
    ['a local one with an address', { kind: 'local', address: 'HR1' }, 'source.address'],
    ['a point without its period', { kind: 'point', deviceId: uuid(), address: 'HR1', order: '', settings: {} }, 'source.periodMs'],
    [
      'a point with an address of control characters',
      { kind: 'point', deviceId: uuid(), address: 'H\u0000', order: '', periodMs: null, settings: {} },
      'source.address',
    ],
    ['an expression that never ends', { kind: 'calculated', expression: 'a'.repeat(4001) }, 'source.expression'],
    ['nothing', null, 'source'],
  ])('%s is refused with its place', async (_what, source, place) => {
    const id = uuid();
    const done = await bench.services.projects.execute(
      { id: uuid(), label: 'x', changes: [{ kind: 'tag', id, set: { ...REST, name: 'x', type: 'INT', source } }] },
      'test',
    );
    expect(done).toMatchObject({ ok: false, problem: { code: 'invalid', place: `tag ${id} ${place}` } });
  });
});
