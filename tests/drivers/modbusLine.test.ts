import { describe, expect, test } from '@jest/globals';
import { createRequire } from 'node:module';
import type { DeviceSession } from '@/drivers/contract.ts';
import { modbusSerial } from '@/drivers/modbus/driver.ts';
import { systemClock } from '@/runtime/clock.ts';
import { rtu } from '../support/faultyLine.ts';
import { ownAddresses } from '../support/faultyServer.ts';
import { openPseudoTerminals } from '../support/pseudoTerminals.ts';
import { startStandin } from '../support/standin.ts';
import { until } from '../support/until.ts';
import { closers, context, line, oddities, open, point, read, pseudoLine } from '../support/openLine.ts';

const require = createRequire(import.meta.url);

describe('RTU frames through a gateway', () => {
  test('values come, several at once', async () => {
    const at = await line((asked) => asked.answer(ownAddresses(asked.pdu)));
    expect(await read(at.device(), point('HR17', 'DINT'), point('HR2'))).toEqual(['0002', '00110012']);
    expect(at.asked.map((a) => a.frame.toString('hex'))).toContain(rtu(1, [3, 0, 17, 0, 2]).toString('hex'));
  });
  test('a reply cut in two is one reply', async () => {
    const at = await line((asked) => {
      const whole = rtu(1, ownAddresses(asked.pdu));
      asked.raw(whole.subarray(0, 4));
      setTimeout(() => asked.raw(whole.subarray(4)), 60);
    });
    expect(await read(at.device(), point('HR7'))).toEqual(['0007']);
  });
  test('noise before a frame and a frame for another unit cost nothing', async () => {
    const at = await line((asked) => asked.raw(Buffer.concat([Buffer.from([0, 0xff, 3]), rtu(9, [3, 2, 9, 9]), rtu(1, ownAddresses(asked.pdu))])));
    expect(await read(at.device(), point('HR7'))).toEqual(['0007']);
    expect(oddities(at.frames)).toEqual(['noise', 'stranger']);
  });
  test('a damaged reply is bad at once, not at the time-out', async () => {
    const at = await line((asked) => {
      const whole = rtu(1, ownAddresses(asked.pdu));
      whole[4] = (whole[4] ?? 0) ^ 4;
      asked.raw(whole);
    });
    const begun = systemClock.now();
    expect(await read(at.device(1, { timeoutMs: 2000 }), point('HR7'))).toEqual(['malformed malformed']);
    expect(systemClock.now() - begun).toBeLessThan(1000);
    expect(oddities(at.frames)).toEqual(['checksum']);
  });
  test('an adapter that echoes is seen, and its echo is never a value nor a confirmation', async () => {
    let held = 5;
    const at = await line((asked) => {
      if (asked.pdu[0] === 3) return asked.answer([3, 2, 0, held]);
      if (asked.pdu[0] === 8) return asked.answer([0x88, 1]);
      if (asked.pdu[0] === 6 && held < 7) {
        held++;
        asked.answer(asked.pdu);
      }
    });
    at.echoes = true;
    const device = at.device();
    const write = (value: number) => device.write(point('HR1'), { raw: value, bytes: Uint8Array.of(0, value), mask: null }, context());
    expect(await write(6)).toBeNull();
    expect(await write(7)).toBeNull();
    // Now the device says nothing, and only the echo comes: nobody knows, and it is not called done.
    expect(await write(8)).toMatchObject({ kind: 'unknown' });
    expect(await read(device, point('HR1'))).toEqual(['0007']);
    expect(oddities(at.frames)).toContain('echo');
  });
  test('a late reply never becomes the value of the next request, however late it is', async () => {
    let late: Buffer | null = null;
    const at = await line((asked) => {
      const reply = rtu(1, ownAddresses(asked.pdu));
      // The first comes after the next request has been sent, and before that one is answered: a line answers in turn.
      if (at.asked.length === 1) late = reply;
      else asked.raw(Buffer.concat([late ?? Buffer.alloc(0), reply]));
      if (at.asked.length > 1) late = null;
    });
    const device = at.device();
    expect(await read(device, point('HR7'))).toEqual(['silent timeout']);
    expect(await read(device, point('HR8'))).toEqual(['0008']);
    expect(await read(device, point('HR9'))).toEqual(['0009']);
    expect(oddities(at.frames)).toEqual(['late']);
    expect(at.asked.map((a) => [a.pdu[0], a.pdu.readUInt16BE(3)])).toEqual([
      [3, 1],
      [3, 2],
      [3, 1],
      [3, 1],
    ]);
  });
  test('a reply that comes twice never becomes the value of another request', async () => {
    const at = await line((asked) => {
      asked.answer(ownAddresses(asked.pdu));
      asked.answer(ownAddresses(asked.pdu), { delayMs: 12 });
    });
    const device = at.device();
    for (let i = 0; i < 20; i++) {
      expect(await read(device, point('HR7'), point('HR20'), point('HR30'))).toEqual(['0007', '0014', '001e']);
      await new Promise((r) => setTimeout(r, i));
    }
    expect(at.frames.some((f) => f.note?.includes('come before'))).toBe(true);
  });
  test('a reply that comes late while another unit is asked is late, and no stranger; a unit that nobody asked is one', async () => {
    const at = await line(({ unit, pdu, answer, raw }) => {
      answer(ownAddresses(pdu), { delayMs: unit === 2 ? 300 : 200 });
      if (unit === 1) setTimeout(() => raw(rtu(3, ownAddresses(pdu))), 150);
    });
    expect(await read(at.device(2), point('HR7'))).toEqual(['silent timeout']);
    expect(await read(at.device(1, { timeoutMs: 1000 }), point('HR20'))).toEqual(['0014']);
    expect(oddities(at.frames)).toEqual(['late', 'stranger']);
  });
  test('a reply that comes again while one of another length is awaited does not end the waiting', async () => {
    const at = await line((asked) => {
      const isFirst = at.asked.length === 1;
      asked.answer(ownAddresses(asked.pdu), { delayMs: isFirst ? 0 : 90 });
      if (isFirst) asked.answer(ownAddresses(asked.pdu), { delayMs: 50 });
    });
    const device = at.device(1, { timeoutMs: 1000 });
    expect(await read(device, point('HR7'))).toEqual(['0007']);
    expect(await read(device, point('HR20', 'DINT'))).toEqual(['00140015']);
    expect(oddities(at.frames)).toEqual(['again']);
  });
  test.each([
    ['any number of them', 125],
    ['only one at a time', 1],
  ])('two places that hold the same are asked for again once, and then believed, by a device that gives %s', async (_name, most) => {
    const at = await line((asked) => {
      const count = asked.pdu.readUInt16BE(3);
      if (asked.pdu[0] === 3) asked.answer(count > most ? [0x83, 3] : [3, 2 * count, ...Array.from({ length: 2 * count }, () => 0)]);
      else if (asked.pdu[0] === 4) asked.answer([0x84, 1]);
    });
    const device = at.device();
    for (let i = 0; i < 5; i++) expect(await read(device, point('HR7'), point('HR20'))).toEqual(['0000', '0000']);
    expect(at.asked.filter((a) => a.pdu.readUInt16BE(3) === 1 && a.pdu[0] === 3).length).toBeLessThanOrEqual(12);
  });
  test('after a time-out a unit is asked for nothing but reads, and read on at once', async () => {
    let silent = true;
    const at = await line((asked) => {
      if (silent) silent = false;
      else if (asked.pdu[0] === 3) asked.answer(ownAddresses(asked.pdu));
    });
    const device = at.device();
    expect(await read(device, point('HR7'))).toEqual(['silent timeout']);
    expect(await read(device, point('HR8'))).toEqual(['0008']);
    expect(new Set(at.asked.map((a) => a.pdu[0]))).toEqual(new Set([3]));
  });
  test('a late exception is not taken for the answer to the question that clears the line', async () => {
    let late = false;
    const at = await line((asked) => {
      if (at.asked.length === 1) late = true;
      else if (late) {
        late = false;
        // The refusal of the first comes before the answer to the second, which follows it in its turn.
        asked.raw(Buffer.concat([rtu(1, [0x83, 4])]));
        setTimeout(() => asked.raw(rtu(1, ownAddresses(asked.pdu))), 20);
      } else asked.answer(asked.pdu[0] === 3 ? ownAddresses(asked.pdu) : [(asked.pdu[0] ?? 0) | 0x80, 1], { delayMs: 30 });
    });
    const device = at.device(1, { timeoutMs: 200 });
    expect(await read(device, point('HR7'))).toEqual(['silent timeout']);
    const seen = [await read(device, point('HR8')), await read(device, point('HR9')), await read(device, point('HR10'))].flat();
    expect(seen.filter((v, i) => v !== `000${(8 + i).toString(16)}` && !v.startsWith('malformed') && !v.startsWith('silent'))).toEqual([]);
  });
  test('a write goes before the reads that wait, and is sent to a unit that owes a reply', async () => {
    let isDumb = false;
    const at = await line((asked) => {
      if (asked.pdu[0] === 6) return asked.answer(asked.pdu);
      if (!isDumb) asked.answer(ownAddresses(asked.pdu), { delayMs: 15 });
    });
    const device = at.device(1, { timeoutMs: 80 });
    await read(device, point('HR1'));
    const write = () => device.write(point('HR40'), { raw: 0, bytes: Uint8Array.of(0, 0), mask: null }, context());
    const reading = Promise.all([2, 4, 6].map((n) => read(at.device(n, { timeoutMs: 80 }), point('HR7'))));
    expect(await write()).toBeNull();
    await reading;
    const writes = at.asked.map((a) => a.pdu[0]);
    expect(writes.indexOf(6)).toBeLessThan(writes.lastIndexOf(3));
    isDumb = true;
    expect(await read(device, point('HR9'))).toEqual(['silent timeout']);
    expect(await write()).toBeNull();
  });
  test('all units are written to only with a permission of its own; nobody answers, and none is waited for', async () => {
    const at = await line(() => undefined);
    const everyone = (broadcast: string): DeviceSession => at.session.device({ unit: 0, broadcast }, { timeoutMs: 120 });
    const write = (broadcast: string) => everyone(broadcast).write(point('HR1'), { raw: 1, bytes: Uint8Array.of(0, 1), mask: null }, context());
    expect(await write('refused')).toMatchObject({ kind: 'settings' });
    expect(at.asked).toHaveLength(0);
    expect(await write('allowed')).toBeNull();
    expect(at.asked.map((a) => a.unit)).toEqual([0]);
    expect(await read(everyone('allowed'), point('HR1'))).toEqual(['settings broadcast']);
  });
  test('a dead unit is left in peace while others are read, and comes back by itself', async () => {
    let isDead = true;
    const at = await line((asked) => {
      if (asked.unit !== 4 || !isDead) asked.answer(asked.pdu[0] === 8 ? asked.pdu : ownAddresses(asked.pdu));
    });
    const [good, dead] = [at.device(3), at.device(4)];
    const end = systemClock.now() + 2000;
    let reads = 0;
    const reading = (async () => {
      while (systemClock.now() < end) {
        expect(await read(good, point('HR7'))).toEqual(['0007']);
        reads++;
        await new Promise((r) => setTimeout(r, 5));
      }
    })();
    while (systemClock.now() < end) {
      expect((await read(dead, point('HR7')))[0]).toMatch(/^silent (timeout|resting)$/);
      await new Promise((r) => setTimeout(r, 5));
    }
    await reading;
    const waited = at.asked.filter((a) => a.unit === 4).length * 220;
    expect(waited).toBeLessThan(660);
    isDead = false;
    await until('it is asked again', async () => (await read(dead, point('HR7')))[0] === '0007' || (await read(good, point('HR7'))).length === 0);
    expect(reads).toBeGreaterThan(20);
  });
  test('a connection that is cut comes back, and nothing waits over it', async () => {
    const at = await line((asked) => {
      if (asked.pdu[0] === 3) at.cutAll();
      else asked.answer(asked.pdu);
    });
    expect(await read(at.device(), point('HR7'))).toEqual(['link-down closed-by-peer']);
    at.onAsked = (asked) => asked.answer(asked.pdu[0] === 8 ? asked.pdu : ownAddresses(asked.pdu));
    await until('connected again', () => at.session.state.phase === 'connected');
    expect(await read(at.device(), point('HR7'))).toEqual(['0007']);
  });
});

