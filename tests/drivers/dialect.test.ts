/** Every setting of a dialect, by its effect on what goes over the wire or on what is made of it. */
import { afterEach, describe, expect, test } from '@jest/globals';
import { createSocket } from 'node:dgram';
import type { Device, Link, Tag } from '@/core/project/entities.ts';
import { followWire, planWrite } from '@/core/signal.ts';
import { fromJson, toJson } from '@/core/value/engineering.ts';
import type { Arrival, CallContext, DriverSession } from '@/drivers/contract.ts';
import { effectiveSignal, type EffectiveSignal } from '@/mapping/effective.ts';
import { modbusTcp, modbusUdp } from '@/drivers/modbus/driver.ts';
import { DIALECT } from '@/drivers/modbus/settings.ts';
import { systemClock } from '@/runtime/clock.ts';
import { DraftWork } from '@/services/lists/draftWork.ts';
import { UNGROUPED } from '@/core/project/inherited.ts';
import { newPoint } from '@/core/project/tagSource.ts';
import { FaultyServer } from '../support/faultyServer.ts';
import { until } from '../support/until.ts';

const closers: (() => unknown)[] = [];
afterEach(async () => {
  for (const close of closers.splice(0).reverse()) await close();
});
const context = (): CallContext => ({ signal: new AbortController().signal, deadline: systemClock.now() + 4000 });

interface Bench {
  readonly server: FaultyServer;
  readonly session: DriverSession;
  /** Holding registers; what is not there is refused. */
  readonly registers: Map<number, number>;
  /** PDUs asked for, in hexadecimal. */
  readonly asked: string[];
  readonly dialect: Record<string, unknown>;
}
async function bench(dialect: Record<string, unknown>, registers: Record<number, number>): Promise<Bench> {
  const server = await FaultyServer.start();
  closers.push(() => server.stop());
  const held = new Map(Object.entries(registers).map(([at, value]) => [Number(at), value]));
  const asked: string[] = [];
  const wide = dialect.wide === 'one';
  server.onRequest = ({ pdu, answer }) => {
    asked.push(pdu.toString('hex'));
    const [start, count] = [pdu.readUInt16BE(1), pdu.readUInt16BE(3)];
    if (pdu[0] === 22) {
      held.set(start, ((held.get(start) ?? 0) & count) | (pdu.readUInt16BE(5) & ~count));
      return answer(pdu);
    }
    if (pdu[0] === 6) held.set(start, count);
    if (pdu[0] === 16) for (let i = 0; i < count && !wide; i++) held.set(start + i, pdu.readUInt16BE(6 + 2 * i));
    if (pdu[0] !== 3) return answer(pdu.subarray(0, 5));
    const words = Array.from({ length: count }, (_, i) => held.get(start + i));
    if (words.includes(undefined)) return answer([0x83, 2]);
    answer([
      3,
      count * (wide ? 4 : 2),
      ...words.flatMap((w = 0) => (wide ? [w >>> 24, (w >>> 16) & 255, (w >>> 8) & 255, w & 255] : [w >> 8, w & 255])),
    ]);
  };
  const session = modbusTcp.createSession({
    settings: { host: '127.0.0.1', port: server.port },
    clock: systemClock,
    onFrame: () => undefined,
    onState: () => undefined,
  });
  closers.push(() => session.close());
  session.start();
  await until('connected', () => session.state.phase === 'connected');
  return { server, session, registers: held, asked, dialect: { timeoutMs: 300, readRetries: 0, ...dialect } };
}
function signal(dialect: Record<string, unknown>, address: string, type: string): EffectiveSignal {
  const made = effectiveSignal({
    tag: {
      id: 't',
      source: newPoint('d', address),
      name: 't',
      type,
      access: 'readWrite',
      unit: '',
      decimals: null,
      rangeLow: null,
      rangeHigh: null,
      names: [],
    } as unknown as Tag,
    scale: null,
    inherited: UNGROUPED,
    device: { id: 'd', linkId: 'l', settings: {}, dialect } as unknown as Device,
    link: { id: 'l', driver: 'modbus-tcp', settings: {} } as unknown as Link,
  });
  if (!made.ok) throw new Error(made.problem.message);
  return made.value;
}
/** What each address shows, as text. */
async function read(at: Bench, ...tags: (readonly [address: string, type: string])[]): Promise<string[]> {
  const signals = tags.map(([address, type]) => signal(at.dialect, address, type));
  const came = new Map<string, Arrival>();
  const points = signals.map((s, i) => ({ key: String(i), canonical: s.canonical, type: s.def.type }));
  await at.session
    .device({ unit: 1 }, at.dialect)
    .prepare(points)
    .read((key, arrival) => came.set(key, arrival), context());
  return signals.map((s, i) => {
    const arrival = came.get(String(i));
    if (!arrival || 'fault' in arrival) return arrival?.fault.problem.code ?? 'nothing';
    return followWire(s.def, arrival.wire).text;
  });
}
async function write(at: Bench, address: string, type: string, value: string | boolean | number): Promise<unknown> {
  const s = signal(at.dialect, address, type);
  const json = typeof value === 'number' ? fromJson(toJson(value)) : null;
  const plan = planWrite(s.def, json?.ok ? json.value : value);
  if (!plan.ok) return plan.problem.code;
  const point = { key: 'w', canonical: s.canonical, type: s.def.type };
  return at.session.device({ unit: 1 }, at.dialect).write(point, plan.value, context());
}

