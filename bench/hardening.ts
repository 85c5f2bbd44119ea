/**
 * What an outsider would try: the server killed in the middle of large changes, and the long forms of the tests that have a
 * short one in `npm test`. PRESSES, KILLS, RESTARTS and REQUESTS say how many.
 */
import { spawn, spawnSync, type ChildProcess } from 'node:child_process';
import { createHash } from 'node:crypto';
import { once } from 'node:events';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { v7 as uuid } from 'uuid';
import SERVER_FLAGS from '../scripts/serverFlags.json' with { type: 'json' };
import { sortedJson } from '@/core/project/sameJson.ts';
import { RELEASE_BOUNDS_MS, RELEASE_FAULTS, ReleaseBench, type Breaks, type ReleaseFault } from '../tests/support/releases.ts';
import type { Figure } from './figure.ts';
import { file, freePort, rest } from './serverLoad.ts';

const KILLS = Number(process.env.KILLS ?? 100);
const RESTARTS = Number(process.env.RESTARTS ?? 40);
const PRESSES = Number(process.env.PRESSES ?? 10);
const REQUESTS = Number(process.env.REQUESTS ?? 20_000);
const ROWS = 3000;
/** Longest time after which a change is cut off. */
const LATEST_MS = 900;

export async function* hardening(): AsyncIterable<Figure> {
  yield* await releases();
  yield* await killed();
  yield campaign('the glass, looked at every 50 ms through nine faults, shows as good what is not', ['e2e/truth', 'e2e/faults'], {});
  yield campaign('held buttons, writing and joining in the browser', ['e2e/ground'], {});
  yield campaign(
    `restarts (${RESTARTS}) under an open page, looked at every 20 ms, after which a value of before is drawn as good`,
    ['e2e/restart'],
    {
      RESTARTS: String(RESTARTS),
    },
  );
  yield campaign(`random requests (${REQUESTS}) that are a server error or change something; kills in mid-command that lose something`, ['e2e/api'], {
    REQUESTS: String(REQUESTS),
    KILLS: String(KILLS),
  });
  yield campaign('paths and headers by which another machine gets in', ['e2e/remote'], {});
}

/** A button is held {@link PRESSES} times under each of twelve faults; what breaks together is one figure. */
async function releases(): Promise<readonly Figure[]> {
  const bench = await ReleaseBench.open();
  const [times, odd] = [new Map<ReleaseFault, number[]>(), [] as string[]];
  for (let press = 0; press < PRESSES; press++)
    for (const fault of RELEASE_FAULTS)
      try {
        const { ms, astray } = await bench.measure(fault);
        times.set(fault, [...(times.get(fault) ?? []), ms]);
        if (astray.length > 0) odd.push(`${fault.name}: ${astray.join(', ')}`);
      } catch (error) {
        odd.push(`${fault.name}: ${error instanceof Error ? error.message : String(error)}`);
      }
  await bench.close();
  const what = (breaks: Breaks): Figure => {
    const faults = RELEASE_FAULTS.filter((fault) => fault.breaks === breaks);
    const each = faults.map((fault) => ({ name: fault.name, ms: [...(times.get(fault) ?? [])].sort((a, b) => a - b) }));
    return {
      name: `Longest release, of ${RELEASE_BOUNDS_MS[breaks]} ms: a fault of the ${breaks}`,
      ratio: Math.max(...each.flatMap(({ ms }) => ms)) / RELEASE_BOUNDS_MS[breaks],
      wanted: 1,
      atMost: true,
      detail: each.map(({ name, ms }) => `${name} ${ms[0]?.toFixed(0)} to ${ms.at(-1)?.toFixed(0)} ms`).join('; '),
    };
  };
  return [
    {
      name: `Outputs left on, or written elsewhere, in ${PRESSES * RELEASE_FAULTS.length} presses under ${RELEASE_FAULTS.length} faults`,
      ratio: odd.length,
      wanted: 0,
      atMost: true,
      detail: odd.join('; '),
    },
    ...(['page', 'line', 'project', 'server'] as const).map(what),
  ];
}

/** Runs tests in their long form; the figure is how many fail. */
function campaign(what: string, files: readonly string[], env: Readonly<Record<string, string>>): Figure {
  const report = join(mkdtempSync(join(tmpdir(), 'mill-latch-campaign-')), 'report.json');
  const jest = file('node_modules/jest/bin/jest.js');
  const args = [
    '--experimental-vm-modules',
    '--no-warnings',
    jest,
    '--config',
    'jest.e2e.config.mjs',
    '--forceExit',
    '--json',
    `--outputFile=${report}`,
  ];
  const begun = performance.now();
  spawnSync(process.execPath, [...args, ...files], { cwd: file('.'), stdio: ['ignore', 'ignore', 'inherit'], env: { ...process.env, ...env } });
  const { numFailedTests, numPassedTests, numFailedTestSuites } = JSON.parse(readFileSync(report, 'utf8')) as Readonly<Record<string, number>>;
  return {
    name: `Failed tests: ${what}`,
    ratio: Math.max(numFailedTests ?? 1, numFailedTestSuites ?? 1),
    wanted: 0,
    atMost: true,
    detail: `${numPassedTests} passed in ${((performance.now() - begun) / 1000).toFixed(0)} s`,
  };
}

interface Running {
  readonly process: ChildProcess;
  readonly address: string;
}

/** What a project holds, whatever order it comes in. */
interface State {
  readonly digest: string;
  readonly tags: number;
}

