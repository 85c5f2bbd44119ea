/** Several values written as one, and how each kind of driver learns what is held: devices in memory that answer as told. */
import { afterAll, beforeAll, beforeEach, describe, expect, test } from '@jest/globals';
import { v7 as uuid } from 'uuid';
import type { DriverFault } from '@/drivers/contract.ts';
import { addDriver } from '@/drivers/registry.ts';
import { MOCK_MANIFEST, MockCells } from '../support/mockDriver.ts';
import { newTag } from '../support/newTag.ts';
import { openBench, type Bench } from '../support/services.ts';
import { until } from '../support/until.ts';

const withinMs = 200;
const { capabilities } = MOCK_MANIFEST;
const KINDS = {
  asking: new MockCells({ id: 'mock-asking' }, true),
  single: new MockCells({ id: 'mock-single' }),
  telling: new MockCells({ id: 'mock-telling', capabilities: { ...capabilities, confirms: { by: 'telling', withinMs } } }),
  answering: new MockCells({ id: 'mock-answering', capabilities: { ...capabilities, confirms: { by: 'answering' } } }),
};
type Kind = keyof typeof KINDS;
const NAMES = ['a', 'b', 'c'] as const;
let bench: Bench;
const ids = new Map<string, string>();
const tag = (kind: Kind, name: string): string => ids.get(`${kind} ${name}`) ?? '';

beforeAll(async () => {
  bench = await openBench();
  for (const [kind, cells] of Object.entries(KINDS)) {
    addDriver(cells.driver);
    const [linkId, deviceId] = [uuid(), uuid()];
    await bench.change(kind, [
      { kind: 'link', id: linkId, set: { name: kind, driver: `mock-${kind}`, settings: {} } },
      { kind: 'device', id: deviceId, set: { linkId, name: kind.toUpperCase(), settings: {}, dialect: {}, witnessUrl: '' } },
      ...NAMES.map((name) => {
        const id = uuid();
        ids.set(`${kind} ${name}`, id);
        const set = { ...newTag(deviceId, `${kind}_${name}`, `cell:${name}`), type: 'REAL', rangeLow: 0, rangeHigh: 100 };
        return { kind: 'tag' as const, id, set };
      }),
    ]);
  }
  for (const { id } of bench.services.model.all('device')) bench.services.guard.unlock(id, 'R. Vale', 60);
});
beforeEach(async () => {
  for (const cells of Object.values(KINDS)) {
    cells.onWrite = (canonical, raw) => (cells.set(canonical, raw), null);
    for (const name of NAMES) cells.set(`cell:${name}`, 1);
  }
  await until('values are there', () => [...ids.values()].every((id) => bench.services.engine.live.get(id)?.text === '1'));
  for (const cells of Object.values(KINDS)) cells.asked.length = 0;
});
afterAll(() => bench.close());

type Value = readonly [tagId: string, value: string, id?: string];
const together = (...values: readonly Value[]) =>
  bench.services.writes.writeAll({ writes: values.map(([tagId, value, id = uuid()]) => ({ id, tagId, value })), writer: 'engineer' });
const outcomes = async (...values: readonly Value[]): Promise<string[]> => {
  const done = await together(...values);
  if (!done.ok) return [`${done.problem.place}: ${done.problem.code}`];
  return done.value.map((one) => (one.ok ? `${one.value.state} ${one.value.heldText ?? ''}`.trim() : one.problem.code));
};
const write = async (kind: Kind, value: string): Promise<string> => {
  const done = await bench.services.writes.write({ id: uuid(), tagId: tag(kind, 'a'), value, writer: 'engineer' });
  return done.ok ? `${done.value.state}: ${done.value.sentence}` : done.problem.code;
};
const NO_ANSWER: DriverFault = { kind: 'unknown', problem: { code: 'no-answer', message: 'Nothing was answered.' } };

