/** Copy rules: from device to device, with conversion, under the guard, the ranges and the log; and those that are refused. */
import { afterAll, afterEach, beforeAll, describe, expect, test } from '@jest/globals';
import { v7 as uuid } from 'uuid';
import type { CopyRule } from '@/core/project/entities.ts';
import type { CopyStatus } from '@/core/live/copyStatus.ts';
import { addDriver } from '@/drivers/registry.ts';
import { MockCells } from '../support/mockDriver.ts';
import { newTag } from '../support/newTag.ts';
import { openBench, type Bench } from '../support/services.ts';
import { until } from '../support/until.ts';

const KILN = new MockCells({ id: 'mock-kiln' });
const ROLLS = new MockCells({ id: 'mock-rolls' });
const ids = new Map<string, string>();
const id = (name: string): string => ids.get(name) ?? '';
let bench: Bench;
const deviceIds: Record<string, string> = {};
let rolls: { readonly linkId: string; readonly deviceId: string };

beforeAll(async () => {
  bench = await openBench();
  for (const [name, cells] of [
    ['kiln', KILN],
    ['rolls', ROLLS],
  ] as const) {
    addDriver(cells.driver);
    const [linkId, deviceId] = [uuid(), uuid()];
    deviceIds[name] = deviceId;
    rolls = { linkId, deviceId };
    const tag = (short: string, type: string, more: object = {}) => {
      const tagId = uuid();
      ids.set(`${name} ${short}`, tagId);
      return {
        kind: 'tag' as const,
        id: tagId,
        set: { ...newTag(deviceId, `${name}_${short}`, `cell:${short}`), type, rangeLow: null, rangeHigh: null, ...more },
      };
    };
    await bench.change(name, [
      { kind: 'link', id: linkId, set: { name, driver: `mock-${name}`, settings: {} } },
      { kind: 'device', id: deviceId, set: { linkId, name: name.toUpperCase(), settings: {}, dialect: {}, witnessUrl: '' } },
      tag('temp', 'REAL', { unit: '°C' }),
      tag('count', 'INT', { unit: '°C', rangeLow: 0, rangeHigh: 150 }),
      tag('go', 'BOOL'),
      tag('word', 'INT'),
      tag('name', 'STRING(8)'),
      tag('kelvin', 'REAL', { unit: 'K' }),
      tag('seen', 'INT', { access: 'read' }),
    ]);
    // Tenths in the controller.
    await bench.change('scale', [{ kind: 'scale', id: id(`${name} count`), set: { scale: { kind: 'power', exponent: -1 } } }]);
  }
  const sum = uuid();
  ids.set('sum', sum);
  const expression = `@${id('rolls temp')} + @${id('rolls kelvin')} * 0`;
  await bench.change('sum', [
    {
      kind: 'tag',
      id: sum,
      set: { ...newTag('', 'sum', ''), source: { kind: 'calculated', expression }, type: 'LREAL', access: 'read', rangeLow: null, rangeHigh: null },
    },
  ]);
});
afterAll(() => bench.close());
afterEach(async () => {
  bench.services.guard.lock();
  const rules = bench.services.model.all('copyRule');
  if (rules.length > 0)
    await bench.change(
      'tidy',
      rules.map((rule) => ({ kind: 'copyRule', id: rule.id, set: null })),
    );
});

