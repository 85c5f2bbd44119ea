/** Two serial ports that are wired to each other, made by Debian's socat. */
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { existsSync, mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { until } from './until.ts';

export interface PseudoTerminals {
  /** For the product. */
  readonly near: string;
  /** For the device. */
  readonly far: string;
  close(): Promise<void>;
}

/** @param at name of the near end, when it must be one that was there before */
export async function openPseudoTerminals(at?: string): Promise<PseudoTerminals> {
  const folder = at ? dirname(at) : mkdtempSync(join(tmpdir(), 'mill-latch-line-'));
  mkdirSync(folder, { recursive: true });
  const near = at ?? join(folder, 'near');
  const far = join(folder, 'far');
  const end = (link: string): string => `pty,raw,echo=0,link=${link}`;
  const socat = spawn('socat', [end(near), end(far)], { stdio: 'ignore' });
  await until('the pseudo-terminals are there', () => existsSync(near) && existsSync(far));
  return {
    near,
    far,
    close: async () => {
      if (socat.exitCode !== null || socat.signalCode !== null) return;
      const ended = once(socat, 'exit');
      socat.kill('SIGTERM');
      await ended;
      if (!at) rmSync(folder, { recursive: true, force: true });
    },
  };
}
