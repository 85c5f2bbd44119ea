/**
 * Every data type in every order through the real stack: what a simulated device is set to is shown, and what is entered is
 * what its control channel tells. The device keeps its values by code of its own, and its characters by iconv-lite.
 */
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { v7 as uuid } from 'uuid';
import type { Change } from '@/core/project/command.ts';
import { ORDERS, orderWidth } from '@/core/value/byteOrder.ts';
import { DATA_TYPE_NAMES, LAID_OUT_NAMES, parseDataType, registersOf } from '@/core/value/dataType.ts';
import { newTag } from '../support/newTag.ts';
import { openBench, smallProject, type Bench } from '../support/services.ts';
import { leadToPeer } from '../support/peerDevices.ts';
import { until } from '../support/until.ts';

/** What the device is set to, how that reads, what is entered, and what the device then holds. */
type Row = readonly [set: number | boolean | string, text: string, entry: string, held: number | boolean | string];
const number = (set: number, held: number): Row => [set, String(set), String(held), held];

const ROWS: Readonly<Record<string, Row>> = {
  SINT: number(-100, 0),
  USINT: number(200, 0),
  BYTE: number(129, 0),
  INT: number(-12_345, 258),
  UINT: number(54_321, 4660),
  WORD: number(32_769, 258),
  DINT: number(-1_234_567_890, 16_909_060),
  UDINT: number(4_123_456_789, 16_909_060),
  DWORD: number(2_147_483_649, 16_909_060),
  LINT: number(-9_007_199_254_740_991, 283_686_952_306_183),
  ULINT: number(9_007_199_254_740_991, 283_686_952_306_183),
  LWORD: number(4_503_599_627_370_497, 283_686_952_306_183),
  REAL: number(-123.5, 0.15625),
  LREAL: number(-98_765.4375, 0.1),
  // Literals of IEC 61131-3; the counts worked out by hand.
  TIME: [93_784_005, '1d2h3m4s5ms', '2.5s', 2500],
  LTIME: [2_500_000_000, '2s500ms', '1s', 1_000_000_000],
  DATE: [456_969_600, '1984-06-25', '1970-01-02', 86_400],
  TIME_OF_DAY: [56_215_360, '15:36:55.360', '00:00:01', 1000],
  DATE_AND_TIME: [457_025_815, '1984-06-25-15:36:55', '1970-01-02-00:00:00', 86_400],
  'STRING(16)': ['Weizen süß', 'Weizen süß', 'Hafer', 'Hafer'],
  'WSTRING(16)': ['Zboże 7 €', 'Zboże 7 €', 'овёс', 'овёс'],
  CHAR: ['K', 'K', 'L', ''],
  'UINT bcd': number(1234, 9876),
  'UDINT bcd': number(12_345_678, 90_000_001),
  'INT sign-magnitude': number(-1234, 5),
  'UDINT mod10000': number(12_345_678, 99_990_001),
  'ULINT mod10000 in 3': number(123_456_789_012, 999_900_010_002),
  'DINT mod10000': number(-12_345_678, -20_003),
  'UINT mask 16#00F0': number(11, 6),
  'STRING(16) blank-padded': ['Roller 3', 'Roller 3', 'Sieve', 'Sieve'],
  'STRING(16) length-byte': ['Roller 3', 'Roller 3', 'Sieve', 'Sieve'],
  'STRING(16) length-word': ['Roller 3', 'Roller 3', 'Sieve', 'Sieve'],
  'STRING(16) length-dword': ['Roller 3', 'Roller 3', 'Sieve', 'Sieve'],
  'STRING(16) capacity-length': ['Roller 3', 'Roller 3', 'Sieve', 'Sieve'],
  'STRING(16) utf-8': ['Flöße', 'Flöße', '5 €', '5 €'],
  'STRING(16) windows-1251': ['Овёс', 'Овёс', 'мука', 'мука'],
  'DATE 16-bit d from 1990': [13_479, '2026-11-27', '1990-02-01', 31],
  'DATE_AND_TIME 64-bit ms from 1970': [1_000, '1970-01-01-00:00:01', '1970-01-01-00:00:02.5', 2500],
  'DATE_AND_TIME parts': ['2026-11-27-06:33:07', '2026-11-27-06:33:07', '2031-01-02-03:04:05', '2031-01-02-03:04:05'],
  'DATE_AND_TIME bcd': ['2026-11-27-06:33:07.125', '2026-11-27-06:33:07.125', '1999-12-31-23:59:59', '1999-12-31-23:59:59'],
};

