import { afterEach, describe, expect, test } from '@jest/globals';
import { createRequire } from 'node:module';
import type { Server } from 'node:net';
import { followWire } from '@/core/signal.ts';
import { AS_IS } from '@/core/scaling/scale.ts';
import { parseDataType, type DataType } from '@/core/value/dataType.ts';
import type { Arrival, CallContext, DeviceSession, DriverSession, FrameEvent, PointSpec, TestStage } from '@/drivers/contract.ts';
import { modbusTcp } from '@/drivers/modbus/driver.ts';
import { systemClock } from '@/runtime/clock.ts';
import { FaultyServer, ownAddresses } from '../support/faultyServer.ts';
import { until } from '../support/until.ts';

const require = createRequire(import.meta.url);
const closers: (() => unknown)[] = [];
afterEach(async () => {
  for (const close of closers.splice(0).reverse()) await close();
});

function typeOf(name: string): DataType {
  const parsed = parseDataType(name);
  if (!parsed.ok) throw new Error(parsed.problem.message);
  return parsed.value;
}
function point(canonical: string, type = 'INT'): PointSpec {
  return { key: canonical, canonical, type: typeOf(type) };
}
function context(ms = 5000, signal = new AbortController().signal): CallContext {
  return { signal, deadline: systemClock.now() + ms };
}
async function open(
  port: number,
  dialect: Record<string, unknown> = {},
  unit = 1,
): Promise<{ session: DriverSession; device: DeviceSession; frames: FrameEvent[] }> {
  const frames: FrameEvent[] = [];
  const session = modbusTcp.createSession({
    settings: { host: '127.0.0.1', port },
    clock: systemClock,
    onFrame: (f) => frames.push(f),
    onState: () => undefined,
  });
  closers.push(() => session.close());
  session.start();
  await until('connected', () => session.state.phase === 'connected');
  return { session, device: session.device({ unit }, { timeoutMs: 150, readRetries: 0, ...dialect }), frames };
}
async function faulty(onRequest: FaultyServer['onRequest']): Promise<FaultyServer> {
  const server = await FaultyServer.start();
  server.onRequest = onRequest;
  closers.push(() => server.stop());
  return server;
}
async function readAll(device: DeviceSession, points: PointSpec[]): Promise<Record<string, string>> {
  const seen: Record<string, string> = {};
  await device.prepare(points).read((key, arrival) => (seen[key] = words(arrival)), context());
  return seen;
}
function words(arrival: Arrival): string {
  if ('fault' in arrival) return `${arrival.fault.kind} ${arrival.fault.problem.code}`;
  return arrival.wire.kind === 'bytes' ? Buffer.from(arrival.wire.bytes).toString('hex') : arrival.wire.kind;
}

describe('against a server made with another library', () => {
  test('all four areas are read and both writable ones written', async () => {
    const holding = new Map<number, number>([
      [0, 0x47f1],
      [1, 0x2000],
      [2, 0xfffe],
    ]);
    const coils = new Map<number, boolean>([[0, true]]);
    const { ServerTCP } = require('modbus-serial') as {
      ServerTCP: new (
        vector: object,
        options: object,
      ) => { close(done: () => void): void; on(event: string, call: () => void): void; _server?: Server };
    };
    const port = await freePort();
    const server = new ServerTCP(
      {
        getHoldingRegister: (a: number) => holding.get(a) ?? 0,
        getInputRegister: (a: number) => a + 7,
        getCoil: (a: number) => coils.get(a) ?? false,
        getDiscreteInput: (a: number) => a % 2 === 1,
        setRegister: (a: number, v: number) => void holding.set(a, v),
        setCoil: (a: number, v: boolean) => void coils.set(a, v),
      },
      { host: '127.0.0.1', port, unitID: 1 },
    );
    closers.push(() => new Promise<void>((resolve) => server.close(() => resolve())));
    await new Promise((resolve) => setTimeout(resolve, 100));
    const { device } = await open(port);
    expect(
      await readAll(device, [point('HR0', 'REAL'), point('HR2'), point('IR3'), point('CO0', 'BOOL'), point('CO1', 'BOOL'), point('DI5', 'BOOL')]),
    ).toEqual({ HR0: '47f12000', HR2: 'fffe', IR3: '000a', CO0: '01', CO1: '00', DI5: '01' });
    expect(await device.write(point('HR5'), { raw: 456, bytes: Uint8Array.of(1, 200), mask: null }, context())).toBeNull();
    expect(await device.write(point('HR6', 'DINT'), { raw: 1, bytes: Uint8Array.of(0, 1, 0, 2), mask: null }, context())).toBeNull();
    expect(await device.write(point('CO1', 'BOOL'), { raw: true, bytes: Uint8Array.of(1), mask: null }, context())).toBeNull();
    expect([holding.get(5), holding.get(6), holding.get(7), coils.get(1)]).toEqual([456, 1, 2, true]);
    expect(
      followWire(
        { type: typeOf('REAL'), order: 'ABCD', bit: null, scale: AS_IS, unit: '', decimals: 0, range: null },
        { kind: 'bytes', bytes: Uint8Array.from(Buffer.from('47f12000', 'hex')) },
      ).text,
    ).toBe('123456');
  });
});