function fill(): Promise<void> {
  for (const cells of [KILN, ROLLS]) {
    for (const [name, value] of Object.entries({ temp: 20, count: 200, go: false, word: 3, name: 'oats', kelvin: 300, seen: 1 }))
      cells.set(`cell:${name}`, value);
    cells.onWrite = (canonical, raw) => (cells.set(canonical, raw), null);
    cells.asked.length = 0;
  }
  return until('values are there', () =>
    ['kiln', 'rolls'].every(
      (name) =>
        textOf(`${name} temp`) === '20' && textOf(`${name} count`) === '20.0' && textOf(`${name} word`) === '3' && textOf(`${name} go`) === 'off',
    ),
  );
}
const textOf = (name: string): string => bench.services.engine.live.get(id(name))?.text ?? '';
async function unlock(): Promise<void> {
  const done = await bench.services.guards.unlock({ deviceId: deviceIds.rolls ?? '', who: 'R. Vale', minutes: 60, writers: ['rule'] });
  if (!done.ok) throw new Error(done.problem.message);
}
const RULE: Omit<CopyRule, 'id'> = {
  name: 'rule', fromTagId: null, toTagId: null, fromBlockId: null, toBlockId: null, when: 'change', triggerTagId: null, pauseMs: 200, isOn: true,
}; // prettier-ignore
async function add(from: string, to: string, more: Partial<CopyRule> = {}): Promise<string> {
  const ruleId = uuid();
  await bench.change('rule', [
    { kind: 'copyRule', id: ruleId, set: { ...RULE, name: `rule ${ruleId}`, fromTagId: id(from), toTagId: id(to), ...more } },
  ]);
  return ruleId;
}
async function refusal(from: string, to: string, more: Partial<CopyRule> = {}): Promise<string> {
  const set = { ...RULE, name: `rule ${uuid()}`, fromTagId: id(from), toTagId: id(to), ...more };
  const done = await bench.services.projects.execute({ id: uuid(), label: 'rule', changes: [{ kind: 'copyRule', id: uuid(), set }] }, 'bench');
  return done.ok ? 'taken' : `${done.problem.code}: ${done.problem.message}`;
}
function arm(ruleId: string): void {
  const done = bench.services.copies.arm(ruleId, 'R. Vale');
  if (!done.ok) throw new Error(done.problem.message);
}
const statusOf = (ruleId: string): CopyStatus | undefined => bench.services.copies.all().find((status) => status.ruleId === ruleId);
const writes = (cells: MockCells): readonly string[] => cells.asked.filter((asked) => asked.startsWith('write'));
const rest = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));

describe('a change of one device is copied to another', () => {
  test('in the engineering value, with the type and the scale of each; the log says who armed it', async () => {
    await fill();
    await unlock();
    const rule = await add('kiln temp', 'rolls count');
    arm(rule);
    KILN.set('cell:temp', 23.46);
    await until('it is copied', () => statusOf(rule)?.count === 1 && textOf('rolls count') === '23.5');
    // 23.46 °C in tenths.
    expect(writes(ROLLS)).toEqual(['write cell:count']);
    const [entry] = await bench.services.writes.log({ limit: 1 });
    expect([entry?.tagName, entry?.origin, entry?.state, entry?.who]).toEqual(['rolls_count', 'rule', 'done', 'R. Vale']);
    expect(entry?.note).toContain('armed by R. Vale');
    expect(entry?.sent).toEqual({ kind: 'decimal', value: '23.5' });
  });

  test('a text from a number, a number from on and off', async () => {
    await fill();
    await unlock();
    arm(await add('kiln count', 'rolls name'));
    arm(await add('kiln go', 'rolls word'));
    KILN.set('cell:count', 305);
    KILN.set('cell:go', true);
    await until('they are copied', () => textOf('rolls name') === '30.5' && textOf('rolls word') === '1');
  });

  test('not before it is armed, not while the device is locked, and not later what was held back', async () => {
    await fill();
    const rule = await add('kiln temp', 'rolls count');
    KILN.set('cell:temp', 30);
    await until('it is read', () => textOf('kiln temp') === '30');
    arm(rule);
    KILN.set('cell:temp', 31);
    await until('it is refused', () => statusOf(rule)?.state === 'held-back');
    expect(statusOf(rule)?.sentence).toContain('Writing to ROLLS is locked');
    await unlock();
    await rest(400);
    expect(writes(ROLLS)).toEqual([]);
    KILN.set('cell:temp', 32);
    await until('it is copied', () => textOf('rolls count') === '32.0');
  });

  test('only good values inside the range of where they go', async () => {
    await fill();
    await unlock();
    const rule = await add('kiln temp', 'rolls count');
    arm(rule);
    KILN.set('cell:temp', 151);
    await until('it is refused', () => statusOf(rule)?.state === 'held-back');
    expect(statusOf(rule)?.sentence).toContain('outside the tag');
    KILN.set('cell:temp', NaN);
    await rest(300);
    expect(writes(ROLLS)).toEqual([]);
  });

  test('at most as often as its pause allows: of many changes the last one is copied', async () => {
    await fill();
    await unlock();
    const rule = await add('kiln temp', 'rolls count', { pauseMs: 1000 });
    arm(rule);
    for (let value = 40; value < 60; value++) {
      KILN.set('cell:temp', value);
      await rest(40);
    }
    await until('the last one is there', () => textOf('rolls count') === '59.0');
    expect(writes(ROLLS).length).toBeLessThanOrEqual(3);
  });

  test('what is held there already is not written again', async () => {
    await fill();
    await unlock();
    ROLLS.set('cell:count', 330);
    await until('it is read', () => textOf('rolls count') === '33.0');
    const rule = await add('kiln temp', 'rolls count');
    arm(rule);
    KILN.set('cell:temp', 33);
    await until('it was looked at', () => statusOf(rule)?.sentence === 'It holds the same already.');
    expect(writes(ROLLS)).toEqual([]);
  });
});