describe('several values at once', () => {
  test('go to a device together, in their order, are read back together, and each has its entry in the log', async () => {
    const values = NAMES.map((name, i): [string, string] => [tag('asking', name), String(10 + i)]);
    expect(await outcomes(...values)).toEqual(['done 10', 'done 11', 'done 12']);
    expect(KINDS.asking.asked).toEqual(['write cell:a cell:b cell:c', 'read cell:a cell:b cell:c']);
    const log = await bench.services.writes.log({ limit: 3 });
    expect(log.map(({ tagName, state, who }) => `${tagName} ${state} ${who}`).sort()).toEqual(
      NAMES.map((name) => `asking_${name} done R. Vale`).sort(),
    );
  });

  test('go one after the other where the protocol knows nothing else; what comes after silence is not sent', async () => {
    const { single } = KINDS;
    single.onWrite = (canonical, raw) => (canonical === 'cell:b' ? NO_ANSWER : (single.set(canonical, raw), null));
    const values = NAMES.map((name): [string, string] => [tag('single', name), '20']);
    expect(await outcomes(...values)).toEqual(['done 20', 'unknown 1', 'refused 1']);
    expect(single.asked.filter((asked) => asked.startsWith('write'))).toEqual(['write cell:a', 'write cell:b']);
    expect((await bench.services.writes.log({ limit: 5, text: 'single_c' }))[0]?.note).toContain('It was not sent');
  });

  test('one that cannot be written keeps all of them back: nothing is sent and nothing is logged', async () => {
    const before = await bench.services.writes.log({ limit: 100 });
    expect(await outcomes([tag('asking', 'a'), '30'], [tag('single', 'b'), '101'])).toEqual(['writes[1].value: out-of-range']);
    expect(await outcomes([tag('asking', 'a'), '30'], [tag('asking', 'a'), '31'])).toEqual(['writes: twice']);
    expect([...KINDS.asking.asked, ...KINDS.single.asked]).toEqual([]);
    expect(await bench.services.writes.log({ limit: 100 })).toHaveLength(before.length);
  });

  test('one that the device refuses is told apart from those that it took', async () => {
    const { asking } = KINDS;
    const refusal: DriverFault = { kind: 'refused', problem: { code: 'no', message: 'It is locked there.' } };
    asking.onWrite = (canonical, raw) => (canonical === 'cell:b' ? refusal : (asking.set(canonical, raw), null));
    expect(await outcomes(...NAMES.map((name): [string, string] => [tag('asking', name), '40']))).toEqual(['done 40', 'refused 1', 'done 40']);
  });

  test('asked for again with the same ids they are not sent again; with others among them they are refused', async () => {
    const [one, two] = [uuid(), uuid()];
    expect(await outcomes([tag('asking', 'a'), '50', one], [tag('asking', 'b'), '51', two])).toEqual(['done 50', 'done 51']);
    expect(await outcomes([tag('asking', 'a'), '50', one], [tag('asking', 'b'), '51', two])).toEqual(['done 50', 'done 51']);
    expect(KINDS.asking.asked.filter((asked) => asked.startsWith('write'))).toHaveLength(1);
    expect(await outcomes([tag('asking', 'a'), '50', one], [tag('asking', 'c'), '52'])).toEqual(['id: id-used']);
    expect(await outcomes([tag('asking', 'a'), '60', one])).toEqual(['id: id-used']);
    expect(KINDS.asking.asked.filter((asked) => asked.startsWith('write'))).toHaveLength(1);
  });

  test('of several devices each gets its own', async () => {
    expect(await outcomes([tag('asking', 'a'), '70'], [tag('telling', 'a'), '71'], [tag('asking', 'b'), '72'])).toEqual([
      'done 70',
      'done 71',
      'done 72',
    ]);
    expect(KINDS.asking.asked[0]).toBe('write cell:a cell:b');
    expect(KINDS.telling.asked).toEqual(['write cell:a']);
  });
});

describe('what is held after a write', () => {
  test('is told by a device that tells its values by itself: nothing is read', async () => {
    expect(await write('telling', '80')).toBe('done: The controller holds 80.');
    expect(KINDS.telling.asked).toEqual(['write cell:a']);
  });
  test('is another value where the device tells another', async () => {
    KINDS.telling.onWrite = (canonical) => (KINDS.telling.set(canonical, 55), null);
    expect(await write('telling', '90')).toBe('differs: The controller took 90 and holds 55.');
  });
  test('is not known where it tells nothing in time', async () => {
    KINDS.telling.onWrite = () => null;
    expect(await write('telling', '90')).toBe('unknown: The controller took it, but it told nothing of it within 0.2 s.');
  });
  test('is not asked where the protocol tells no more than that it was taken', async () => {
    expect(await write('answering', '90')).toBe('done: It was taken; its protocol tells no more than that.');
    expect(KINDS.answering.asked).toEqual(['write cell:a']);
  });
});