describe('replies that must not become values', () => {
  test('a late reply finds nobody, and the next request gets its own answer', async () => {
    let late = true;
    const server = await faulty((asked) => {
      asked.answer(late ? [3, 2, 0xde, 0xad] : ownAddresses(asked.pdu), late ? { delayMs: 250 } : {});
      late = false;
    });
    const { device, frames } = await open(server.port);
    expect(await readAll(device, [point('HR9')])).toEqual({ HR9: 'silent timeout' });
    await new Promise((resolve) => setTimeout(resolve, 60));
    expect(await readAll(device, [point('HR9')])).toEqual({ HR9: '0009' });
    await until('the late reply is traced', () => frames.some((f) => f.note?.startsWith('late')));
  });
  test.each([
    ['another function', [4, 2, 0, 9], 'malformed malformed'],
    ['too few registers', [3, 0], 'malformed malformed'],
    ['a byte count that lies', [3, 4, 0, 9], 'malformed malformed'],
    ['an exception', [0x83, 6], 'refused exception-06'],
    ['a gateway that reaches nobody', [0x83, 0x0b], 'silent exception-0b'],
  ])('%s is told as such', async (_what, pdu, expected) => {
    const server = await faulty((asked) => asked.answer(pdu));
    const { device } = await open(server.port);
    expect(await readAll(device, [point('HR9')])).toEqual({ HR9: expected });
  });
  test('a reply of another unit or another transaction is no answer', async () => {
    const other = await faulty((asked) => asked.answer(ownAddresses(asked.pdu), { unit: 9 }));
    expect(await readAll((await open(other.port)).device, [point('HR9')])).toEqual({ HR9: 'malformed malformed' });
    const wrong = await faulty((asked) => asked.answer(ownAddresses(asked.pdu), { transaction: asked.transaction ^ 0x5555 }));
    const { device, frames } = await open(wrong.port);
    expect(await readAll(device, [point('HR9')])).toEqual({ HR9: 'silent timeout' });
    expect(frames.some((f) => f.note === 'answers no request')).toBe(true);
  });
  test('a peer that speaks something else is dropped and named, and the link goes on trying', async () => {
    const server = await faulty((asked) => asked.raw(Buffer.from('HTTP/1.1 400 Bad Request\r\n\r\n')));
    const { session, device } = await open(server.port);
    expect(await readAll(device, [point('HR9')])).toEqual({ HR9: 'link-down malformed' });
    expect(session.state).toMatchObject({
      phase: 'waiting',
      problem: { message: expect.stringContaining('does not speak Modbus TCP') as unknown as string },
    });
    server.onRequest = (asked) => asked.answer(ownAddresses(asked.pdu));
    await until('connected again', () => session.state.phase === 'connected');
    expect(await readAll(device, [point('HR9')])).toEqual({ HR9: '0009' });
  });
  test('a reply cut into single bytes is put together', async () => {
    const server = await faulty((asked) => {
      const body = Buffer.from(ownAddresses(asked.pdu));
      const frame = Buffer.concat([Buffer.from([asked.transaction >> 8, asked.transaction & 255, 0, 0, 0, body.length + 1, asked.unit]), body]);
      [...frame].forEach((byte, i) => setTimeout(() => asked.raw(Buffer.of(byte)), i * 3));
    });
    expect(await readAll((await open(server.port)).device, [point('HR300', 'DINT')])).toEqual({ HR300: '012c012d' });
  });
});