describe('two changes of one register at the same time', () => {
  test.each(['readModifyWrite', 'mask'])('two bits by %s do not undo each other, from two sessions of the device either', async (bitWrites) => {
    const at = await bench({ bitWrites }, { 4: 0, 5: 0x0100 });
    const bit = (n: number, on: boolean): Promise<unknown> => write(at, `HR5.${n}`, 'BOOL', on);
    expect(await Promise.all([bit(0, true), bit(3, true), bit(8, false), bit(15, true)])).toEqual([null, null, null, null]);
    expect(at.registers.get(5)).toBe(0x8009);
  });
  test('a value over the register waits for the bit, and the bit is not written back into it', async () => {
    const at = await bench({ bitWrites: 'readModifyWrite' }, { 4: 0, 5: 0x0100 });
    expect(await Promise.all([write(at, 'HR5.0', 'BOOL', true), write(at, 'HR4', 'DINT', 0x12345678)])).toEqual([null, null]);
    expect([at.registers.get(4), at.registers.get(5)]).toEqual([0x1234, 0x5678]);
  });
});

describe('what a list does not say of its layout', () => {
  const program = `TYPE Stand : STRUCT lead : BYTE; current : REAL; label : STRING[6]; last : INT; END_STRUCT; END_TYPE
VAR_GLOBAL stand AT %MW100 : Stand; END_VAR`;
  const places = (dialect: object): string[] => {
    const work = new DraftWork(new TextEncoder().encode(program), { driver: 'modbus-tcp', dialect: { locations: 'words', ...dialect } }, []);
    const read = work.read({}, () => undefined);
    if (!read.ok) throw new Error(read.problem.message);
    const { rows } = work.rows('all', 0, 10);
    return rows.flatMap((row) => (row.kind === 'row' && row.row.tag ? `${row.row.tag.canonical} ${row.row.tag.type}` : []));
  };
  // Places by hand: a BYTE, a REAL and a text of six characters from word 100.
  test.each([
    [{ structures: 'words' }, ['HR100 BYTE', 'HR101 REAL', 'HR103 STRING(6)', 'HR106 INT']],
    [{ structures: 'even' }, ['HR100 BYTE', 'HR101 REAL', 'HR103 STRING(6)', 'HR107 INT']],
    [{ structures: 'aligned' }, ['HR100 BYTE', 'HR102 REAL', 'HR104 STRING(6)', 'HR108 INT']],
    [{ structures: 'aligned', textLayout: 'length-word' }, ['HR100 BYTE', 'HR102 REAL', 'HR104 STRING(6) length-word', 'HR108 INT']],
    // Two bytes of length and six of text are eight, a text that ends with a zero is seven.
    [{ structures: 'words', textLayout: 'capacity-length' }, ['HR100 BYTE', 'HR101 REAL', 'HR103 STRING(6) capacity-length', 'HR107 INT']],
    [{ structures: 'aligned', textLayout: 'zero-ended' }, ['HR100 BYTE', 'HR102 REAL', 'HR104 STRING(6)', 'HR108 INT']],
  ])('is taken from the device: %j', (dialect, expected) => {
    expect(places(dialect)).toEqual(expected);
  });
});

