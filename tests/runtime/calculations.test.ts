/** Calculated tags: followed with what they use, without glitches, with its quality, and never in circles. */
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { v7 as uuid } from 'uuid';
import type { Tag } from '@/core/project/entities.ts';
import { openBench, smallProject, type Bench } from '../support/services.ts';
import { until } from '../support/until.ts';

let bench: Bench;
let far = '';
const REST = { access: 'readWrite', unit: '', decimals: null, rangeLow: null, rangeHigh: null, comment: '', listId: '' };
const ids = { x: uuid(), fan: uuid(), name: uuid(), up: uuid(), down: uuid(), apart: uuid() };
const local = (name: string, type: string, initial = '') => ({ ...REST, name, type, initial, source: { kind: 'local' } });
const calculated = (name: string, type: string, expression: string, more: Partial<Tag> = {}) => ({
  ...REST,
  access: 'read',
  name,
  type,
  source: { kind: 'calculated', expression },
  ...more,
});
const make = (label: string, id: string, set: object) => bench.change(label, [{ kind: 'tag', id, set: set as never }]);
/** Refused: with what. */
const refused = async (id: string, set: object): Promise<string> =>
  make('refused', id, set).then(
    () => 'none',
    (error: unknown) => String(error),
  );
const shown = (id: string): string => {
  const sample = bench.services.engine.live.get(id);
  return `${sample?.text} ${sample?.quality.level}`;
};
const write = (tagId: string, value: string) => bench.services.writes.write({ id: uuid(), tagId, value, writer: 'panel' });

beforeAll(async () => {
  bench = await openBench();
  far = (await smallProject(bench, 9)).tagId;
  await bench.change('tags', [
    { kind: 'tag', id: ids.up, set: calculated('up', 'DINT', 'x + 1') },
    { kind: 'tag', id: ids.down, set: calculated('down', 'DINT', 'x - 1') },
    { kind: 'tag', id: ids.apart, set: calculated('apart', 'DINT', 'up - down') },
    { kind: 'tag', id: ids.x, set: local('x', 'DINT', '5') },
    { kind: 'tag', id: ids.fan, set: local('fan', 'BOOL') },
    { kind: 'tag', id: ids.name, set: local('product', 'STRING(20)', 'oats') },
  ]);
});
afterAll(() => bench.close());