describe('several requests in flight', () => {
  const points = Array.from({ length: 12 }, (_, i) => point(`HR${i * 10}`));
  const wrong = (seen: Record<string, string>): string[] =>
    Object.entries(seen).flatMap(([key, hex]) => (/^[0-9a-f]{4}$/.test(hex) && parseInt(hex, 16) !== Number(key.slice(2)) ? [`${key}: ${hex}`] : []));
  test.each([
    ['one beyond the right one', (right: number) => right + 1],
    ['one before it', (right: number) => right - 1],
  ])('replies whose number is %s are nobody’s value', async (_what, shift) => {
    const server = await faulty((asked) => setTimeout(() => asked.answer(ownAddresses(asked.pdu), { transaction: shift(asked.transaction) }), 5));
    const { device } = await open(server.port, { depth: 4, timeoutMs: 100 });
    for (let i = 0; i < 3; i++) expect(wrong(await readAll(device, points))).toEqual([]);
  });
  test('a device that answers under the number it saw last is asked for one at a time, with a note', async () => {
    let last = 0;
    const server = await faulty((asked) => {
      last = asked.transaction;
      setTimeout(() => asked.answer(ownAddresses(asked.pdu), { transaction: last }), 10);
    });
    const { device, frames } = await open(server.port, { depth: 4, timeoutMs: 1000 });
    for (let i = 0; i < 3; i++) expect(wrong(await readAll(device, points))).toEqual([]);
    expect(Object.values(await readAll(device, points)).every((hex) => /^[0-9a-f]{4}$/.test(hex))).toBe(true);
    expect(frames.some((f) => f.note?.includes('one at a time'))).toBe(true);
  });
  test('a device that begins to confuse them later is caught by the first reply that does not fit', async () => {
    let isMad = false;
    let last = 0;
    const server = await faulty((asked) => {
      last = asked.transaction;
      setTimeout(() => asked.answer(ownAddresses(asked.pdu), isMad ? { transaction: last } : {}), 10);
    });
    const { device, frames } = await open(server.port, { depth: 4, timeoutMs: 200 });
    const mixed = [...points, point('HR200', 'DINT'), point('HR210', 'LINT'), point('HR230', 'REAL')];
    await readAll(device, mixed);
    isMad = true;
    await readAll(device, mixed);
    expect(frames.some((f) => f.note?.includes('one at a time'))).toBe(true);
    expect(wrong(await readAll(device, points))).toEqual([]);
  });
  test('replies that come byte by byte keep the connection', async () => {
    let queue = Promise.resolve();
    const server = await faulty((asked) => {
      const body = Buffer.from(ownAddresses(asked.pdu));
      const frame = Buffer.concat([Buffer.from([asked.transaction >> 8, asked.transaction & 255, 0, 0, 0, body.length + 1, asked.unit]), body]);
      queue = queue.then(async () => {
        for (const byte of frame) {
          asked.raw(Buffer.of(byte));
          await new Promise((resolve) => setTimeout(resolve, 2));
        }
      });
    });
    const { device, session } = await open(server.port, { depth: 4, timeoutMs: 5000 });
    for (let i = 0; i < 2; i++) {
      const seen = await readAll(device, points.slice(0, 6));
      expect(Object.entries(seen).map(([key, hex]) => [key, parseInt(hex, 16)])).toEqual(Object.keys(seen).map((key) => [key, Number(key.slice(2))]));
    }
    expect(session.state.phase).toBe('connected');
    expect(server.connections).toBe(1);
  });
});

describe('one bad address', () => {
  test('a long text that the device is too busy for is asked for again at once, not ten seconds later', async () => {
    let isBusy = true;
    const server = await faulty((asked) => {
      asked.answer(isBusy ? [0x83, 6] : ownAddresses(asked.pdu));
      isBusy = false;
    });
    const { device } = await open(server.port);
    const group = device.prepare([point('HR0', 'STRING(300)')]);
    const seen: string[] = [];
    for (let i = 0; i < 2; i++) await group.read((_key, arrival) => seen.push(words(arrival).slice(0, 8)), context());
    expect(seen).toEqual(['refused ', '00000001']);
  });
  test('does not cost its neighbours their values, and is remembered', async () => {
    const server = await faulty((asked) => {
      const start = asked.pdu.readUInt16BE(1);
      asked.answer(start <= 37 && 37 < start + asked.pdu.readUInt16BE(3) ? [0x83, 2] : ownAddresses(asked.pdu));
    });
    const { device } = await open(server.port);
    const group = device.prepare(Array.from({ length: 100 }, (_, i) => point(`HR${i}`)));
    for (const round of [1, 2]) {
      const seen: Record<string, string> = {};
      const before = server.requests.length;
      await group.read((key, arrival) => (seen[key] = words(arrival)), context());
      expect(seen.HR37).toBe('refused exception-02');
      expect(Object.values(seen).filter((v) => v.startsWith('refused'))).toHaveLength(1);
      expect([seen.HR36, seen.HR38, Object.keys(seen).length]).toEqual(['0024', '0026', 100]);
      if (round === 2) expect(server.requests.length - before).toBe(2);
    }
  });
  test('a long text is read in pieces and handed over as possibly torn', async () => {
    const server = await faulty((asked) => asked.answer(ownAddresses(asked.pdu)));
    const { device } = await open(server.port);
    const arrivals: Arrival[] = [];
    await device.prepare([point('HR0', 'STRING(300)')]).read((_key, arrival) => arrivals.push(arrival), context());
    expect(arrivals[0]).toMatchObject({ torn: true });
    expect(words(arrivals[0] ?? { fault: { kind: 'silent', problem: { code: '', message: '' } }, at: 0 })).toHaveLength(600);
  });
});

