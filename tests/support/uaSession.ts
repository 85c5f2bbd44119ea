/** Sessions of the OPC UA driver, as its tests use them, with a server of each test file; closed by {@link closeSessions}. */
import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { AS_IS } from '@/core/scaling/scale.ts';
import { followWire } from '@/core/signal.ts';
import { plainOrder } from '@/core/value/byteOrder.ts';
import type { RawValue } from '@/core/value/codec.ts';
import { parseDataType, type DataType } from '@/core/value/dataType.ts';
import type { Arrival, CallContext, DeviceSession, DriverSession, FrameEvent, LinkState, PointSpec, TestStage } from '@/drivers/contract.ts';
import { opcUa } from '@/drivers/opcUa/driver.ts';
import { systemClock } from '@/runtime/clock.ts';
import { freePort } from './server.ts';
import { WEIGH_URI } from './uaServer.ts';
import { until } from './until.ts';

/** Where our certificate lies. */
export const folder = mkdtempSync(join(process.env.MILL_LATCH_SCRATCH ?? tmpdir(), 'ua-own-'));
export const port = await freePort();
export const NONE = { endpoint: `opc.tcp://127.0.0.1:${port}`, policy: 'None' };
export const sessions: DriverSession[] = [];
export const frames: FrameEvent[] = [];

export function closeSessions(): void {
  for (const session of sessions.splice(0)) session.close();
}

export function linkTo(settings: Record<string, unknown>): DriverSession {
  const session = opcUa.createSession({ settings, folder, clock: systemClock, onFrame: (frame) => frames.push(frame), onState: () => undefined });
  sessions.push(session);
  session.start();
  return session;
}
export async function connected(settings: Record<string, unknown> = NONE, dialect: Record<string, unknown> = {}): Promise<DeviceSession> {
  const session = linkTo(settings);
  await until('it is connected', () => {
    if (session.state.problem) throw new Error(session.state.problem.message);
    return session.state.phase === 'connected';
  });
  return session.device({}, dialect);
}
export const waiting = async (settings: Record<string, unknown>): Promise<LinkState> => {
  const session = linkTo(settings);
  await until('it waits', () => session.state.phase === 'waiting');
  return session.state;
};
export const typeOf = (text: string): DataType => {
  const type = parseDataType(text);
  if (!type.ok) throw new Error(type.problem.message);
  return type.value;
};
export const point = (name: string, type: string): PointSpec => ({
  key: `${name} ${type}`,
  canonical: `nsu=${WEIGH_URI};s=${name}`,
  type: typeOf(type),
});
export const context = (): CallContext => ({ signal: new AbortController().signal, deadline: Infinity });
export const text = (of: PointSpec, arrival: Arrival | undefined): string => {
  if (!arrival) return 'nothing';
  if ('fault' in arrival) return `${arrival.fault.kind}: ${arrival.fault.problem.code}`;
  const def = { type: of.type, order: plainOrder(of.type), bit: null, scale: AS_IS, unit: '', decimals: null, range: null };
  const { text: shown, quality } = followWire(def, arrival.wire, { doubted: arrival.doubted });
  return quality.level === 'good' ? shown : `${shown} ${quality.level}`;
};
export async function read(device: DeviceSession, ...points: PointSpec[]): Promise<string[]> {
  const came = new Map<string, Arrival>();
  await device.prepare(points).read((key, arrival) => came.set(key, arrival), context());
  return points.map((p) => text(p, came.get(p.key)));
}
export const write = (device: DeviceSession, to: PointSpec, raw: RawValue) =>
  device.write(to, { raw, bytes: new Uint8Array(), mask: null }, context());
export async function stages(settings: Record<string, unknown>, ...points: PointSpec[]): Promise<TestStage[]> {
  const session = opcUa.createSession({ settings, folder, clock: systemClock, onFrame: () => undefined, onState: () => undefined });
  const all: TestStage[] = [];
  for await (const stage of session.device({}, {}).test(points, context())) all.push(stage);
  return all;
}

export const writeAll = async (device: DeviceSession, ...writes: readonly (readonly [to: PointSpec, raw: RawValue])[]): Promise<string[]> => {
  const all = writes.map(([to, raw]) => ({ point: to, value: { raw, bytes: new Uint8Array(), mask: null } }));
  return ((await device.writeAll?.(all, context())) ?? []).map((fault) => (fault ? `${fault.kind}: ${fault.problem.code}` : 'done'));
};
