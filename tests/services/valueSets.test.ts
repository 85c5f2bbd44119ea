/** Sets of values against a controller: stored as they are, written back as one, or not at all. */
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { v7 as uuid } from 'uuid';
import type { SetRequest } from '@/services/panels/valueSets.ts';
import { newTag } from '../support/newTag.ts';
import { newFolder } from '../support/server.ts';
import { openBench, type Bench } from '../support/services.ts';
import { startStandin, type RunningStandin } from '../support/standin.ts';
import { until } from '../support/until.ts';

const data = newFolder();
let bench: Bench;
let caller: RunningStandin;
const [deviceId, panelId, pageId, elementId, plainId] = [uuid(), uuid(), uuid(), uuid(), uuid()];
/** Each type with a value, and another one. */
const KINDS = [
  ['count', 'UINT', 'HR40', '65535', '7'],
  ['share', 'REAL', 'HR41', '0.1', '-3.5'],
  ['large', 'ULINT', 'HR43', '18446744073709551615', '3'],
  ['exact', 'LREAL', 'HR47', '0.30000000000000004', '2.25'],
  ['gap', 'INT', 'HR51', '-12.5', '4.2'],
  ['name', 'STRING(10)', 'HR52', 'THIN  02', 'x'],
  ['runs', 'BOOL', '00010', 'on', 'off'],
  ['mode', 'UINT', 'HR60', 'Run', 'Idle'],
  ['dwell', 'TIME', 'HR61', '2s500ms', '1s'],
] as const;
const ids = new Map(KINDS.map(([name]) => [name as string, uuid()]));
const idOf = (name: string): string => ids.get(name) ?? '';
const sets = () => bench.services.valueSets;
const act = async (more: Partial<SetRequest> & Pick<SetRequest, 'act'>): Promise<string> => {
  const done = await sets().act({ panelId, elementId, ...more });
  return done.ok ? `${done.value.done}/${done.value.of} ${done.value.failed.join(' ')}`.trim() : `${done.problem.code}: ${done.problem.message}`;
};
const named = async (name: string) => {
  const all = await sets().list(panelId, elementId);
  const found = all.ok ? all.value.find((one) => one.name === name) : undefined;
  if (!found) throw new Error(`no set ${name}`);
  return found;
};
const write = async (name: string, value: string): Promise<void> => {
  const done = await bench.services.writes.write({ id: uuid(), tagId: idOf(name), value, writer: 'engineer' });
  expect([name, done.ok ? done.value.state : done.problem]).toEqual([name, 'done']);
};
const eng = (name: string): unknown => bench.services.engine.live.get(idOf(name))?.eng;
const all = (): readonly unknown[] => KINDS.map(([name]) => eng(name));

beforeAll(async () => {
  [bench, caller] = await Promise.all([openBench(data.folder), startStandin('caller')]);
  const linkId = uuid();
  const more: Readonly<Record<string, object>> = { mode: { names: [{ value: 0, name: 'Idle' }, { value: 1, name: 'Run' }] }, gap: { unit: 'mm', decimals: 1 } }; // prettier-ignore
  await bench.change('a controller', [
    { kind: 'link', id: linkId, set: { name: 'Line', driver: 'modbus-tcp', settings: { host: '127.0.0.1', port: caller.modbusPort } } },
    { kind: 'device', id: deviceId, set: { linkId, name: 'CALLER', settings: { unit: 1 }, dialect: {}, witnessUrl: '' } },
    ...KINDS.map(([name, type, address]) => ({
      kind: 'tag' as const,
      id: idOf(name),
      set: { ...newTag(deviceId, name, address), type, ...more[name] },
    })),
    { kind: 'scale', id: idOf('gap'), set: { scale: { kind: 'power', exponent: -1 } } },
    { kind: 'panel', id: panelId, set: { name: 'Panel', units: [] } },
    { kind: 'page', id: pageId, set: { panelId, name: 'Page', position: 0 } },
    { kind: 'element', id: elementId, set: { pageId, kind: 'sets', tagId: null, label: '', x: 0, y: 0, w: 400, h: 200, settings: { name: 'Oats', members: [...ids.values()] } } }, // prettier-ignore
    { kind: 'element', id: plainId, set: { pageId, kind: 'sets', tagId: null, label: '', x: 0, y: 200, w: 400, h: 200, settings: { name: 'oats', members: [idOf('count')], canStore: false, level: 2 } } }, // prettier-ignore
  ]);
  await until('the controller is heard', () => KINDS.every(([name]) => bench.services.engine.live.get(idOf(name))?.quality.level === 'good'));
  await bench.services.guards.unlock({ deviceId, who: 'R. Vale', minutes: 60, writers: ['engineer', 'panel'] });
});
afterAll(async () => {
  await bench?.close();
  await caller?.stop();
  data.remove();
});

