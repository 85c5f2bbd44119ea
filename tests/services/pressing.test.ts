/** What elements of a panel write when they are pressed, and what the server takes from a panel. */
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { v7 as uuid } from 'uuid';
import { newAction } from '@/core/panel/actions.ts';
import type { Press } from '@/core/panel/press.ts';
import { fromColumns } from '@/core/jsonColumns.ts';
import { sceneIn } from '@/mapping/panels/panelBundle.ts';
import { openBench, type Bench } from '../support/services.ts';
import { until } from '../support/until.ts';

let bench: Bench;
const panelId = uuid();
const pageId = uuid();
const ids = new Map<string, string>();
const idOf = (name: string): string => {
  const known = ids.get(name) ?? uuid();
  ids.set(name, known);
  return known;
};

const local = (name: string, type: string, initial: string, more: object = {}) => ({
  kind: 'tag' as const,
  id: idOf(name),
  set: { name, source: { kind: 'local' }, type, access: 'readWrite', unit: '', decimals: null, rangeLow: null, rangeHigh: null, comment: '', listId: '', initial, ...more }, // prettier-ignore
});
const element = (name: string, kind: string, tag: string | null, settings: object) => ({
  kind: 'element' as const,
  id: idOf(name),
  set: { pageId, kind, tagId: tag === null ? null : idOf(tag), label: name, x: 0, y: 0, w: 100, h: 60, settings },
});
const press = (name: string, what: Press = {}, panel = panelId) =>
  bench.services.panels.press({ id: uuid(), panelId: panel, elementId: idOf(name), writer: 'panel', ...what });
const text = (name: string): string | undefined => bench.services.engine.live.get(idOf(name))?.text;
const code = async (name: string, what: Press = {}, panel = panelId): Promise<string> => {
  const done = await press(name, what, panel);
  return done.ok ? done.value.map(({ state }) => state).join(' ') : done.problem.code;
};

beforeAll(async () => {
  bench = await openBench();
  await bench.change('tags', [
    local('fan', 'BOOL', 'off'),
    local('belt', 'BOOL', 'off'),
    local('count', 'DINT', '5'),
    local('share', 'REAL', '0.1'),
    local('mode', 'UINT', '0', { names: [{ value: 0, name: 'Idle' }, { value: 1, name: 'Run' }] }), // prettier-ignore
    local('recipe', 'STRING(20)', 'none'),
    local('first', 'STRING(20)', 'THIN 02'),
    local('shown', 'DINT', '1', { access: 'read' }),
  ]);
  await bench.change('panel', [
    { kind: 'panel', id: panelId, set: { name: 'Panel', units: [] } },
    { kind: 'page', id: pageId, set: { panelId, name: 'Page', position: 0 } },
    element('toggle', 'button', 'fan', { actions: [newAction('toggle')] }),
    element('start', 'button', null, { actions: [newAction('set', { tagId: idOf('fan') }), newAction('write', { tagId: idOf('count'), value: '7' }), newAction('set', { tagId: idOf('belt') })] }), // prettier-ignore
    element('broken', 'button', null, { actions: [newAction('write', { tagId: idOf('count'), value: 'much' }), newAction('set', { tagId: idOf('belt') })] }), // prettier-ignore
    element('more', 'button', 'share', { actions: [newAction('add', { value: '0.2' })] }),
    element('hold', 'button', 'fan', { actions: [newAction('hold')] }),
    element('way', 'button', null, { actions: [newAction('next')] }),
    element('entry', 'entry', 'count', { least: 0, most: { by: `@${idOf('share')} * 100` } }),
    element('slider', 'slider', 'count', { low: 0, high: 50 }),
    element('words', 'entry', 'recipe', {}),
    element('pick', 'pick', 'recipe', { from: 'tags', itemTags: [idOf('first')] }),
    element('choice', 'choice', 'mode', {}),
    element('guarded', 'switch', 'belt', { enabled: { by: `@${idOf('count')} > 10` } }),
    element('covered', 'switch', 'belt', { covered: { by: `@${idOf('fan')}` } }),
    element('reads', 'entry', 'shown', {}),
    element('lamp', 'lamp', 'fan', {}),
  ]);
  await until('all have values', () => [...ids].every(([name]) => bench.services.model.get('tag', idOf(name)) === null || text(name) !== undefined));
});
afterAll(() => bench.close());