describe('time', () => {
  test('a read is repeated as often as the dialect says, a write never', async () => {
    const server = await faulty(() => undefined);
    const { device } = await open(server.port, { readRetries: 1 });
    expect(await readAll(device, [point('HR0')])).toEqual({ HR0: 'silent timeout' });
    expect(server.requests).toHaveLength(2);
    expect(await device.write(point('HR0'), { raw: 1, bytes: Uint8Array.of(0, 1), mask: null }, context())).toMatchObject({
      kind: 'unknown',
      problem: { message: expect.stringContaining('Unknown whether it was done') as unknown as string },
    });
    await new Promise((resolve) => setTimeout(resolve, 400));
    expect(server.requests.filter((r) => r.pdu[0] === 6)).toHaveLength(1);
  });
  test('a silent device is given up after its first silent request', async () => {
    const server = await faulty(() => undefined);
    const { device } = await open(server.port);
    const begun = Date.now();
    const seen = await readAll(
      device,
      [0, 200, 400, 600].map((a) => point(`HR${a}`)),
    );
    expect(Object.values(seen)).toEqual(Array(4).fill('silent timeout'));
    expect(Date.now() - begun).toBeLessThan(600);
    expect(server.requests).toHaveLength(1);
  });
  test('devices of one link keep their own time-outs: a patient one does not make a quick one wait', async () => {
    const server = await faulty((asked) => asked.unit === 3 && asked.answer([3, 2, 0, 7]));
    const { session } = await open(server.port);
    const timing = async (unit: number, timeoutMs: number): Promise<number> => {
      const device = session.device({ unit }, { timeoutMs, readRetries: 0, depth: 8 });
      const begun = Date.now();
      expect(await readAll(device, [point('HR0')])).toEqual({ HR0: 'silent timeout' });
      return Date.now() - begun;
    };
    const patient = timing(1, 1200);
    const quick = await timing(2, 100);
    expect(quick).toBeLessThan(500);
    expect(await patient).toBeGreaterThan(1000);
    expect(await readAll(session.device({ unit: 3 }, { timeoutMs: 500 }), [point('HR0')])).toEqual({ HR0: '0007' });
  });
  test('a write that was cancelled before it left is not sent, and is not called unknown', async () => {
    const server = await faulty(() => undefined);
    const { device } = await open(server.port, { timeoutMs: 400 });
    // One request is in flight, so the write waits behind it.
    const reading = readAll(device, [point('HR0')]);
    const stop = new AbortController();
    const writing = device.write(point('HR1'), { raw: 1, bytes: Uint8Array.of(0, 1), mask: null }, context(5000, stop.signal));
    stop.abort();
    expect(await writing).toMatchObject({ kind: 'aborted' });
    await reading;
    await new Promise((resolve) => setTimeout(resolve, 100));
    expect(server.requests.filter((r) => r.pdu[0] === 6)).toEqual([]);
  });
  test('no more requests are in flight than the dialect allows', async () => {
    for (const depth of [1, 4]) {
      let open_ = 0;
      let most = 0;
      const server = await faulty((asked) => {
        most = Math.max(most, ++open_);
        setTimeout(() => {
          open_--;
          asked.answer(ownAddresses(asked.pdu));
        }, 15);
      });
      const { device } = await open(server.port, { depth });
      const points = Array.from({ length: 12 }, (_, i) => point(`HR${i * 10}`));
      const seen = await readAll(device, points);
      expect(Object.entries(seen).every(([key, hex]) => parseInt(hex, 16) === Number(key.slice(2)))).toBe(true);
      expect(most).toBe(depth);
    }
  });
  test('a cancelled read and an expired write are not sent', async () => {
    const server = await faulty(() => undefined);
    const { device } = await open(server.port);
    const cancel = new AbortController();
    cancel.abort();
    const seen: string[] = [];
    await device.prepare([point('HR0')]).read((_k, a) => seen.push(words(a)), context(1000, cancel.signal));
    expect(seen).toEqual(['aborted aborted']);
    expect(
      await device.write(point('HR0'), { raw: 1, bytes: Uint8Array.of(0, 1), mask: null }, { ...context(), deadline: systemClock.now() - 1 }),
    ).toMatchObject({ kind: 'aborted', problem: { code: 'expired' } });
    expect(server.requests).toHaveLength(0);
  });
  test('a write does not wait for a reconnect: the link being down, it is refused at once', async () => {
    const server = await faulty((asked) => asked.answer(ownAddresses(asked.pdu)));
    const { session, device } = await open(server.port);
    server.cutAll();
    await until('the cut is seen', () => session.state.phase !== 'connected');
    expect(await device.write(point('HR0'), { raw: 1, bytes: Uint8Array.of(0, 1), mask: null }, context())).toMatchObject({ kind: 'link-down' });
    await until('connected again', () => session.state.phase === 'connected');
    await new Promise((resolve) => setTimeout(resolve, 100));
    expect(server.requests.filter((r) => r.pdu[0] === 6)).toHaveLength(0);
  });
  test('the delay between attempts grows', async () => {
    const port = await freePort();
    const states: { phase: string; at: number }[] = [];
    const session = modbusTcp.createSession({
      settings: { host: '127.0.0.1', port },
      clock: systemClock,
      onFrame: () => undefined,
      onState: (s) => states.push({ phase: s.phase, at: s.retryAt ?? 0 }),
    });
    closers.push(() => session.close());
    const begun = systemClock.now();
    session.start();
    await until('three attempts failed', () => states.filter((s) => s.phase === 'waiting').length >= 3);
    const waits = states.filter((s) => s.phase === 'waiting').map((s) => s.at - begun);
    expect((waits[2] ?? 0) - (waits[1] ?? 0)).toBeGreaterThan((waits[1] ?? 0) - (waits[0] ?? 0) + 150);
    expect(session.state.problem?.code).toBe('host-refused');
  });
});

