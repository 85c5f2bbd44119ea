/** Starts simulated devices as processes of their own, which end with this one. */
import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { RunningSimulation, StartSimulation } from '@/services/simulationService.ts';

const START_MS = 10_000;

/** @param program the stand-in that was built */
export function simulationHost(program: string): StartSimulation {
  return (config) => {
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
  };
}