describe('a calculated tag', () => {
  test('is stored with the ids of what it uses, whatever comes first in the command', () => {
    expect(bench.services.model.get('tag', ids.up)?.source).toEqual({ kind: 'calculated', expression: `@${ids.x} + 1` });
  });

  test('follows what it uses at once, and is never made of one value that is new and one that is old', async () => {
    await until('it is there', () => shown(ids.apart) === '2 good');
    const seen: string[] = [];
    const stop = bench.services.engine.live.onSample((id) => id === ids.apart && seen.push(shown(id)));
    for (let n = 0; n < 20; n++) await write(ids.x, String(n * 100));
    stop();
    expect([shown(ids.up), shown(ids.down), shown(ids.apart)]).toEqual(['1901 good', '1899 good', '2 good']);
    expect(new Set(seen)).toEqual(new Set(['2 good']));
    expect(seen).toHaveLength(20);
  });

  test('has a type and a range like any other, and says what does not fit', async () => {
    const [third, on, label] = [uuid(), uuid(), uuid()];
    await bench.change('more', [
      { kind: 'tag', id: third, set: calculated('third', 'INT', 'x / 4', { rangeLow: 0, rangeHigh: 100 }) },
      { kind: 'tag', id: on, set: calculated('is_high', 'BOOL', 'x > 100 and not fan') },
      { kind: 'tag', id: label, set: calculated('label', 'STRING(30)', "concat(product, ': ', text(x, 1))") },
    ]);
    await write(ids.x, '40');
    expect([shown(third), shown(on), shown(label)]).toEqual(['10 good', 'off good', 'oats: 40.0 good']);
    await write(ids.x, '41');
    expect(bench.services.engine.live.get(third)).toMatchObject({ eng: null, quality: { level: 'bad', reason: 'no-result' } });
    expect(bench.services.engine.live.get(third)?.quality.detail).toContain('10.25');
    await write(ids.x, '800');
    expect(shown(third)).toBe('200 uncertain');
    await write(ids.x, '400000');
    expect(bench.services.engine.live.get(third)?.quality.detail).toContain('INT holds -32768 to 32767');
    expect([shown(on)]).toEqual(['on good']);
  });

  test('is bad where what it uses is bad, and names it', async () => {
    const sum = uuid();
    await make('sum', sum, calculated('sum', 'LREAL', 'x + KILN.bed'));
    await until('the device is missed', () => bench.services.engine.live.get(far)?.quality.level === 'bad' && shown(sum) === '– bad');
    expect(bench.services.engine.live.get(sum)?.quality).toMatchObject({ reason: 'input-bad', detail: expect.stringContaining('KILN.bed: ') });
    const safe = uuid();
    await make('safe', safe, calculated('safe', 'LREAL', 'if(good(KILN.bed), KILN.bed, -1)'));
    await until('it has its other value', () => shown(safe) === '-1 good');
  });

  test('keeps its meaning when what it uses gets another name, and is wrong when that is gone, until it comes back', async () => {
    await write(ids.x, '7');
    await make('renamed', ids.x, { name: 'speed of belt' });
    expect(shown(ids.up)).toBe('8 good');
    await bench.change('removed', [{ kind: 'tag', id: ids.x, set: null }]);
    expect(bench.services.engine.live.get(ids.up)).toMatchObject({ quality: { level: 'bad', reason: 'settings' } });
    await bench.services.projects.step('undo');
    await until('it is back', () => shown(ids.up) === '8 good');
    await make('named back', ids.x, { name: 'x' });
  });

  test('is proven for what it shows: another mapping of what it uses ends the proof', async () => {
    const digest = () => {
      const signal = bench.services.model.effective(ids.apart);
      return signal.ok ? signal.value.digest : '';
    };
    const before = digest();
    await bench.change('scaled', [{ kind: 'scale', id: ids.x, set: { scale: { kind: 'power', exponent: -1 } } }]);
    expect(digest()).not.toBe(before);
    await until('it follows', () => shown(ids.up).startsWith('1.7') || shown(ids.up).endsWith('bad'));
    await bench.change('not scaled', [{ kind: 'scale', id: ids.x, set: { scale: { kind: 'none' } } }]);
    expect(digest()).toBe(before);
  });

  test('cannot be written', async () => {
    expect(await write(ids.up, '1')).toMatchObject({ ok: false, problem: { code: 'read-only' } });
  });

  test('with time in its expression goes on without anything arriving', async () => {
    const age = uuid();
    await make('age', age, calculated('age', 'LREAL', 'since(x)'));
    await until('time passes', () => Number(bench.services.engine.live.get(age)?.text) > 0.5);
    await bench.change('gone', [{ kind: 'tag', id: age, set: null }]);
  });
});

describe('what cannot be is refused as a whole', () => {
  test('circles, through others too', async () => {
    expect(await refused(ids.up, { source: { kind: 'calculated', expression: 'apart + 1' } })).toContain('up → apart → up');
    expect(await refused(uuid(), calculated('own', 'INT', 'own + 1'))).toContain('own → own');
  });
  test('names that nothing has, kinds that do not fit, expressions that are none', async () => {
    expect(await refused(uuid(), calculated('a', 'INT', 'KILN.bad + 1'))).toContain('There is no tag “KILN.bad”');
    expect(await refused(uuid(), calculated('a', 'BOOL', 'x + 1'))).toContain('gives a number, and a BOOL holds on or off');
    expect(await refused(uuid(), calculated('a', 'INT', 'x +'))).toContain('Something is missing at the end');
  });
  test('towers of calculated tags', async () => {
    const tower = Array.from({ length: 60 }, (_, i) => ({
      kind: 'tag' as const,
      id: uuid(),
      set: calculated(`t${i}`, 'LREAL', i === 0 ? 'x' : `t${i - 1} + t${i - 1}`) as never,
    }));
    await expect(bench.change('tower', tower)).rejects.toThrow('one upon another');
  });
});
