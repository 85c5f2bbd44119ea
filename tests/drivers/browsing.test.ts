/** A device that keeps its tag list as a file of records, and one that says who it is; against the kiln's own server. */
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { fileRecordRequest, checkReply } from '@/core/modbus/pdu.ts';
import type { DeviceSession, DriverSession } from '@/drivers/contract.ts';
import { modbusTcp } from '@/drivers/modbus/driver.ts';
import { systemClock } from '@/runtime/clock.ts';
import { startKiln, type RunningStandin } from '../support/standin.ts';
import { until } from '../support/until.ts';

let kiln: RunningStandin;
let session: DriverSession;
beforeAll(async () => {
  kiln = await startKiln();
  session = modbusTcp.createSession({
    settings: { host: '127.0.0.1', port: kiln.modbusPort },
    clock: systemClock,
    onFrame: () => undefined,
    onState: () => undefined,
  });
  session.start();
  await until('it is connected', () => session.state.phase === 'connected');
});
afterAll(async () => {
  session.close();
  await kiln.stop();
});
const device = (dialect: Record<string, unknown>): DeviceSession => session.device({ unit: 1 }, dialect);
const context = () => ({ signal: AbortSignal.timeout(5000), deadline: systemClock.now() + 5000 });

// Modbus Application Protocol V1.1b3, 6.14: the example request and reply of the standard.
test('the request and the reply of the standard', () => {
  expect([...fileRecordRequest(4, 1, 2)]).toEqual([0x14, 0x07, 0x06, 0x00, 0x04, 0x00, 0x01, 0x00, 0x02]);
  const reply = Uint8Array.of(0x14, 0x06, 0x05, 0x06, 0x0d, 0xfe, 0x00, 0x20);
  expect(checkReply(fileRecordRequest(4, 1, 2), reply)).toEqual({ ok: true, value: { kind: 'data', data: Uint8Array.of(0x0d, 0xfe, 0x00, 0x20) } });
  expect(checkReply(fileRecordRequest(4, 1, 2), reply.slice(0, 7)).ok).toBe(false);
});

describe('the kiln', () => {
  test('lists its own tags, in as many requests as it takes', async () => {
    const nodes = await device({ listFile: 1 }).browse?.('', context());
    expect(nodes?.ok && nodes.value.map((n) => `${n.path} ${n.canonical} ${n.type}`)).toEqual([
      'own.fan_speed 40024 UINT',
      'own.belt_load 40030 INT',
      'own.batch_time 40096 TIME',
      'own.mode 40034 BYTE',
    ]);
  });
  test('says which version its program has', async () => {
    expect(await device({}).identify?.(context())).toMatchObject({ ok: true, value: { product: 'KILN', revision: '2.4' } });
  });
  test.each([
    [{}, 'no-list'],
    [{ listFile: 7 }, 'no-list'],
  ])('with %j it is said that there is none', async (dialect, code) => {
    expect(await device(dialect).browse?.('', context())).toMatchObject({ ok: false, problem: { code } });
  });
});
