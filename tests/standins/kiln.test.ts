import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { once } from 'node:events';
import { createRequire } from 'node:module';
import { connect, type Socket } from 'node:net';
import { startKiln, type RunningStandin } from '../support/standin.ts';

interface JsClient {
  readHoldingRegisters(start: number, count: number): Promise<{ response: { body: { valuesAsBuffer: Buffer } } }>;
  readInputRegisters(start: number, count: number): Promise<{ response: { body: { valuesAsBuffer: Buffer } } }>;
  readCoils(start: number, count: number): Promise<{ response: { body: { valuesAsArray: readonly number[] } } }>;
  writeSingleRegister(start: number, value: number): Promise<unknown>;
  writeMultipleCoils(start: number, values: boolean[]): Promise<unknown>;
}
const { ModbusTCPClient } = createRequire(import.meta.url)('jsmodbus') as { ModbusTCPClient: new (socket: Socket, unit: number) => JsClient };

let kiln: RunningStandin;
let socket: Socket;
let client: JsClient;
beforeAll(async () => {
  kiln = await startKiln();
  await kiln.hold(true);
  socket = connect({ host: '127.0.0.1', port: kiln.modbusPort });
  client = new ModbusTCPClient(socket, 1);
  await once(socket, 'connect');
});
afterAll(async () => {
  socket.destroy();
  await kiln.stop();
});

const registers = async (start: number, count: number): Promise<Buffer> =>
  (await client.readHoldingRegisters(start, count)).response.body.valuesAsBuffer;

// Decoded with Node's Buffer and a client of another library: neither our codec nor our driver has a part in it.
describe('the kiln, asked by a client of another library', () => {
  test('holds its bed temperature as a REAL with the low word first', async () => {
    const b = await registers(17, 2);
    expect(Buffer.concat([b.subarray(2), b.subarray(0, 2)]).readFloatBE(0)).toBeCloseTo(Number(await kiln.value('bed_temp')), 4);
  });
  test('holds every 64-bit order', async () => {
    const dwell = await registers(40, 4);
    expect(`${dwell.readBigInt64BE(0)}`).toBe(
      String(await kiln.value('dwell_preset'))
        .replace('.', '')
        .replace(/^0+/, ''),
    );
    const energy = Buffer.from(await registers(48, 4)).swap16();
    expect(`${energy.readBigUInt64BE(0)}`).toBe(await kiln.value('energy'));
    expect((await registers(52, 4)).readDoubleLE(0)).toBeCloseTo(Number(await kiln.value('flow_total')), 9);
  });
  test('holds texts with and without swapped bytes', async () => {
    expect((await registers(60, 8)).toString('latin1').replace(/\0+$/, '')).toBe(await kiln.value('recipe_name'));
    expect(
      Buffer.from(await registers(68, 8))
        .swap16()
        .toString('latin1')
        .replace(/\0+$/, ''),
    ).toBe(await kiln.value('operator_name'));
  });
  test('takes a set point and a command into its process', async () => {
    await client.writeSingleRegister(2, 18432);
    expect(await kiln.value('bed_temp_sp')).toBe(100);
    await client.writeMultipleCoils(2, [false, true]);
    expect([await kiln.value('steam_cmd'), await kiln.value('lamp_test')]).toEqual([false, true]);
    expect((await client.readCoils(0, 4)).response.body.valuesAsArray.slice(0, 4)).toEqual([1, 1, 0, 1]);
  });
  test('refuses what it does not have', async () => {
    await expect(client.readHoldingRegisters(100, 1)).rejects.toMatchObject({ response: { body: { code: 2 } } });
    await expect(client.readInputRegisters(11, 5)).rejects.toMatchObject({ response: { body: { code: 2 } } });
  });
});