describe('a serial port', () => {
  test('values come, in RTU and in ASCII', async () => {
    const settings = await pseudoLine((bytes, send) => {
      if (bytes[0] !== 0x3a) return send(rtu(1, ownAddresses(bytes.subarray(1, -2))));
      const pdu = Buffer.from(bytes.toString('latin1').slice(3, -4), 'hex');
      const body = Buffer.from([1, ...ownAddresses(pdu)]);
      const lrc = -body.reduce((sum, b) => sum + b, 0) & 0xff;
      send(
        Buffer.from(
          `:${Buffer.from([...body, lrc])
            .toString('hex')
            .toUpperCase()}\r\n`,
          'latin1',
        ),
      );
    });
    const rtuLine = await open(modbusSerial, settings);
    expect(await read(rtuLine.device(), point('HR17', 'REAL'), point('IR3'))).toEqual(['00110012', '0003']);
    rtuLine.session.close();
    await new Promise((r) => setTimeout(r, 100));
    const asciiLine = await open(modbusSerial, { ...settings, form: 'ascii', dataBits: 7 });
    expect(await read(asciiLine.device(), point('HR17', 'REAL'))).toEqual(['00110012']);
  });
  test('the silence of the line is kept before every request', async () => {
    const settings = await pseudoLine((bytes, send) => send(rtu(1, ownAddresses(bytes.subarray(1, -2)))));
    const at = await open(modbusSerial, { ...settings, speed: 9600 });
    const device = at.device();
    await read(device, ...Array.from({ length: 20 }, (_, i) => point(`HR${i * 3}`)));
    const gaps = at.frames.flatMap((f, i) => {
      const before = at.frames[i - 1];
      return f.direction === 'sent' && before ? [f.at - before.at] : [];
    });
    expect(gaps).toHaveLength(19);
    // 3.5 characters of 11 bits at 9600 bit/s (Modbus over Serial Line V1.02, 2.5.1.1).
    expect(Math.min(...gaps)).toBeGreaterThanOrEqual(4.01);
  });
  test('modbus-serial answers as a slave', async () => {
    const pair = await openPseudoTerminals();
    closers.push(() => pair.close());
    const ModbusRTU = require('modbus-serial') as {
      ServerSerial: new (vector: object, options: object) => { close(done: () => void): void; on(event: string, call: () => void): void };
    };
    const held = new Map([[5, 1234]]);
    const slave = new ModbusRTU.ServerSerial(
      {
        getHoldingRegister: (address: number) => held.get(address) ?? address,
        setRegister: (address: number, value: number) => held.set(address, value),
      },
      { path: pair.far, port: pair.far, baudRate: 9600, unitID: 1 },
    );
    closers.push(() => new Promise<void>((resolve) => slave.close(() => resolve())));
    await new Promise<void>((resolve) => slave.on('initialized', () => resolve()));
    const at = await open(modbusSerial, { path: pair.near, speed: 9600 });
    const device = at.device(1, { timeoutMs: 800 });
    expect(await read(device, point('HR5'), point('HR100', 'DINT'))).toEqual(['04d2', '00640065']);
    expect(await device.write(point('HR5'), { raw: 77, bytes: Uint8Array.of(0, 77), mask: null }, context())).toBeNull();
    expect(held.get(5)).toBe(77);
  });
  test('modbus-serial asks the simulated stands as a master', async () => {
    const pair = await openPseudoTerminals();
    closers.push(() => pair.close());
    const rolls = await startStandin('rolls', ['--serial', pair.far]);
    closers.push(() => rolls.stop());
    await rolls.hold(true);
    const Master = require('modbus-serial') as new () => {
      connectRTUBuffered(path: string, options: object): Promise<void>;
      setID(unit: number): void;
      readHoldingRegisters(start: number, count: number): Promise<{ data: number[] }>;
      close(done: () => void): void;
    };
    const master = new Master();
    await master.connectRTUBuffered(pair.near, { baudRate: 19200, parity: 'even' });
    closers.push(() => new Promise<void>((resolve) => master.close(() => resolve())));
    master.setID(3);
    const { data } = await master.readHoldingRegisters(0, 15);
    expect(data[1]).toBe(Math.round(Number(await rolls.value('s3_gap')) * 1000));
    expect((data[12] ?? 0) * 65536 + (data[11] ?? 0)).toBe(await rolls.value('s3_run_time'));
  });
  test('a port that vanishes is told, and comes back by itself', async () => {
    const pair = await openPseudoTerminals();
    const at = await open(modbusSerial, { path: pair.near });
    await pair.close();
    await until('it is lost', () => at.session.state.phase !== 'connected', 8000);
    expect(['port-gone', 'port', 'port-missing']).toContain(at.session.state.problem?.code);
    const again = await openPseudoTerminals(pair.near);
    closers.push(() => again.close());
    await until('it is back', () => at.session.state.phase === 'connected', 8000);
  });
  test('a port that is not there, and one that another link holds', async () => {
    const missing = modbusSerial.createSession({
      settings: { path: '/dev/tty-nowhere' },
      clock: systemClock,
      onFrame: () => undefined,
      onState: () => undefined,
    });
    closers.push(() => missing.close());
    missing.start();
    await until('it fails', () => missing.state.problem !== null);
    expect(missing.state.problem?.code).toBe('port-missing');
    const pair = await openPseudoTerminals();
    closers.push(() => pair.close());
    await open(modbusSerial, { path: pair.near });
    const second = modbusSerial.createSession({
      settings: { path: pair.near },
      clock: systemClock,
      onFrame: () => undefined,
      onState: () => undefined,
    });
    closers.push(() => second.close());
    second.start();
    await until('it fails', () => second.state.problem !== null);
    expect(second.state.problem?.code).toBe('port-in-use');
  });
});
