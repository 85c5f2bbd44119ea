/** Half an hour of trouble, on a clock that is not waited for: what is shown as good is always right. */
import { expect, test } from '@jest/globals';
import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';
import type { Change } from '@/core/project/command.ts';
import { modbusGatewayDescription, modbusTcpDescription } from '@/drivers/modbus/describe.ts';
import { modbusDriver } from '@/drivers/modbus/driver.ts';
import { LineChannel } from '@/drivers/modbus/lineChannel.ts';
import { MbapChannel } from '@/drivers/modbus/mbapChannel.ts';
import { ProjectModel } from '@/model/projectModel.ts';
import { Engine } from '@/runtime/engine.ts';
import { FakeClock } from '../support/fakeClock.ts';
import { FakeLine, type LineFault } from '../support/fakeLine.ts';
import { newTag } from '../support/newTag.ts';
import { uuidOf } from '../support/uuidOf.ts';

const MINUTES = 35;
const FAULTS: readonly LineFault[] = [
  'dead-unit',
  'silent',
  'late',
  'very-late',
  'garbled',
  'cut',
  'noise',
  'stranger',
  'twice',
  'refused',
  'lossy',
  'echo',
  'in-pieces',
];
const REGISTERS = [3, 4, 40, 41, 90];

setFlagsFromString('--expose-gc');
const collect = runInNewContext('gc') as () => void;

test(`${MINUTES} minutes of faults, alone and in pairs, on a line of eight units and on a network`, async () => {
  let state = 20_261_125;
  const random = (): number => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return state / 2 ** 32;
  };
  const clock = new FakeClock('loop');
  const lines = { rtu: new FakeLine(clock, 'rtu', random), tcp: new FakeLine(clock, 'tcp', random) };
  const drivers = [
    modbusDriver(
      modbusGatewayDescription,
      (_settings, wires) =>
        new LineChannel({ ...wires, where: 'line', open: lines.rtu.open, form: 'rtu', characterMs: 0, silenceMs: 0, turnaroundMs: 100 }),
    ),
    modbusDriver(modbusTcpDescription, (_settings, wires) => new MbapChannel({ ...wires, where: 'net', open: lines.tcp.open, isDatagrams: false })),
  ];
  const model = new ProjectModel();
  const engine = new Engine(model, (id) => drivers.find((d) => d.description.id === id) ?? null, clock);
  let id = 0;
  const next = (): string => uuidOf(++id);
  const changes: Change[] = [{ kind: 'project', id: next(), set: { name: 'P' } }];
  const meanings = new Map<string, { unit: number; register: number }>();
  for (const [driver, units] of [
    ['modbus-gateway', 8],
    ['modbus-tcp', 2],
  ] as const) {
    const linkId = next();
    changes.push({ kind: 'link', id: linkId, set: { name: driver, driver, settings: { host: '127.0.0.1', port: 1 } } });
    for (let unit = 1; unit <= units; unit++) {
      const deviceId = next();
      const dialect = { timeoutMs: 200, readRetries: 1, depth: 4 };
      changes.push({ kind: 'device', id: deviceId, set: { linkId, name: `${driver} ${unit}`, settings: { unit }, dialect, witnessUrl: '' } });
      for (const register of REGISTERS) {
        const tagId = next();
        meanings.set(tagId, { unit, register });
        const name = `t${driver.length}_${unit}_${register}`;
        changes.push({ kind: 'tag', id: tagId, set: newTag(deviceId, name, `HR${register}`, { periodMs: 1000 }) });
      }
    }
  }
  const planned = model.plan(changes);
  if (!planned.ok) throw new Error(planned.problem.message);
  model.apply(planned.value);

  const wrong: string[] = [];
  let good = 0;
  engine.live.onSample((tagId) => {
    const meaning = meanings.get(tagId);
    const sample = engine.live.get(tagId);
    if (!meaning || sample?.quality.level !== 'good') return;
    good++;
    const expected = FakeLine.valueOf(meaning.unit, meaning.register, clock.now());
    // The clock register may be as old as the reply took.
    const isRight = meaning.register === 90 ? Math.abs(Number(sample.raw) - expected) <= 3 : sample.raw === expected;
    if (!isRight)
      wrong.push(
        `${meaning.unit}/${meaning.register}: ${String(sample.raw)} instead of ${expected} under ${[...lines.rtu.faults, '|', ...lines.tcp.faults].join(' ')}`,
      );
  });
  const stale = (): string[] =>
    [...meanings.keys()].flatMap((tagId) => {
      const sample = engine.live.get(tagId);
      return sample?.quality.level === 'good' && clock.now() - sample.at > 20_000 ? [tagId] : [];
    });
  const pick = (): LineFault => FAULTS[Math.floor(random() * FAULTS.length)] ?? 'silent';

  engine.reconcile();
  await clock.pass(5000);
  expect(engine.live.counts.good).toBe(meanings.size);
  const heap: number[] = [];
  for (let minute = 0; minute < MINUTES; minute++) {
    for (let part = 0; part < 5; part++) {
      for (const line of Object.values(lines)) {
        const dice = random();
        line.faults = dice < 0.2 ? [] : dice < 0.6 ? [pick()] : [pick(), pick()];
        if (dice > 0.9) line.cut();
        line.isOpen = random() > 0.1;
      }
      await clock.pass(12_000);
      expect(stale()).toEqual([]);
    }
    collect();
    heap.push(process.memoryUsage().heapUsed);
  }
  for (const line of Object.values(lines)) {
    line.faults = [];
    line.isOpen = true;
  }
  await clock.pass(45_000);
  expect(wrong).toEqual([]);
  expect(engine.live.counts).toEqual({ good: meanings.size, uncertain: 0, bad: 0 });
  expect(good).toBeGreaterThan(20_000);
  const early = Math.max(...heap.slice(4, 9));
  const late = Math.min(...heap.slice(-5));
  expect((late - early) / 1e6).toBeLessThan(3);
  engine.close();
}, 240_000);