describe('a press', () => {
  test('toggles what the person saw, not what came since', async () => {
    expect(await code('toggle')).toBe('not-seen');
    expect(await code('toggle', { seen: { [idOf('fan')]: false } })).toBe('done');
    expect(text('fan')).toBe('on');
    // The page still showed it off: pressing again asks for on.
    expect(await code('toggle', { seen: { [idOf('fan')]: false } })).toBe('done');
    expect(text('fan')).toBe('on');
    expect(await code('toggle', { seen: { [idOf('fan')]: true } })).toBe('done');
    expect(text('fan')).toBe('off');
  });
  test('does several things in order, and nothing after one that was refused', async () => {
    expect(await code('start')).toBe('done done done');
    expect([text('fan'), text('count'), text('belt')]).toEqual(['on', '7', 'on']);
    await press('toggle', { seen: { [idOf('fan')]: true } });
    await bench.services.writes.write({ id: uuid(), tagId: idOf('belt'), value: 'off', writer: 'panel' });
    expect((await press('broken')).ok).toBe(false);
    expect([text('count'), text('belt')]).toEqual(['7', 'off']);
  });
  test('adds exactly, as the tag shows its digits', async () => {
    expect(await code('more')).toBe('done');
    expect(text('share')).toBe('0.3');
  });
  test('that comes twice is carried out once', async () => {
    const once = { id: uuid(), panelId, elementId: idOf('more'), writer: 'panel' as const };
    const [a, b] = [await bench.services.panels.press(once), await bench.services.panels.press(once)];
    // The second would add to another value, so it is another request under the same id.
    expect([a.ok, b.ok]).toEqual([true, false]);
    expect(text('share')).toBe('0.5');
  });
});

describe('the server takes from a panel only what an element may write', () => {
  test('within its own ends, which may follow a tag, and those of a slider', async () => {
    expect([await code('entry', { value: '50' }), text('count')]).toEqual(['done', '50']);
    expect([await code('entry', { value: '51' }), await code('entry', { value: '-1' }), text('count')]).toEqual(['range', 'range', '50']);
    expect([await code('slider', { value: '51' }), await code('slider', { value: '20' }), text('count')]).toEqual(['range', 'done', '20']);
  });
  test('what it offers, and no other value', async () => {
    expect([await code('choice', { value: 'Run' }), text('mode')]).toEqual(['done', 'Run']);
    expect([await code('choice', { value: '7' }), text('mode')]).toEqual(['not-offered', 'Run']);
    expect([await code('pick', { value: '0' }), text('recipe')]).toEqual(['done', 'THIN 02']);
    expect(await code('pick', { value: '1' })).toBe('not-offered');
  });
  test('a text as it was typed, whatever it begins with', async () => {
    expect([await code('words', { value: `@${idOf('first').slice(0, 10)}` }), text('recipe')]).toEqual(['done', `@${idOf('first').slice(0, 10)}`]);
  });
  test('while its conditions hold, and not while it is covered', async () => {
    expect([await code('guarded', { value: 'on' }), text('belt')]).toEqual(['done', 'on']);
    await press('slider', { value: '3' });
    expect([await code('guarded', { value: 'off' }), text('belt')]).toEqual(['disabled', 'on']);
    expect(await code('covered', { value: 'off' })).toBe('done');
    await press('toggle', { seen: { [idOf('fan')]: false } });
    expect(await code('covered', { value: 'on' })).toBe('disabled');
  });
  test('nothing for what only shows, leads to another page, is held, is only read, or is of another panel', async () => {
    expect([await code('lamp', { value: 'on' }), await code('way'), await code('hold'), await code('toggle', { seen: {} }, uuid())]).toEqual([
      'not-here',
      'not-here',
      'held',
      'gone',
    ]);
    expect((await press('reads', { value: '2' })).ok).toBe(false);
    expect(text('shown')).toBe('1');
    expect(bench.services.panels.held({ panelId, elementId: idOf('hold') })).toMatchObject({ ok: true, value: { tagId: idOf('fan'), by: '' } });
    expect(bench.services.panels.held({ panelId, elementId: idOf('toggle') })).toMatchObject({ ok: false, problem: { code: 'not-here' } });
  });
});