let bench: Bench;
let peer: Awaited<ReturnType<typeof leadToPeer>>;
let witness = '';
let deviceId = '';
interface Laid {
  readonly id: string;
  readonly name: string;
  readonly type: string;
  readonly order: string;
}
const laid: Laid[] = [];

async function told(): Promise<Readonly<Record<string, unknown>>> {
  const answer = (await (await fetch(`${witness}/values`)).json()) as Record<string, { value: unknown }>;
  return Object.fromEntries(Object.entries(answer).map(([name, { value }]) => [name, value]));
}

beforeAll(async () => {
  bench = await openBench();
  const project = await smallProject(bench, 9, {}, { dialect: { timeoutMs: 500, readRetries: 0, bitWrites: 'mask' } });
  deviceId = project.deviceId;
  const changes: Change[] = [{ kind: 'tag', id: project.tagId, set: null }];
  let next = 1;
  for (const type of Object.keys(ROWS)) {
    const parsed = parseDataType(type);
    if (!parsed.ok) throw new Error(parsed.problem.message);
    for (const order of ORDERS[orderWidth(parsed.value)]) {
      const tag = { id: uuid(), name: `${type} ${order}`, type, order };
      laid.push(tag);
      changes.push({ kind: 'tag', id: tag.id, set: { ...newTag(deviceId, tag.name, `HR${next}`, { order }), type, access: 'readWrite' } });
      next += registersOf(parsed.value);
    }
  }
  await bench.change('every type', changes);
  peer = await leadToPeer(bench, project.linkId);
  witness = peer.witness;
  await until('all are read', () => laid.every(({ id }) => bench.services.engine.live.get(id)?.raw !== undefined));
});
afterAll(async () => {
  peer.stop();
  await bench.close();
});

test('every type that is offered is among them', () => {
  expect([...DATA_TYPE_NAMES, ...LAID_OUT_NAMES].filter((name) => name !== 'BOOL' && !(name in ROWS))).toEqual([]);
});

describe('in every order', () => {
  test('what the device is set to is what is shown', async () => {
    const set = Object.fromEntries(laid.map(({ name, type }) => [name, ROWS[type]?.[0]]));
    const done = await fetch(`${witness}/orders`, { method: 'POST', body: JSON.stringify({ set }) });
    expect(done.ok).toBe(true);
    const wanted = laid.map(({ name, type }) => `${name}: ${ROWS[type]?.[1] ?? ''}`);
    const shown = () => laid.map(({ id, name }) => `${name}: ${bench.services.engine.live.get(id)?.text ?? ''}`);
    await until('all are shown', () => shown().join() === wanted.join()).catch(() => undefined);
    expect(shown()).toEqual(wanted);
  });

  test('what is entered is what the device then holds', async () => {
    bench.services.guard.unlock(deviceId, 'R. Vale', 5);
    const refused: string[] = [];
    for (const { id, name, type } of laid) {
      const done = await bench.services.writes.write({ id: uuid(), tagId: id, value: ROWS[type]?.[2] ?? '', writer: 'engineer' });
      if (!done.ok || done.value.state !== 'done') refused.push(name);
    }
    // Half a register cannot be written alone.
    expect(refused.filter((name) => !/^(SINT|USINT|BYTE|CHAR) /.test(name))).toEqual([]);
    const held = await told();
    for (const { name, type } of laid)
      if (!refused.includes(name)) expect(`${name}: ${String(held[name])}`).toBe(`${name}: ${String(ROWS[type]?.[3])}`);
    expect(refused).toHaveLength(8);
  });
});
