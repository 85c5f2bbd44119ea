/** Serial lines with servers of other libraries at their far end: what is promised is promised to them too. */
import { afterEach, describe, expect, test } from '@jest/globals';
import { createRequire } from 'node:module';
import { v7 as uuid } from 'uuid';
import { openPseudoTerminals } from '../support/pseudoTerminals.ts';
import { newTag } from '../support/newTag.ts';
import { openBench } from '../support/services.ts';
import { until } from '../support/until.ts';
import { watchHolds } from '../support/holds.ts';

const require = createRequire(import.meta.url);
const closers: (() => unknown)[] = [];
afterEach(async () => {
  for (const close of closers.splice(0).reverse()) await close();
});

/** Loses one request now and then, as a line does. */
type Lossy = { lose: number };

/** A server by jsmodbus, which gives no answer at all to functions that it does not know; 8 is one of them. */
async function withoutFunction8(path: string, losing: Lossy): Promise<void> {
  const { SerialPort } = require('serialport') as typeof import('serialport');
  const { server } = require('jsmodbus') as {
    server: { RTU: new (port: unknown, options: object) => { on(event: string, call: (...args: never[]) => void): void } };
  };
  const port = new SerialPort({ path, baudRate: 19_200 });
  await new Promise<void>((resolve) => port.once('open', () => resolve()));
  closers.push(() => new Promise<void>((resolve) => (port.isOpen ? port.close(() => resolve()) : resolve())));
  const emit = port.emit.bind(port);
  port.emit = (event: string, ...args: unknown[]) => {
    if (event === 'data' && losing.lose > 0) {
      losing.lose--;
      return true;
    }
    return emit(event, ...args);
  };
  const holding = Buffer.alloc(200);
  holding.writeUInt16BE(77, 120);
  new server.RTU(port, { holding, coils: Buffer.alloc(10), input: Buffer.alloc(200), discrete: Buffer.alloc(10) });
}

describe('a server without function 8', () => {
  test('keeps the periods of its tags, though many hold the same and a request is lost now and then', async () => {
    const pair = await openPseudoTerminals();
    closers.push(() => pair.close());
    const losing = { lose: 0 };
    await withoutFunction8(pair.far, losing);
    const bench = await openBench();
    closers.push(() => bench.close());
    const [linkId, deviceId] = [uuid(), uuid()];
    const tags = [2, 12, 22, 32, 42, 52, 60].map((register) => ({ id: uuid(), register }));
    await bench.change('line', [
      { kind: 'link', id: linkId, set: { name: 'Line', driver: 'modbus-serial', settings: { path: pair.near, speed: 19_200 } } },
      {
        kind: 'device',
        id: deviceId,
        set: { linkId, name: 'ROLLS', settings: { unit: 1 }, dialect: { timeoutMs: 300, readRetries: 1, maxGap: 0 }, witnessUrl: '' },
      },
      ...tags.map(({ id, register }) => ({
        kind: 'tag' as const,
        id,
        set: { ...newTag(deviceId, `t${register}`, `HR${register}`, { periodMs: 500 }), access: 'read' },
      })),
    ]);
    const { live } = bench.services.engine;
    await until('all are read', () => tags.every(({ id }) => live.get(id)?.quality.level === 'good'));
    expect(live.get(tags.at(-1)?.id ?? '')?.raw).toBe(77);
    const last = new Map(tags.map(({ id }) => [id, performance.now()]));
    let longest = 0;
    const bad: string[] = [];
    const stop = live.onSample((id) => {
      const now = performance.now();
      longest = Math.max(longest, now - (last.get(id) ?? now));
      last.set(id, now);
      const sample = live.get(id);
      if (sample?.quality.level !== 'good') bad.push(sample?.quality.detail ?? '');
    });
    const holds = watchHolds();
    for (let i = 0; i < 4; i++) {
      await new Promise((resolve) => setTimeout(resolve, 1500));
      losing.lose = 1;
    }
    stop();
    holds.stop();
    // A lost request costs its time-out, and the question that clears the line after it.
    expect(longest).toBeLessThan(500 + 300 + 2 * 60 + 250 + holds.longestMs());
    expect(bad).toEqual([]);
    const stages: string[] = [];
    const testing = bench.services.connections.test(deviceId, new AbortController().signal);
    if (!testing.ok) throw new Error(testing.problem.message);
    losing.lose = 0;
    for await (const stage of testing.value) stages.push(`${stage.id} ${stage.state}`);
    expect(stages.filter((s) => s.endsWith('failed'))).toEqual([]);
  });
});
