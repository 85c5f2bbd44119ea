/** Lines and slow devices: how much of the time that there is becomes requests, and whether the time was foreseen. */
import { fork, spawn, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { existsSync, mkdtempSync, rmSync } from 'node:fs';
import { connect } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { planReads } from '@/core/plan/readPlan.ts';
import { silenceMs } from '@/core/plan/lineTime.ts';
import { parseDataType } from '@/core/value/dataType.ts';
import type { DeviceSession, Driver, DriverSession, FrameEvent, PointSpec } from '@/drivers/contract.ts';
import { modbusGateway, modbusSerial, modbusTcp } from '@/drivers/modbus/driver.ts';
import { systemClock } from '@/runtime/clock.ts';
import type { Figure } from './figure.ts';

const MEASURE_MS = 5000;
const file = (path: string): string => fileURLToPath(new URL(`../../${path}`, import.meta.url));
const rest = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));
const median = (all: number[]): number => all.sort((a, b) => a - b)[all.length >> 1] ?? 0;

export async function lines(): Promise<readonly Figure[]> {
  return [await slowDevice(), ...(await pseudoTerminal()), await deadUnit(), await planner(), await foreseen()];
}

/** One request in flight to a device that takes 10 ms, against a bare socket that does nothing else. */
async function slowDevice(): Promise<Figure> {
  const server = fork(file('bench/slowServer.mjs'), { silent: true });
  const [line] = (await once(server.stdout as NonNullable<typeof server.stdout>, 'data')) as [Buffer];
  const port = Number(line.toString());
  const request = Buffer.from('000100000006010300000001', 'hex');
  const bare = await new Promise<number>((resolve) => {
    const socket = connect({ host: '127.0.0.1', port, noDelay: true });
    let n = 0;
    let begun = 0;
    socket.on('connect', () => {
      begun = performance.now();
      socket.write(request);
    });
    socket.on('data', () => {
      n++;
      if (performance.now() - begun < MEASURE_MS) return void socket.write(request);
      socket.destroy();
      resolve(n / ((performance.now() - begun) / 1000));
    });
  });
  const { session, device } = await open(modbusTcp, { host: '127.0.0.1', port });
  const ours = await rate(device(1), ['HR0']);
  session.close();
  server.disconnect();
  const detail = `${ours.toFixed(1)} of ${bare.toFixed(1)} requests a second`;
  return { name: 'Of the requests that a device of 10 ms allows, one in flight', ratio: ours / bare, wanted: 0.95, detail };
}

/** What passes between a whole reply and the next request on a pseudo-terminal, beyond the silence that must be. */
async function pseudoTerminal(): Promise<readonly Figure[]> {
  const folder = mkdtempSync(join(tmpdir(), 'mill-latch-bench-line-'));
  const [near, far] = [join(folder, 'near'), join(folder, 'far')];
  const socat = spawn('socat', [`pty,raw,echo=0,link=${near}`, `pty,raw,echo=0,link=${far}`], { stdio: 'ignore' });
  while (!existsSync(near) || !existsSync(far)) await rest(20);
  const rolls = await startRolls(['--serial', far]);
  const { session, device, frames } = await open(modbusSerial, { path: near, speed: 19_200 });
  await rate(device(1), ['HR1']);
  session.close();
  rolls.child.kill('SIGTERM');
  socat.kill('SIGTERM');
  rmSync(folder, { recursive: true, force: true });
  const silence = silenceMs('rtu', { speed: 19_200, dataBits: 8, parity: 'even', stopBits: 1 });
  const gaps = frames.flatMap((f, i) => {
    const before = frames[i - 1];
    return f.direction === 'sent' && before?.direction === 'received' ? [f.at - before.at] : [];
  });
  const least = Math.min(...gaps);
  const overhead = median(gaps) - silence;
  return [
    {
      name: 'Of 2 ms, overhead of a request on a serial line, silence excluded, at the median',
      ratio: overhead / 2,
      wanted: 1,
      atMost: true,
      detail: `${overhead.toFixed(2)} ms over ${gaps.length} requests`,
    },
    {
      name: 'Of the silence that the standard asks for, what was kept at the least',
      ratio: least / silence,
      wanted: 1,
      detail: `${least.toFixed(2)} of ${silence.toFixed(2)} ms`,
    },
  ];
}

