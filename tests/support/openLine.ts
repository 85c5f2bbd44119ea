/** A session of a driver over a line in the test's hand; what was opened is closed after each test. */
import { afterEach } from '@jest/globals';
import { createRequire } from 'node:module';
import { parseDataType, type DataType } from '@/core/value/dataType.ts';
import type { Arrival, CallContext, DeviceSession, Driver, DriverSession, FrameEvent, PointSpec } from '@/drivers/contract.ts';
import { modbusGateway } from '@/drivers/modbus/driver.ts';
import { systemClock } from '@/runtime/clock.ts';
import { FaultyLine } from './faultyLine.ts';
import { openPseudoTerminals } from './pseudoTerminals.ts';
import { until } from './until.ts';

const require = createRequire(import.meta.url);

export const closers: (() => unknown)[] = [];
afterEach(async () => {
  for (const close of closers.splice(0).reverse()) await close();
});

export function typeOf(name: string): DataType {
  const parsed = parseDataType(name);
  if (!parsed.ok) throw new Error(parsed.problem.message);
  return parsed.value;
}
export const point = (canonical: string, type = 'INT'): PointSpec => ({ key: canonical, canonical, type: typeOf(type) });
export const context = (ms = 8000): CallContext => ({ signal: new AbortController().signal, deadline: systemClock.now() + ms });

export interface Opened {
  readonly session: DriverSession;
  readonly frames: FrameEvent[];
  device(unit?: number, dialect?: Record<string, unknown>): DeviceSession;
}
export async function open(driver: Driver, settings: Record<string, unknown>): Promise<Opened> {
  const frames: FrameEvent[] = [];
  const session = driver.createSession({ settings, clock: systemClock, onFrame: (f) => frames.push(f), onState: () => undefined });
  closers.push(() => session.close());
  session.start();
  await until('connected', () => session.state.phase === 'connected');
  return { session, frames, device: (unit = 1, dialect = {}) => session.device({ unit }, { timeoutMs: 120, readRetries: 0, ...dialect }) };
}
export async function line(onAsked: FaultyLine['onAsked']): Promise<FaultyLine & Opened> {
  const faulty = await FaultyLine.start();
  faulty.onAsked = onAsked;
  closers.push(() => faulty.stop());
  return Object.assign(faulty, await open(modbusGateway, { host: '127.0.0.1', port: faulty.port }));
}
function words(arrival: Arrival): string {
  if ('fault' in arrival) return `${arrival.fault.kind} ${arrival.fault.problem.code}`;
  return arrival.wire.kind === 'bytes' ? Buffer.from(arrival.wire.bytes).toString('hex') : arrival.wire.kind;
}
export async function read(device: DeviceSession, ...points: PointSpec[]): Promise<string[]> {
  const seen: string[] = [];
  await device.prepare(points).read((_key, arrival) => seen.push(words(arrival)), context());
  return seen;
}
export const oddities = (frames: readonly FrameEvent[]): string[] => frames.flatMap((f) => f.oddity ?? []);

/** A pseudo-terminal with somebody on its other end, at 19200 8E1. */
export async function pseudoLine(onBytes: (bytes: Buffer, send: (bytes: Buffer) => void) => void): Promise<Record<string, unknown>> {
  const pair = await openPseudoTerminals();
  closers.push(() => pair.close());
  const { SerialPort } = require('serialport') as typeof import('serialport');
  const port = new SerialPort({ path: pair.far, baudRate: 19200 });
  await new Promise<void>((resolve) => port.once('open', () => resolve()));
  port.on('data', (bytes: Buffer) => onBytes(bytes, (reply) => void port.write(reply)));
  closers.push(() => new Promise<void>((resolve) => (port.isOpen ? port.close(() => resolve()) : resolve())));
  return { path: pair.near };
}
