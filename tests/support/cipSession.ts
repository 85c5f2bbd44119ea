/** Sessions of the driver of named tags, as its tests use them; closed by {@link closeSessions}. */
import { cip } from '@/drivers/cip/driver.ts';
import { AS_IS } from '@/core/scaling/scale.ts';
import { followWire } from '@/core/signal.ts';
import { plainOrder } from '@/core/value/byteOrder.ts';
import type { RawValue } from '@/core/value/codec.ts';
import { parseDataType, type DataType } from '@/core/value/dataType.ts';
import type { Arrival, BrowsedNode, CallContext, DeviceSession, DriverSession, FrameEvent, PointSpec } from '@/drivers/contract.ts';
import { systemClock } from '@/runtime/clock.ts';
import type { RunningController } from './cipController.ts';
import { until } from './until.ts';

export const sessions: DriverSession[] = [];
/** What went over them since they were closed last. */
export const frames: FrameEvent[] = [];

export function closeSessions(): void {
  for (const session of sessions.splice(0)) session.close();
  frames.length = 0;
}

export function linkTo(port: number): DriverSession {
  const session = cip.createSession({
    settings: { host: '127.0.0.1', port },
    clock: systemClock,
    onFrame: (frame) => frames.push(frame),
    onState: () => undefined,
  });
  sessions.push(session);
  session.start();
  return session;
}
export async function connectedTo(
  to: RunningController,
  settings: Record<string, unknown> = {},
  dialect: Record<string, unknown> = {},
): Promise<DeviceSession> {
  const session = linkTo(to.port);
  await until('it is connected', () => session.state.phase === 'connected');
  return session.device(settings, dialect);
}
export const typeOf = (text: string): DataType => {
  const type = parseDataType(text);
  if (!type.ok) throw new Error(type.problem.message);
  return type.value;
};
export const point = (address: string, type: string): PointSpec => {
  const parsed = cip.description.notation.parse(address, typeOf(type), {});
  if (!parsed.ok) throw new Error(parsed.problem.message);
  return { key: `${address} ${type}`, canonical: parsed.value.canonical, type: typeOf(type) };
};
export const context = (): CallContext => ({ signal: new AbortController().signal, deadline: Infinity });
export const text = (of: PointSpec, arrival: Arrival | undefined): string => {
  if (!arrival) return 'nothing';
  if ('fault' in arrival) return `${arrival.fault.kind}: ${arrival.fault.problem.code}`;
  const def = { type: of.type, order: plainOrder(of.type), bit: null, scale: AS_IS, unit: '', decimals: null, range: null };
  const { text: shown, quality } = followWire(def, arrival.wire, { torn: arrival.torn });
  return quality.level === 'good' ? shown : `${shown} ${quality.level}`;
};
export async function read(device: DeviceSession, ...points: readonly (readonly [address: string, type: string])[]): Promise<string[]> {
  const specs = points.map(([address, type]) => point(address, type));
  const came = new Map<string, Arrival>();
  await device.prepare(specs).read((key, arrival) => {
    if (came.has(key)) throw new Error(`${key} came twice`);
    came.set(key, arrival);
  }, context());
  return specs.map((p) => text(p, came.get(p.key)));
}
export const write = (device: DeviceSession, address: string, type: string, raw: RawValue) =>
  device.write(point(address, type), { raw, bytes: new Uint8Array(), mask: null }, context());
export async function browseAll(device: DeviceSession): Promise<BrowsedNode[]> {
  const all: BrowsedNode[] = [];
  const walk = async (path: string): Promise<void> => {
    const level = await device.browse?.(path, context());
    if (!level?.ok) throw new Error(level ? level.problem.message : 'no browse');
    for (const node of level.value) {
      if (node.type !== null) all.push(node);
      if (node.hasChildren) await walk(node.path);
    }
  };
  await walk('');
  return all;
}

export const writeAll = async (
  device: DeviceSession,
  ...writes: readonly (readonly [address: string, type: string, raw: RawValue])[]
): Promise<string[]> => {
  const all = writes.map(([address, type, raw]) => ({ point: point(address, type), value: { raw, bytes: new Uint8Array(), mask: null } }));
  return ((await device.writeAll?.(all, context())) ?? []).map((fault) => (fault ? `${fault.kind}: ${fault.problem.code}` : 'done'));
};