describe('a set', () => {
  test('brings back the very values that were stored, of every type', async () => {
    for (const [name, , , value] of KINDS) await write(name, value);
    const before = all();
    expect(await act({ act: 'store', name: ' Thin ' })).toBe('9/9');
    for (const [name, , , , other] of KINDS) await write(name, other);
    expect(all()).not.toEqual(before);
    expect(await act({ act: 'load', setId: (await named('Thin')).id })).toBe('9/9');
    expect(all()).toEqual(before);
  });

  test('of a name that is there is stored only into the one that was seen', async () => {
    expect(await act({ act: 'store', name: 'THIN' })).toMatch(/^taken: “Thin” is there already/);
    await write('count', '11');
    const { id } = await named('Thin');
    expect(await act({ act: 'store', name: 'Thin', setId: id })).toBe('9/9');
    // It is another one now: who saw the one before does not write it.
    expect(await act({ act: 'load', setId: id })).toMatch(/^gone/);
    expect((await named('Thin')).values[idOf('count')]?.text).toBe('11');
  });

  test('two that are stored under one name at once are not both the first', async () => {
    const done = await Promise.all([act({ act: 'store', name: 'Twice' }), act({ act: 'store', name: 'twice' })]);
    expect(done.filter((one) => one === '9/9')).toHaveLength(1);
    expect(await act({ act: 'remove', setId: (await named('Twice').catch(() => named('twice'))).id })).toBe('0/0');
  });

  test('is written as a whole or not at all: nothing while writing is locked, nothing where a value is out of range, nothing where a unit is another', async () => {
    const set = await named('Thin');
    for (const [name, , , , other] of KINDS) await write(name, other);
    const before = all();
    bench.services.guard.lock(deviceId);
    expect(await act({ act: 'load', setId: set.id })).toMatch(/locked/i);
    await bench.services.guards.unlock({ deviceId, who: 'R. Vale', minutes: 60, writers: ['engineer', 'panel'] });
    await bench.change('range', [{ kind: 'tag', id: idOf('gap'), set: { rangeLow: 0, rangeHigh: 10 } }]);
    expect(await act({ act: 'load', setId: set.id })).toMatch(/^out-of-range: gap: /);
    await bench.change('range', [{ kind: 'tag', id: idOf('gap'), set: { rangeLow: null, rangeHigh: null, unit: 'µm' } }]);
    expect(await act({ act: 'load', setId: set.id })).toBe('unit: gap was stored in mm, and is in µm now.');
    await bench.change('unit', [{ kind: 'tag', id: idOf('gap'), set: { unit: 'mm' } }]);
    await bench.change('one more', [{ kind: 'element', id: elementId, set: { settings: { name: 'Oats', members: [...ids.values(), panelId] } } }]);
    expect(await act({ act: 'load', setId: set.id })).toMatch(/^no-value: “Thin” has no value of A tag that is gone/);
    await bench.change('as before', [{ kind: 'element', id: elementId, set: { settings: { name: 'Oats', members: [...ids.values()] } } }]);
    expect(all()).toEqual(before);
    expect((await bench.services.writes.log({ limit: 1 }))[0]?.origin).toBe('engineer');
  });

  test('is not stored of values that are not good', async () => {
    await fetch(`http://127.0.0.1:${caller.controlPort}/orders`, { method: 'POST', body: JSON.stringify({ faults: { silence: [1] } }) });
    await until('it is silent', () => bench.services.engine.live.get(idOf('count'))?.quality.level === 'bad', 15_000);
    expect(await act({ act: 'store', name: 'Bad' })).toMatch(/^not-good: count has no good value/);
    await fetch(`http://127.0.0.1:${caller.controlPort}/orders`, { method: 'POST', body: JSON.stringify({ faults: {} }) });
    await until('it is heard again', () => KINDS.every(([name]) => bench.services.engine.live.get(idOf(name))?.quality.level === 'good'), 30_000);
  });

  test('is shared by elements that call it alike; one that needs a level, or may not store, says so', async () => {
    const set = await named('Thin');
    expect(await act({ act: 'load', setId: set.id, elementId: plainId })).toMatch(/^level: /);
    await bench.change('a person', [{ kind: 'operator', id: uuid(), set: { name: 'A. Reed', level: 2 } }]);
    const [person] = bench.services.model.all('operator');
    await bench.services.signIn.setPin(person?.id ?? '', '2718');
    const signed = await bench.services.signIn.signIn(panelId, person?.id ?? '', '2718');
    const session = signed.ok ? signed.value.token : '';
    expect(await act({ act: 'store', name: 'x', elementId: plainId, session })).toMatch(/^not-here/);
    expect(await act({ act: 'load', setId: set.id, elementId: plainId, session })).toBe('1/1');
    expect((await bench.services.writes.log({ limit: 1 }))[0]).toMatchObject({ tagName: 'count', origin: 'panel', who: 'R. Vale', by: 'A. Reed' });
  });

  test.each([
    ['', 'name'],
    ['x'.repeat(61), 'name'],
  ])('is not stored under “%s”', async (name, code) => expect(await act({ act: 'store', name })).toMatch(new RegExp(`^${code}`)));

  test('outlasts a restart', async () => {
    bench = await bench.reopen();
    const again = await sets().list(panelId, plainId);
    expect(again.ok && again.value.map(({ name }) => name)).toEqual(['Thin']);
  });
});