test('every setting has its test here', () => {
  const tested = [
    'countingBase',
    'memoryName',
    'memoryStart',
    'locations',
    'bitFrom',
    'bitBase',
    'order16',
    'order32',
    'order64',
    'orderText',
    'structures',
    'textLayout',
    'wide',
    'singleWrites',
  ];
  const more = [
    'bitWrites',
    'maxRegisters',
    'maxBits',
    'maxWritten',
    'maxGap',
    'timeoutMs',
    'readRetries',
    'pauseMs',
    'depth',
    'strictUnit',
    'listFile',
  ];
  expect(Object.keys(DIALECT.properties).sort()).toEqual([...tested, ...more].sort());
});

describe('where a value lies', () => {
  test('countingBase: 40018 is register 17 of the PDU counted from 1, 18 counted from 0', async () => {
    const one = await bench({ countingBase: 1 }, { 17: 170 });
    expect(await read(one, ['40018', 'INT'])).toEqual(['170']);
    expect(one.asked).toEqual(['0300110001']);
    const zero = await bench({ countingBase: 0 }, { 18: 180 });
    expect(await read(zero, ['40018', 'INT'])).toEqual(['180']);
    expect(zero.asked).toEqual(['0300120001']);
  });
  test('memoryName and memoryStart: %MW12 is the register that its program means', async () => {
    const at = await bench({ memoryName: '%MW', memoryStart: 100 }, { 112: 0x0808 });
    expect(await read(at, ['%MW12', 'INT'], ['%mw12.3', 'BOOL'])).toEqual(['2056', 'on']);
    expect(at.asked).toEqual(['0300700001']);
  });
  test('locations: %MD8 is the registers that its counting makes of it', async () => {
    for (const [locations, register] of [
      ['own', 16],
      ['bytes', 4],
      ['words', 8],
    ] as const) {
      const at = await bench({ locations }, { [register]: 0x0001, [register + 1]: 0x0002 });
      expect(await read(at, ['%MD8', 'UDINT'])).toEqual(['65538']);
      expect(at.asked).toEqual([`0300${register.toString(16).padStart(2, '0')}0002`]);
    }
  });
  test('listFile: the file that is asked for the tag list of the device', async () => {
    const at = await bench({ listFile: 3 }, {});
    expect((await at.session.device({ unit: 1 }, at.dialect).browse?.('', context()))?.ok).toBe(false);
    expect(at.asked).toEqual(['14070600030000007c']);
  });
  test('bitFrom and bitBase: bit 1 of 16 counted from the most significant is 8000h', async () => {
    const from = (dialect: Record<string, unknown>, bit: number) => bench(dialect, { 5: 0x8002 }).then((at) => read(at, [`HR5.${bit}`, 'BOOL']));
    expect(await from({}, 1)).toEqual(['on']);
    expect(await from({}, 15)).toEqual(['on']);
    expect(await from({ bitBase: 1 }, 2)).toEqual(['on']);
    expect(await from({ bitBase: 1, bitFrom: 'most' }, 1)).toEqual(['on']);
    expect(await from({ bitBase: 1, bitFrom: 'most' }, 15)).toEqual(['on']);
    expect(await from({ bitFrom: 'most' }, 1)).toEqual(['off']);
    expect(() => signal({ bitBase: 1 }, 'HR5.0', 'BOOL')).toThrow('1 to 16');
  });
  test('wide: where a 32-bit value takes one address, four bytes come for it', async () => {
    const at = await bench({ wide: 'one' }, { 7: 123_456, 8: -2 });
    expect(await read(at, ['HR7', 'DINT'], ['HR8', 'DINT'])).toEqual(['123456', '-2']);
    expect(at.asked).toEqual(['0300070002']);
    expect(await write(at, 'HR7', 'DINT', 99)).toBeNull();
    expect(at.asked[1]).toBe('10000700010400000063');
  });
});

describe('what the bytes mean', () => {
  // The same bytes in every order; the plain one is IEEE 754 (123456.0 is 47F12000h).
  test('order16, order32, order64 and orderText are used where a tag names none', async () => {
    const at = await bench(
      { order16: 'BA', order32: 'CDAB', order64: 'HGFEDCBA', orderText: 'BA' },
      { 0: 0x0100, 1: 0x2000, 2: 0x47f1, 3: 0x0200, 4: 0, 5: 0, 6: 0, 7: 0x424f, 8: 0x5441 },
    );
    expect(await read(at, ['HR0', 'INT'], ['HR1', 'REAL'], ['HR3', 'LINT'], ['HR7', 'STRING(4)'], ['HR0.0', 'BOOL'])).toEqual([
      '1',
      '123456',
      '2',
      'OBAT',
      'on',
    ]);
    const plain = await bench({}, { 0: 0x0100, 7: 0x4f42, 8: 0x4154 });
    expect(await read(plain, ['HR0', 'INT'], ['HR7', 'STRING(4)'])).toEqual(['256', 'OBAT']);
  });
});