/** Kills the server in the middle of an import, an undo, a restore and a project file, one after the other. */
async function killed(): Promise<readonly Figure[]> {
  const folder = mkdtempSync(join(tmpdir(), 'mill-latch-killed-'));
  const port = await freePort();
  let server = await start(folder, port);
  const startsMs: number[] = [];
  const odd: string[] = [];
  let [lost, cut] = [0, 0];
  try {
    const deviceId = await firstDevice(server.address);
    const early = await stateOf(server.address);
    const backup = (await (await post(server.address, '/backups')).json()) as { name: string };
    const zip = await (await fetch(`${server.address}/api/v1/project-file`)).arrayBuffer();
    /** What undo leads back to, the nearest last. */
    let past: State[] = [];
    for (let round = 0; round < KILLS; round++) {
      const before = await stateOf(server.address);
      const wanted = (['import', 'undo', 'restore', 'file'] as const)[round % 4] ?? 'import';
      const what = wanted === 'undo' && past.length === 0 ? 'import' : wanted;
      const send = {
        import: () => post(server.address, '/lists/commit', list(deviceId, round)),
        undo: () => post(server.address, '/undo'),
        restore: () => post(server.address, '/backups/restore', { name: backup.name }),
        file: () => fetch(`${server.address}/api/v1/project-file/commit?command=${uuid()}`, { method: 'POST', headers: OCTETS, body: zip }),
      }[what];
      const ended = once(server.process, 'exit');
      const work = send().then(
        (answer) => answer.ok,
        () => null,
      );
      const answered = await Promise.race([work, rest((round * 97) % LATEST_MS).then(() => null)]);
      if (answered === null) cut++;
      server.process.kill('SIGKILL');
      await ended;
      const begun = performance.now();
      server = await start(folder, port);
      startsMs.push(performance.now() - begun);
      const after = await stateOf(server.address);
      const isUntouched = after.digest === before.digest;
      const isDone = {
        import: after.tags === before.tags + ROWS,
        undo: after.digest === past.at(-1)?.digest,
        restore: after.digest === early.digest,
        file: after.digest === early.digest,
      }[what];
      if (!isUntouched && !isDone) odd.push(`${what} in round ${round}: ${before.tags} tags, then ${after.tags}`);
      if (answered === true && !isDone) lost++;
      if (what === 'restore' && isDone) past = [];
      else if (what === 'undo' && isDone) past.pop();
      else if (isDone && !isUntouched) past.push(before);
    }
  } catch (error) {
    odd.push(error instanceof Error ? error.message : String(error));
  } finally {
    server.process.kill('SIGTERM');
    await rest(1000);
    rmSync(folder, { recursive: true, force: true });
  }
  const sorted = [...startsMs].sort((a, b) => a - b);
  const [median = NaN, longest = NaN] = [sorted[sorted.length >> 1], sorted.at(-1)];
  return [
    {
      name: `Changes that ${KILLS} kills left half done, or starts that were refused after one`,
      ratio: odd.length,
      wanted: 0,
      atMost: true,
      detail: `${cut} before the answer; started again in ${Math.round(median)} ms, ${Math.round(longest)} ms at the most${odd.length > 0 ? `; ${odd.join('; ')}` : ''}`,
    },
    { name: 'Changes that were confirmed and are gone after a kill', ratio: lost, wanted: 0, atMost: true, detail: '' },
  ];
}

const OCTETS = { 'content-type': 'application/octet-stream' };

function post(address: string, path: string, body?: object): Promise<Response> {
  const headers = { 'content-type': 'application/json' };
  return fetch(`${address}/api/v1${path}`, body ? { method: 'POST', headers, body: JSON.stringify(body) } : { method: 'POST' });
}

function list(deviceId: string, round: number): object {
  const rows = Array.from({ length: ROWS }, (_, i) => `r${round}_${i},HR${i + 1},INT`);
  return { commandId: uuid(), sourceId: uuid(), deviceId, fileName: `round ${round}.csv`, text: `Name,Address,Type\n${rows.join('\n')}\n` };
}

async function firstDevice(address: string): Promise<string> {
  const [linkId, deviceId] = [uuid(), uuid()];
  const changes = [
    { kind: 'link', id: linkId, set: { name: 'Line', driver: 'modbus-tcp', settings: { host: '127.0.0.1', port: 9 } } },
    { kind: 'device', id: deviceId, set: { linkId, name: 'KILN', settings: { unit: 1 }, dialect: {}, witnessUrl: '' } },
  ];
  const made = await post(address, '/commands', { id: uuid(), label: 'begun', changes });
  if (!made.ok) throw new Error(await made.text());
  return deviceId;
}

async function stateOf(address: string): Promise<State> {
  const { revision: _, ...lists } = (await (await fetch(`${address}/api/v1/project`)).json()) as Readonly<Record<string, unknown>>;
  // The order of entities and of their fields is another one once they were read from the database.
  const sorted = Object.entries(lists).map(([name, all]) => [name, Array.isArray(all) ? all.map(sortedJson).sort() : sortedJson(all)]);
  return {
    digest: createHash('sha256').update(JSON.stringify(sorted)).digest('hex'),
    tags: (lists.tags as readonly unknown[]).length,
  };
}

/** @throws Error when it ends before it is ready */
async function start(folder: string, port: number): Promise<Running> {
  const args = [...SERVER_FLAGS, file('dist/server.mjs'), '--data', folder, '--port', String(port), '--with-parent'];
  const child = spawn(process.execPath, args, { stdio: ['pipe', 'pipe', 'pipe'], env: { ...process.env, NODE_ENV: 'production' } });
  let [said, complained] = ['', ''];
  child.stdout.on('data', (chunk: Buffer) => (said += chunk.toString()));
  child.stderr.on('data', (chunk: Buffer) => (complained += chunk.toString()));
  while (!said.includes('"ready":true')) {
    if (child.exitCode !== null || child.signalCode !== null) throw new Error(`the server did not start: ${complained}`);
    await rest(10);
  }
  return { process: child, address: `http://127.0.0.1:${port}` };
}
