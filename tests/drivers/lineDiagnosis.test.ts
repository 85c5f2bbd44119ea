import { describe, expect, test } from '@jest/globals';
import type { TestStage } from '@/drivers/contract.ts';
import { modbusGateway, modbusSerial } from '@/drivers/modbus/driver.ts';
import { FaultyLine, rtu } from '../support/faultyLine.ts';
import { ownAddresses } from '../support/faultyServer.ts';
import { closers, context, line, open, type Opened, point, read, pseudoLine } from '../support/openLine.ts';

describe('what the test of a connection finds on a line', () => {
  async function test1(
    at: Opened,
    points = [point('HR7')],
    dialect: Record<string, unknown> = {},
  ): Promise<{ last: TestStage; causes: string[]; states: string }> {
    const stages: TestStage[] = [];
    for await (const stage of at.device(1, dialect).test(points, context())) stages.push(stage);
    const last = stages.find((s) => s.state === 'failed') ?? stages.findLast((s) => s.causes) ?? stages.at(-1);
    if (!last) throw new Error('no stage');
    return { last, causes: last.causes?.map((c) => c.id) ?? [], states: stages.map((s) => `${s.id} ${s.state}`).join(', ') };
  }
  const good = (asked: { pdu: Buffer; answer: (pdu: number[]) => void }): void => asked.answer(ownAddresses(asked.pdu));

  test('a healthy line is called healthy', async () => {
    const { states } = await test1(await line(good));
    expect(states).toBe('settings passed, host passed, protocol passed, unit passed, area HR passed, identification noted, times passed');
  });
  test('silence: what looks alike is named together, the unit last where nothing answers at all', async () => {
    const { causes, states } = await test1(await line(() => undefined));
    expect(states).toContain('protocol failed');
    expect(causes).toEqual(['speed', 'parity', 'wiring', 'unit', 'power']);
  });
  test('silence of one unit among others: its number first', async () => {
    const at = await line((asked) => (asked.unit === 2 ? good(asked) : undefined));
    const other = at.device(2);
    const stop = setInterval(() => void read(other, point('HR1')), 30);
    const { causes, states } = await test1(at);
    clearInterval(stop);
    expect(states).toContain('protocol passed, unit failed');
    expect(causes[0]).toBe('unit');
  });
  test('bytes that are no frame: speed, parity and wires look alike', async () => {
    const { causes } = await test1(await line((asked) => asked.raw(Buffer.from('f8007ef880', 'hex'))));
    expect(causes).toEqual(['speed', 'parity', 'wiring', 'form']);
  });
  test('frames with a wrong check sum only: two devices at once, or a disturbed line', async () => {
    const { causes, last } = await test1(
      await line((asked) => {
        const whole = rtu(1, ownAddresses(asked.pdu));
        whole[3] = (whole[3] ?? 0) ^ 0x40;
        asked.raw(whole);
      }),
    );
    expect(causes).toEqual(['two-devices', 'noise']);
    expect(last.meaning).toContain('look alike');
  });
  test('a frame that ends too early', async () => {
    const at = await open(modbusSerial, await pseudoLine((bytes, send) => send(rtu(1, ownAddresses(bytes.subarray(1, -2))).subarray(0, 4))));
    expect((await test1(at)).causes).toEqual(['cut', 'noise']);
  });
  test('a reply that comes later than the time-out, with how late', async () => {
    const { causes, last } = await test1(await line((asked) => asked.answer(ownAddresses(asked.pdu), { delayMs: 250 })));
    expect(causes[0]).toBe('slow');
    expect(last.meaning).toMatch(/after (2[4-9]|[3-9]\d)\d ms/);
  });
  test('an adapter that echoes is noted, and the device is called healthy', async () => {
    const at = await line(good);
    at.echoes = true;
    const { states, causes } = await test1(at);
    expect(states).toContain('unit noted');
    expect(causes).toContain('echo');
  });
  test('an answer under another number', async () => {
    const { causes, last } = await test1(await line((asked) => asked.answer(ownAddresses(asked.pdu), { unit: 17 })));
    expect(causes).toEqual(['stranger']);
    expect(last.meaning).toContain('17');
  });
  test('a gateway that waits longer than we do is told before anything is sent', async () => {
    const faulty = await FaultyLine.start();
    faulty.onAsked = good;
    closers.push(() => faulty.stop());
    const at = await open(modbusGateway, { host: '127.0.0.1', port: faulty.port, gatewayMs: 500 });
    const { states, causes } = await test1(at);
    expect(states).toContain('settings noted');
    expect(causes).toContain('gateway-late');
  });
});
