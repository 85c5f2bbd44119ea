/**
 * Reads of 125 holding registers over loopback: Mill Latch's channel against the libraries modbus-serial and
 * jsmodbus, all against the same server process, in turns, the best of several rounds each.
 */
import { fork } from 'node:child_process';
import { once } from 'node:events';
import { createRequire } from 'node:module';
import { connect, type Socket } from 'node:net';
import { modbusTcp } from '@/drivers/modbus/driver.ts';
import { MbapChannel } from '@/drivers/modbus/mbapChannel.ts';
import { tcpPipe } from '@/drivers/transport/tcpPipe.ts';
import { systemClock } from '@/runtime/clock.ts';
import { readRequest } from '@/core/modbus/pdu.ts';
import { parseDataType } from '@/core/value/dataType.ts';
import type { Figure } from './figure.ts';

const require = createRequire(import.meta.url);
const REGISTERS = 125;
const ROUNDS = 5;
const ROUND_MS = 700;

type ReadOnce = () => Promise<unknown>;

async function rate(readOnce: ReadOnce, inFlight: number): Promise<number> {
  const begun = performance.now();
  let reads = 0;
  const worker = async (): Promise<void> => {
    while (performance.now() - begun < ROUND_MS) {
      await readOnce();
      reads++;
    }
  };
  await Promise.all(Array.from({ length: inFlight }, worker));
  return (reads / (performance.now() - begun)) * 1000;
}

export async function modbusReads(): Promise<readonly Figure[]> {
  const server = fork(new URL('../../bench/registerServer.mjs', import.meta.url), { silent: true });
  const [line] = (await once(server.stdout as NonNullable<typeof server.stdout>, 'data')) as [Buffer];
  const port = Number(line.toString());

  const channel = new MbapChannel({
    where: `127.0.0.1:${port}`,
    open: tcpPipe({ host: '127.0.0.1', port, adapter: '' }),
    isDatagrams: false,
    clock: systemClock,
    onFrame: () => undefined,
    onState: () => undefined,
  });
  channel.start();
  const session = modbusTcp.createSession({
    settings: { host: '127.0.0.1', port },
    clock: systemClock,
    onFrame: () => undefined,
    onState: () => undefined,
  });
  session.start();
  while (channel.state.phase !== 'connected' || session.state.phase !== 'connected') await new Promise((r) => setTimeout(r, 10));
  const never = new AbortController().signal;
  const ours = async (depth: number): Promise<void> => {
    const answer = await channel.transact({
      unit: 1,
      pdu: readRequest('HR', 0, REGISTERS),
      timeoutMs: 1000,
      depth,
      pauseMs: 0,
      registerBytes: 2,
      strictUnit: true,
      deadline: Infinity,
      signal: never,
    });
    if (!answer.ok || answer.reply.kind !== 'data' || answer.reply.data.length !== REGISTERS * 2) throw new Error('a read failed');
  };
  const int = parseDataType('INT');
  if (!int.ok) throw new Error(int.problem.message);
  const group = session
    .device({ unit: 1 }, {})
    .prepare(Array.from({ length: REGISTERS }, (_, i) => ({ key: `t${i}`, canonical: `HR${i}`, type: int.value })));
  const throughContract = async (): Promise<void> => {
    let arrived = 0;
    await group.read(() => arrived++, { signal: never, deadline: Infinity });
    if (arrived !== REGISTERS) throw new Error('a value is missing');
  };

  const ModbusRTU = require('modbus-serial') as { default?: unknown };
  const Serial = (ModbusRTU.default ?? ModbusRTU) as new () => {
    connectTCP(host: string, options: { port: number }): Promise<void>;
    setID(id: number): void;
    readHoldingRegisters(start: number, count: number): Promise<unknown>;
    close(done: () => void): void;
  };
  const serial = new Serial();
  await serial.connectTCP('127.0.0.1', { port });
  serial.setID(1);

  const { ModbusTCPClient } = require('jsmodbus') as {
    ModbusTCPClient: new (socket: Socket, unit: number) => { readHoldingRegisters(start: number, count: number): Promise<unknown> };
  };
  const socket = connect({ host: '127.0.0.1', port, noDelay: true });
  const js = new ModbusTCPClient(socket, 1);
  await once(socket, 'connect');

  const contenders: readonly (readonly [string, ReadOnce, number])[] = [
    ['modbus-serial', () => serial.readHoldingRegisters(0, REGISTERS), 1],
    ['jsmodbus', () => js.readHoldingRegisters(0, REGISTERS), 1],
    ['ours, one at a time', () => ours(1), 1],
    ['ours, eight in flight', () => ours(8), 8],
    ['ours through the driver contract, 125 values handed over', throughContract, 1],
  ];
  const best = new Map<string, number>();
  for (let round = 0; round < ROUNDS; round++)
    for (const [name, read, inFlight] of contenders) best.set(name, Math.max(best.get(name) ?? 0, await rate(read, inFlight)));

  channel.close();
  session.close();
  socket.destroy();
  await new Promise<void>((resolve) => serial.close(() => resolve()));
  server.disconnect();

  const of = (name: string): number => best.get(name) ?? NaN;
  const reference = Math.max(of('modbus-serial'), of('jsmodbus'));
  const all = [...best].map(([name, perSecond]) => `${name} ${Math.round(perSecond)}/s`).join(' · ');
  return [
    {
      name: 'Modbus TCP reads of 125 registers, one at a time, against the faster library',
      ratio: of('ours, one at a time') / reference,
      wanted: 1.3,
      detail: all,
    },
    {
      name: 'Modbus TCP reads of 125 registers, eight in flight, against the faster library one at a time',
      ratio: of('ours, eight in flight') / reference,
      wanted: 4,
      detail: '',
    },
  ];
}
