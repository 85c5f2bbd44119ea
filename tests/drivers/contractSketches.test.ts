import { expect, test } from '@jest/globals';
import { AS_IS } from '@/core/scaling/scale.ts';
import { followWire } from '@/core/signal.ts';
import { parseDataType } from '@/core/value/dataType.ts';
import type { Arrival, CallContext, Observer, SessionOptions } from '@/drivers/contract.ts';
import { mqttDriver } from '@/drivers/mqtt/sketch.ts';
import { systemClock } from '@/runtime/clock.ts';

const options: SessionOptions = { settings: {}, clock: systemClock, onFrame: () => undefined, onState: () => undefined };
const type = parseDataType('REAL');
if (!type.ok) throw new Error(type.problem.message);
const real = type.value;
const def = { type: real, order: 'ABCD', bit: null, scale: AS_IS, unit: '°C', decimals: 1, range: null };
const context = (signal = new AbortController().signal): CallContext => ({ signal, deadline: Infinity });

const observer = (seen: Map<string, Arrival>): Observer => ({ sink: (k, a) => seen.set(k, a), alive: () => undefined, lost: () => undefined });

function text(arrival: Arrival | undefined): string {
  return !arrival ? 'nothing' : 'fault' in arrival ? arrival.fault.kind : followWire(def, arrival.wire).text;
}

test('the contract carries topics, where nothing that came is silence and not a value', async () => {
  let deliver: (topic: string, payload: Uint8Array) => void = () => undefined;
  const sent: string[] = [];
  const session = mqttDriver({
    subscribe: (_topics, message) => (deliver = message),
    publish: async (topic, payload) => sent.push(`${topic} ${new TextDecoder().decode(payload)}`) > 0,
  }).createSession(options);
  session.start();
  const device = session.device({}, {});
  const points = [{ key: 'a', canonical: 'hall/temp', type: real }];
  const seen = new Map<string, Arrival>();
  const group = device.prepare(points);
  await group.read((k, a) => seen.set(k, a), context());
  expect(text(seen.get('a'))).toBe('silent');
  device.observe?.(observer(seen)).add(points.map((point) => ({ ...point, everyMs: 500 })));
  deliver('hall/temp', new TextEncoder().encode('21.5'));
  expect(text(seen.get('a'))).toBe('21.5');
  deliver('hall/temp', new TextEncoder().encode('{"broken"'));
  expect(text(seen.get('a'))).toBe('–');
  expect(
    await device.write({ key: 'a', canonical: 'hall/temp', type: real }, { raw: 20, bytes: new Uint8Array(), mask: null }, context()),
  ).toBeNull();
  expect(sent).toEqual(['hall/temp 20']);
});
