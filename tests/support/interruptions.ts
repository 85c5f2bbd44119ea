/** Transfers to a panel host that are interrupted at random moments: the host is killed, or the sender goes. */
import type { SendProgress } from '@/core/hosting/compared.ts';
import { atHand, compared, sendOver } from './pairHost.ts';
import type { RunningServer } from './server.ts';

export interface Interrupted {
  readonly server: RunningServer;
  readonly hostId: string;
  readonly panelId: string;
  /** How long one takes that is not interrupted. */
  readonly typicalMs: number;
  readonly host: RunningServer;
  /** Makes the panel another one. */
  readonly change: (n: number) => Promise<void>;
  /** Starts the host on its folder again. */
  readonly restart: () => Promise<RunningServer>;
}

export interface Outcome {
  old: number;
  isNew: number;
  neither: number;
  kills: number;
  readonly seed: number;
}

export async function interruptions(how: Interrupted, count: number, seed: number): Promise<Outcome> {
  const { server, hostId, panelId, typicalMs, change, restart } = how;
  let { host } = how;
  let state = seed;
  // A linear congruential generator (Numerical Recipes): the same moments with the same seed.
  const random = (): number => (state = (1_664_525 * state + 1_013_904_223) % 2 ** 32) / 2 ** 32;
  const outcome: Outcome = { old: 0, isNew: 0, neither: 0, kills: 0, seed };
  for (let n = 0; n < count; n++) {
    await change(1000 + n);
    const { digest: wanted, state: before } = await compared(server, hostId, panelId);
    const old = before.hosted?.digest ?? null;
    const isKill = random() < 0.7;
    const atMs = random() * typicalMs * 1.2;
    const sender = new AbortController();
    const sending: Promise<SendProgress | undefined> = sendOver(server, hostId, panelId, old, sender.signal).catch(() => undefined);
    await new Promise((resolve) => setTimeout(resolve, atMs));
    if (isKill) {
      outcome.kills++;
      await host.stop('SIGKILL');
      await sending;
      host = await restart();
    } else {
      sender.abort();
      await sending;
    }
    const now = await settled(host);
    if (now === wanted) outcome.isNew++;
    else if (now === old) outcome.old++;
    else outcome.neither++;
  }
  return outcome;
}

/** What runs once it has shown that it does. @returns null for nothing */
async function settled(host: RunningServer): Promise<string | null> {
  let last: string | null = null;
  for (let same = 0, tries = 0; same < 2 && tries < 400; tries++) {
    const { phase, hosted } = await atHand(host);
    const now = hosted?.digest ?? null;
    same = phase !== 'trying' && now === last ? same + 1 : 0;
    last = now;
    await new Promise((resolve) => setTimeout(resolve, 25));
  }
  return last;
}