/** Eight units on one line, as fast as they go; then one of them is dead. */
async function deadUnit(): Promise<Figure> {
  const rolls = await startRolls([]);
  const { session, device } = await open(modbusGateway, { host: '127.0.0.1', port: rolls.port });
  const seven = async (withEighth: boolean): Promise<number> => {
    const end = systemClock.now() + 2 * MEASURE_MS;
    let n = 0;
    const read = async (unit: number): Promise<void> => {
      const group = device(unit).prepare([pointOf('HR1')]);
      while (systemClock.now() < end) {
        const fault = await group.read(() => undefined, context());
        if (!fault && unit !== 4) n++;
        // A device that is not asked now is asked again in its next period.
        if (fault) await rest(50);
      }
    };
    await Promise.all([1, 2, 3, 4, 5, 6, 7, 8].filter((u) => withEighth || u !== 4).map(read));
    return n / ((2 * MEASURE_MS) / 1000);
  };
  const alone = await seven(false);
  await fetch(`http://127.0.0.1:${rolls.control}/orders`, { method: 'POST', body: JSON.stringify({ faults: { silence: [4] } }) });
  const beside = await seven(true);
  session.close();
  rolls.child.kill('SIGTERM');
  const detail = `${beside.toFixed(1)} reads a second beside a dead unit, ${alone.toFixed(1)} without it, time-out 300 ms`;
  return { name: 'Of the rate of seven units, what they keep beside a dead one', ratio: beside / alone, wanted: 0.9, detail };
}

async function planner(): Promise<Figure> {
  const spans = Array.from({ length: 10_000 }, (_, i) => ({ start: i + Math.floor(i / 7), count: 1 + (i % 5 === 0 ? 1 : 0) }));
  const took = Array.from({ length: 9 }, () => {
    const begun = performance.now();
    planReads(spans, { maxCount: 125, maxGap: 3, cost: { perRequest: 28, perAddress: 2.3 } });
    return performance.now() - begun;
  });
  const detail = `${median(took).toFixed(1)} ms at the median of 9, ${Math.max(...took).toFixed(1)} ms the first time`;
  return { name: 'Of 15 ms, planning 10 000 addresses', ratio: median(took) / 15, wanted: 1, atMost: true, detail };
}

/** The device's own time is measured on a short request; long ones are estimated with it. */
async function foreseen(): Promise<Figure> {
  const settings = { host: '127.0.0.1', speed: 9600 };
  const rolls = await startRolls(['--speed', '9600']);
  const { session, device, frames } = await open(modbusGateway, { ...settings, port: rolls.port });
  const trip = async (points: readonly string[]): Promise<number> => {
    frames.length = 0;
    await rate(device(2), points);
    return median(frames.flatMap((f, i) => (f.direction === 'received' ? [f.at - (frames[i - 1]?.at ?? f.at)] : [])));
  };
  const expected = (points: readonly string[]): number =>
    modbusGateway.description.foresee?.(settings, { unit: 2 }, {}, points.map(pointOf))[0]?.roundTripMs ?? 0;
  const short = ['HR0'];
  const long = Array.from({ length: 15 }, (_, i) => `HR${i}`);
  const turnaround = (await trip(short)) - expected(short);
  const measured = await trip(long);
  const told = expected(long) + turnaround;
  session.close();
  rolls.child.kill('SIGTERM');
  const detail = `15 registers at 9600 8E1: ${told.toFixed(2)} ms foreseen, ${measured.toFixed(2)} ms measured`;
  return {
    name: 'Of a tenth, by how much the time on a line differs from what was estimated',
    ratio: Math.abs(told / measured - 1) / 0.1,
    wanted: 1,
    atMost: true,
    detail,
  };
}

async function open(
  driver: Driver,
  settings: Record<string, unknown>,
): Promise<{ session: DriverSession; frames: FrameEvent[]; device: (unit: number) => DeviceSession }> {
  const frames: FrameEvent[] = [];
  const session = driver.createSession({ settings, clock: systemClock, onFrame: (f) => frames.push(f), onState: () => undefined });
  session.start();
  while (session.state.phase !== 'connected') await rest(10);
  return { session, frames, device: (unit) => session.device({ unit }, { timeoutMs: 300, readRetries: 0 }) };
}

/** Readings a second, one after the other. */
async function rate(device: DeviceSession, points: readonly string[]): Promise<number> {
  const group = device.prepare(points.map(pointOf));
  const begun = performance.now();
  let n = 0;
  while (performance.now() - begun < MEASURE_MS) {
    if (await group.read(() => undefined, context())) throw new Error('a read failed');
    n++;
  }
  return n / ((performance.now() - begun) / 1000);
}

function context(): { signal: AbortSignal; deadline: number } {
  return { signal: new AbortController().signal, deadline: systemClock.now() + 10_000 };
}

function pointOf(canonical: string): PointSpec {
  const type = parseDataType('INT');
  if (!type.ok) throw new Error(type.problem.message);
  return { key: canonical, canonical, type: type.value };
}

async function startRolls(args: readonly string[]): Promise<{ child: ChildProcess; port: number; control: number }> {
  const child = spawn(process.execPath, [file('dist/standin-rolls.mjs'), ...args, '--with-parent'], { stdio: ['pipe', 'pipe', 'inherit'] });
  const [line] = (await once(child.stdout, 'data')) as [Buffer];
  const { modbusPort, controlPort } = JSON.parse(line.toString()) as { modbusPort: number; controlPort: number };
  return { child, port: modbusPort, control: controlPort };
}