test('a block to another one: the members that both have, all or none', async () => {
  await fill();
  await unlock();
  const blocks: Record<string, string> = {};
  for (const name of ['kiln', 'rolls']) {
    const [structureId, blockId, deviceId] = [uuid(), uuid(), deviceIds[name] ?? ''];
    blocks[name] = blockId;
    await bench.change('block', [
      { kind: 'structure', id: structureId, set: { name: 'Recipe', deviceId, members: [] } },
      { kind: 'block', id: blockId, set: { name: 'recipe', deviceId, structureId, address: '' } },
      { kind: 'member', id: id(`${name} count`), set: { blockId, path: 'Temp' } },
      { kind: 'member', id: id(`${name} word`), set: { blockId, path: name === 'kiln' ? 'mode' : 'Mode' } },
      ...(name === 'kiln' ? [{ kind: 'member' as const, id: id('kiln name'), set: { blockId, path: 'Name' } }] : []),
    ]);
  }
  const ruleId = uuid();
  const set = { ...RULE, fromBlockId: blocks.kiln, toBlockId: blocks.rolls, pauseMs: 1000 };
  await bench.change('rule', [{ kind: 'copyRule', id: ruleId, set }]);
  arm(ruleId);
  KILN.set('cell:count', 410);
  KILN.set('cell:word', 5);
  await until('both are there', () => textOf('rolls count') === '41.0' && textOf('rolls word') === '5');
  expect(textOf('rolls name')).toBe('oats');
  const before = writes(ROLLS).length;
  // One that cannot be written keeps the other back.
  KILN.set('cell:word', 6);
  KILN.set('cell:count', 1600);
  await until('it is refused', () => statusOf(ruleId)?.state === 'held-back');
  await rest(1200);
  expect(textOf('rolls count')).toBe('41.0');
  expect(writes(ROLLS).length - before).toBeLessThanOrEqual(1);
});

describe('when', () => {
  test('a tag turns on: then only, and each time', async () => {
    await fill();
    await unlock();
    const rule = await add('kiln temp', 'rolls count', { when: 'rising', triggerTagId: id('kiln go') });
    arm(rule);
    KILN.set('cell:temp', 50);
    await until('it is read', () => textOf('kiln temp') === '50');
    await rest(300);
    expect(writes(ROLLS)).toEqual([]);
    KILN.set('cell:go', true);
    await until('it is copied', () => textOf('rolls count') === '50.0');
    KILN.set('cell:go', false);
    KILN.set('cell:temp', 51);
    await until('it is off', () => textOf('kiln go') === 'off' && textOf('kiln temp') === '51');
    KILN.set('cell:go', true);
    await until('it is copied again', () => textOf('rolls count') === '51.0');
    await until('both are counted', () => statusOf(rule)?.count === 2);
  });

  test('it is armed: once', async () => {
    await fill();
    await unlock();
    const rule = await add('kiln temp', 'rolls count', { when: 'armed' });
    KILN.set('cell:temp', 60);
    await until('it is read', () => textOf('kiln temp') === '60');
    arm(rule);
    await until('it is copied', () => textOf('rolls count') === '60.0');
    KILN.set('cell:temp', 61);
    await until('it is read', () => textOf('kiln temp') === '61');
    await rest(400);
    expect(writes(ROLLS)).toHaveLength(1);
  });

  test('every so often: what was changed there is put back', async () => {
    await fill();
    await unlock();
    arm(await add('kiln temp', 'rolls count', { when: 'every' }));
    ROLLS.set('cell:count', 990);
    await until('it is put back', () => textOf('rolls count') === '20.0' && writes(ROLLS).length === 1);
  });
});