describe('the connection test', () => {
  async function stages(device: DeviceSession, points: PointSpec[] = []): Promise<TestStage[]> {
    const all: TestStage[] = [];
    for await (const stage of device.test(points, context())) all.push(stage);
    return all;
  }
  const short = (all: TestStage[]): string => all.map((s) => `${s.id} ${s.state}`).join(', ');

  test('a healthy device passes all stages', async () => {
    const server = await faulty((asked) => asked.answer(ownAddresses(asked.pdu)));
    const all = await stages((await open(server.port)).device, [point('HR17', 'REAL')]);
    expect(short(all)).toBe('settings passed, host passed, protocol passed, unit passed, area HR passed, identification noted, times passed');
    expect(all[4]?.seen).toBe('HR17–18 holds 00 11 00 12');
    expect(all[6]?.seen).toContain('50 of 50 reads answered');
  });
  test('a device that knows no identification may still report what it is', async () => {
    const server = await faulty((asked) => asked.answer(asked.pdu[0] === 17 ? [17, 9, 4, 0xff, ...Buffer.from('OAT 200')] : ownAddresses(asked.pdu)));
    const all = await stages((await open(server.port)).device);
    expect(all.find((s) => s.id === 'identification')).toMatchObject({ state: 'passed', seen: 'it reports “OAT 200”' });
  });
  test('an exception proves the protocol and fails the register, with what to try', async () => {
    const server = await faulty((asked) => asked.answer([0x83, 2]));
    const all = await stages((await open(server.port)).device, [point('HR17', 'REAL')]);
    expect(short(all)).toContain('protocol passed, unit passed, area HR failed');
    expect(all[4]?.causes?.map((c) => c.id)).toEqual(['address', 'base', 'area']);
  });
  test('a port that answers and a protocol that does not are told apart', async () => {
    const server = await faulty(() => undefined);
    const all = await stages((await open(server.port)).device);
    expect(short(all)).toBe('settings passed, host passed, protocol failed, unit skipped, identification skipped, times skipped');
    expect(all[2]?.causes?.map((c) => c.id)).toEqual(['firewall', 'unit', 'service', 'serial']);
  });
  test('a port where nothing listens fails at the host', async () => {
    const port = await freePort();
    const session = modbusTcp.createSession({
      settings: { host: '127.0.0.1', port },
      clock: systemClock,
      onFrame: () => undefined,
      onState: () => undefined,
    });
    closers.push(() => session.close());
    session.start();
    const all = await stages(session.device({ unit: 1 }, {}));
    expect(short(all)).toBe('settings passed, host failed, protocol skipped, unit skipped, identification skipped, times skipped');
    expect(all[1]?.seen).toContain('nothing listens');
  });
});

async function freePort(): Promise<number> {
  const server = await FaultyServer.start();
  const { port } = server;
  await server.stop();
  return port;
}
