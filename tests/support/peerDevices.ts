/** Leads a link to a process that speaks for its devices, by an encoder that is not ours: a peer, and a witness by its control channel. */
import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { Tag } from '@/core/project/entities.ts';
import type { Bench } from './services.ts';
import { simulatedConfig } from './simulatedConfig.ts';

const START_MS = 10_000;

const program = fileURLToPath(new URL('../../dist/standin-simulated.mjs', import.meta.url));

interface RunningSimulation {
  readonly port: number;
  readonly controlPort: number;
  stop(): void;
}

/** @returns the address of its control channel, and what ends it */
export async function leadToPeer(bench: Bench, linkId: string): Promise<{ readonly witness: string; readonly stop: () => void }> {
  const { model } = bench.services;
  const devices = model.all('device').filter((device) => device.linkId === linkId);
  const tagOf = ({ id, name }: Tag) => {
    const signal = model.effective(id);
    return signal.ok ? [{ name, canonical: signal.value.canonical, def: signal.value.def, isSetPoint: signal.value.access === 'readWrite' }] : [];
  };
  const config = simulatedConfig(
    devices.map(({ id, name, settings, dialect }) => ({ name, settings, dialect, tags: model.tagsOf(id).flatMap(tagOf) })),
  );
  if (!config.ok) throw new Error(config.problem.message);
  const running = await start(config.value);
  const { port, controlPort } = running;
  const witness = `http://127.0.0.1:${controlPort}`;
  await bench.change('led to a peer', [
    { kind: 'link', id: linkId, set: { driver: 'modbus-tcp', settings: { host: '127.0.0.1', port } } },
    ...devices.map(({ id }) => ({ kind: 'device' as const, id, set: { witnessUrl: witness } })),
  ]);
  return { witness, stop: () => running.stop() };
}

function start(config: object): Promise<RunningSimulation> {
  const folder = mkdtempSync(join(tmpdir(), 'mill-latch-simulation-'));
  const file = join(folder, 'devices.json');
  writeFileSync(file, JSON.stringify(config));
  const child = spawn(process.execPath, [program, '--config', file, '--with-parent'], { stdio: ['pipe', 'pipe', 'inherit'] });
  return new Promise<RunningSimulation>((resolve, reject) => {
    let text = '';
    const stop = (): void => void child.kill('SIGTERM');
    const late = setTimeout(() => {
      stop();
      reject(new Error('it did not answer in time'));
    }, START_MS);
    child.stdout.on('data', (chunk: Buffer) => {
      text += chunk.toString();
      const line = text.split('\n')[0];
      if (!text.includes('\n') || !line) return;
      clearTimeout(late);
      const { port, controlPort } = JSON.parse(line) as { port: number; controlPort: number };
      resolve({ port, controlPort, stop });
    });
    child.on('error', reject);
    child.on('exit', (code) => {
      clearTimeout(late);
      rmSync(folder, { recursive: true, force: true });
      reject(new Error(`it ended with ${code ?? 'a signal'}`));
    });
  });
}