describe('how it is asked', () => {
  const span = Object.fromEntries(Array.from({ length: 20 }, (_, i) => [i, i]));
  const all = Array.from({ length: 10 }, (_, i) => [`HR${2 * i}`, 'INT'] as const);

  test('maxRegisters: no request asks for more', async () => {
    const at = await bench({ maxRegisters: 4 }, span);
    await read(at, ['HR0', 'LINT'], ['HR4', 'LINT']);
    expect(at.asked).toEqual(['0300000004', '0300040004']);
  });
  test('maxBits: no request asks for more', async () => {
    const at = await bench({ maxBits: 8 }, {});
    at.server.onRequest = ({ pdu, answer }) => {
      at.asked.push(pdu.toString('hex'));
      answer([1, 1, 0xff]);
    };
    await read(at, ...Array.from({ length: 12 }, (_, i) => [`CO${i}`, 'BOOL'] as const));
    expect(at.asked).toEqual(['0100000004', '0100040008']);
  });
  test('maxGap: unused registers are read across, and no more once that was refused', async () => {
    const none = await bench({}, span);
    await read(none, ...all);
    expect(none.asked).toHaveLength(10);
    const across = await bench({ maxGap: 1 }, span);
    expect(await read(across, ...all)).toEqual(all.map((_, i) => String(2 * i)));
    expect(across.asked).toEqual(['0300000013']);
    const holes = await bench({ maxGap: 1 }, { 0: 7, 2: 9 });
    const group = holes.session.device({ unit: 1 }, holes.dialect).prepare(
      ['HR0', 'HR2'].map((address) => {
        const s = signal(holes.dialect, address, 'INT');
        return { key: address, canonical: s.canonical, type: s.def.type };
      }),
    );
    for (let i = 0; i < 2; i++) {
      const good: string[] = [];
      await group.read((key, arrival) => 'wire' in arrival && good.push(key), context());
      expect(good).toEqual(['HR0', 'HR2']);
    }
    expect(holes.asked).toEqual(['0300000003', '0300000001', '0300020001', '0300000001', '0300020001']);
  });
  test('depth: so many requests wait for their replies at once', async () => {
    for (const [depth, expected] of [
      [1, 1],
      [4, 4],
    ] as const) {
      const at = await bench({ depth }, {});
      let [waiting, most] = [0, 0];
      at.server.onRequest = ({ pdu, answer }) => {
        most = Math.max(most, ++waiting);
        setTimeout(() => {
          waiting--;
          const count = pdu.readUInt16BE(3);
          answer([3, 2 * count, ...Array.from({ length: 2 * count }, (_, i) => (i === 1 ? (pdu[2] ?? 0) : 0))]);
        }, 30);
      };
      await read(at, ...all);
      expect(most).toBe(expected);
    }
  });
  test('pauseMs: the device has its rest after every reply', async () => {
    const at = await bench({ pauseMs: 40 }, span);
    const times: number[] = [];
    const answering = at.server.onRequest;
    at.server.onRequest = (asked) => {
      times.push(performance.now());
      answering(asked);
    };
    await read(at, ...all.slice(0, 4));
    expect(Math.min(...times.slice(1).map((t, i) => t - (times[i] ?? 0)))).toBeGreaterThan(38);
  });
  test('timeoutMs and readRetries: so long, and so often', async () => {
    const at = await bench({ timeoutMs: 300, readRetries: 2 }, {});
    const times: number[] = [];
    at.server.onRequest = () => void times.push(performance.now());
    expect(await read(at, ['HR0', 'INT'])).toEqual(['timeout']);
    expect(times).toHaveLength(3);
    // When they arrived, on a machine that does other things too.
    expect((times[1] ?? 0) - (times[0] ?? 0)).toBeGreaterThan(270);
  });
  test('strictUnit: a reply under another number is refused, or taken', async () => {
    for (const [strictUnit, expected] of [
      ['strict', 'malformed'],
      ['any', '5'],
    ] as const) {
      const at = await bench({ strictUnit }, {});
      at.server.onRequest = ({ answer }) => answer([3, 2, 0, 5], { unit: 255 });
      expect(await read(at, ['HR0', 'INT'])).toEqual([expected]);
    }
  });
});