describe('a bundle', () => {
  test('has what the panel uses and nothing else, and is the same scene on the other side', () => {
    const bundle = bench.services.panels.bundle(panelId);
    if (!bundle.ok) throw new Error(bundle.problem.message);
    const scene = sceneIn(JSON.parse(JSON.stringify(bundle.value)) as typeof bundle.value);
    expect(new Set(fromColumns<{ name: string }>(bundle.value.tags).map(({ name }) => name))).toEqual(
      new Set(['fan', 'belt', 'count', 'share', 'mode', 'recipe', 'first', 'shown']),
    );
    for (const name of ['fan', 'count', 'share', 'mode', 'recipe']) {
      const signal = bench.services.model.effective(idOf(name));
      expect(signal.ok && scene.tag(idOf(name))?.def).toEqual(signal.ok && signal.value.def);
    }
    expect(scene.elementsOn(pageId)).toEqual(bench.services.panels.scene(panelId)?.elementsOn(pageId));
    expect(scene.tag(idOf('shown'))?.canWrite).toBe(false);
    expect(bench.services.panels.isShown(idOf('first'))).toBe(true);
    expect(bench.services.panels.bundle(uuid())).toMatchObject({ ok: false, problem: { code: 'gone' } });
    expect(bench.services.panels.bundleJson(uuid())).toMatchObject({ ok: false, problem: { code: 'gone' } });
  });

  test('is written once for all glasses, and anew once the panel is changed', async () => {
    const json = (): unknown => {
      const found = bench.services.panels.bundleJson(panelId);
      return found.ok ? JSON.parse(found.value) : null;
    };
    const bundle = bench.services.panels.bundle(panelId);
    expect(json()).toEqual(bundle.ok && JSON.parse(JSON.stringify(bundle.value)));
    await bench.change('named', [{ kind: 'panel', id: panelId, set: { name: 'Renamed' } }]);
    expect(json()).toMatchObject({ panel: { name: 'Renamed' } });
  });
});

describe('items that are values of tags', () => {
  test('are written as they are now, and only if that is what the person saw', async () => {
    expect(await code('pick', { value: '0', item: 'THIN 02' })).toBe('done');
    await bench.services.writes.write({ id: uuid(), tagId: idOf('first'), value: 'THICK 09', writer: 'engineer' });
    expect([await code('pick', { value: '0', item: 'THIN 02' }), text('recipe')]).toEqual(['item-changed', 'THIN 02']);
    expect([await code('pick', { value: '0', item: 'THICK 09' }), text('recipe')]).toEqual(['done', 'THICK 09']);
  });
  test('beyond the number of items that a tag says are not offered', async () => {
    await bench.change('counted', [
      {
        kind: 'element',
        id: idOf('pick'),
        set: { settings: { from: 'tags', itemTags: [idOf('first'), idOf('recipe')], count: { by: `@${idOf('mode')}` } } },
      },
    ]);
    await bench.services.writes.write({ id: uuid(), tagId: idOf('mode'), value: 'Run', writer: 'engineer' });
    expect([await code('pick', { value: '0' }), await code('pick', { value: '1' })]).toEqual(['done', 'not-offered']);
  });
});