test('a rule is disarmed by a change of itself or of a signal path, and copies no more', async () => {
  await fill();
  await unlock();
  const rule = await add('kiln temp', 'rolls count');
  arm(rule);
  await bench.change('another name', [{ kind: 'copyRule', id: rule, set: { name: 'another' } }]);
  expect(statusOf(rule)?.state).toBe('ready');
  await bench.change('scale', [{ kind: 'scale', id: id('rolls count'), set: { scale: { kind: 'power', exponent: -2 } } }]);
  expect(statusOf(rule)).toMatchObject({ state: 'unarmed', sentence: expect.stringContaining('changed') });
  await bench.change('scale', [{ kind: 'scale', id: id('rolls count'), set: { scale: { kind: 'power', exponent: -1 } } }]);
  KILN.set('cell:temp', 77);
  await until('it is read', () => textOf('kiln temp') === '77');
  await rest(300);
  expect(writes(ROLLS)).toEqual([]);
});

describe('refused', () => {
  test('what would feed itself: at once, through a calculation, through another rule and device, through another name of its place', async () => {
    expect(await refusal('kiln temp', 'kiln temp')).toContain('copy-loop');
    // sum is calculated from the temperature of the rolls.
    expect(await refusal('sum', 'rolls temp')).toMatch(/copy-loop: .*rolls_temp, then sum/);
    await add('kiln temp', 'rolls temp');
    expect(await refusal('rolls temp', 'kiln temp')).toMatch(/copy-loop: .*kiln_temp, then rolls_temp/);
    expect(await refusal('rolls kelvin', 'kiln temp')).toContain('copy-units');
    expect(await refusal('sum', 'kiln temp')).toContain('copy-loop');
    expect(await refusal('rolls word', 'kiln word', { when: 'rising', triggerTagId: id('rolls go') })).toBe('taken');
    // It would start itself.
    expect(await refusal('rolls name', 'rolls go', { when: 'rising', triggerTagId: id('rolls go') })).toContain('copy-types');
    expect(await refusal('kiln go', 'rolls go', { when: 'rising', triggerTagId: id('rolls go') })).toContain('copy-loop');
    const twin = uuid();
    await bench.change('twin', [
      {
        kind: 'tag',
        id: twin,
        set: { ...newTag(rolls.deviceId, 'twin', 'cell:word'), type: 'INT', access: 'readWrite', rangeLow: null, rangeHigh: null },
      },
    ]);
    ids.set('twin', twin);
    expect(await refusal('rolls word', 'twin')).toMatch(/copy-loop: .*twin, then rolls_word/);
    await bench.change('twin', [{ kind: 'tag', id: twin, set: null }]);
  });

  test('what is not written, other units, other kinds', async () => {
    expect(await refusal('kiln temp', 'rolls seen')).toContain('read-only');
    expect(await refusal('kiln temp', 'rolls kelvin')).toContain('copy-units');
    expect(await refusal('kiln word', 'rolls go')).toContain('copy-types');
    expect(await refusal('kiln temp', 'rolls count', { triggerTagId: id('kiln go') })).toContain('invalid');
    expect(await refusal('kiln temp', 'rolls count', { pauseMs: 50 })).toContain('at least 200');
    expect(await refusal('kiln temp', 'rolls count', { when: 'rising', triggerTagId: id('kiln word') })).toContain('copy-trigger');
  });

  test('arming one that is not in use', async () => {
    const done = bench.services.copies.arm(await add('kiln temp', 'rolls count', { isOn: false }), 'R. Vale');
    expect(done.ok ? '' : done.problem.code).toBe('copy-off');
  });
});