describe('how it is written', () => {
  test('singleWrites: one register or coil by functions 6 and 5, or by 16 and 15', async () => {
    const single = await bench({}, { 3: 0 });
    await write(single, 'HR3', 'INT', 258);
    await write(single, 'CO2', 'BOOL', true);
    expect(single.asked).toEqual(['0600030102', '050002ff00']);
    const multiple = await bench({ singleWrites: 'multiple' }, { 3: 0 });
    await write(multiple, 'HR3', 'INT', 258);
    await write(multiple, 'CO2', 'BOOL', true);
    expect(multiple.asked).toEqual(['1000030001020102', '0f000200010101']);
  });
  test('bitWrites: by masks, by reading and writing back, or not at all; the other bits stay', async () => {
    const mask = await bench({ bitWrites: 'mask' }, { 4: 0x00f1 });
    expect(await write(mask, 'HR4.2', 'BOOL', true)).toBeNull();
    expect(await write(mask, 'HR4.0', 'BOOL', false)).toBeNull();
    expect(mask.asked).toEqual(['160004fffb0004', '160004fffe0000']);
    expect(mask.registers.get(4)).toBe(0x00f4);
    const back = await bench({ bitWrites: 'readModifyWrite' }, { 4: 0x00f1 });
    expect(await write(back, 'HR4.2', 'BOOL', true)).toBeNull();
    expect(back.asked).toEqual(['0300040001', '06000400f5']);
    const refused = await bench({}, { 4: 0x00f1 });
    expect(await write(refused, 'HR4.2', 'BOOL', true)).toMatchObject({ kind: 'settings' });
    expect(refused.asked).toEqual([]);
    expect([signal({ bitWrites: 'mask' }, 'HR4.2', 'BOOL').writable, signal({}, 'HR4.2', 'BOOL').writable]).toEqual([true, false]);
  });
  test('a text of one character fills its register and can be written; a byte cannot', async () => {
    const at = await bench({}, { 3: 0x4142 });
    expect([signal({}, 'HR3', 'STRING(1)').writable, signal({}, 'HR3', 'USINT').writable]).toEqual([true, false]);
    expect(await read(at, ['HR3', 'STRING(1)'])).toEqual(['A']);
    expect(await write(at, 'HR3', 'STRING(1)', 'Q')).toBeNull();
    expect([at.registers.get(3), await read(at, ['HR3', 'STRING(1)'])]).toEqual([0x5100, ['Q']]);
  });
  test('maxWritten: a value that is longer is refused, never split', async () => {
    const at = await bench({ maxWritten: 2 }, {});
    expect(await write(at, 'HR0', 'REAL', 1)).toBeNull();
    expect(await write(at, 'HR0', 'LREAL', 1)).toMatchObject({ kind: 'settings', problem: { code: 'not-writable' } });
    expect(at.asked).toEqual(['100000000204' + '3f800000']);
  });
});

describe('datagrams', () => {
  test('a lost datagram costs one retry of a read, and a damaged one only itself', async () => {
    const device = createSocket('udp4');
    await new Promise<void>((resolve) => device.bind(0, '127.0.0.1', resolve));
    closers.push(() => new Promise<void>((resolve) => device.close(() => resolve())));
    let n = 0;
    device.on('message', (frame, from) => {
      n++;
      if (n === 1) return;
      if (n === 2) device.send(Buffer.from('rubbish that is no frame'), from.port, from.address);
      const reply = Buffer.concat([frame.subarray(0, 4), Buffer.from([0, 5, frame[6] ?? 0, 3, 2, 0, 42])]);
      device.send(reply, from.port, from.address);
    });
    const session = modbusUdp.createSession({
      settings: { host: '127.0.0.1', port: device.address().port },
      clock: systemClock,
      onFrame: () => undefined,
      onState: () => undefined,
    });
    closers.push(() => session.close());
    session.start();
    await until('it is open', () => session.state.phase === 'connected');
    const at = { session, dialect: { timeoutMs: 100, readRetries: 1 } } as unknown as Bench;
    expect(await read(at, ['HR0', 'INT'])).toEqual(['42']);
    expect(n).toBe(2);
  });
});
