/** A panel host inside the test's own process, on a folder of its own: asked as a bench asks, without HTTP. */
import { openHostFiles } from '@/panelHost/hostFiles.ts';
import { HostFolder } from '@/panelHost/hostFolder.ts';
import { PanelHost, type HostPlace } from '@/panelHost/panelHost.ts';
import type { Answers, CallName, CallOf } from '@/core/hosting/messages.ts';
import type { Result } from '@/core/result.ts';
import { systemClock } from '@/runtime/clock.ts';
import { NetworkService } from '@/services/networkService.ts';
import { agree, newPairKeys, seal, unseal } from '@/services/hosting/sealing.ts';

export interface PairedHere {
  readonly id: string;
  readonly key: Buffer;
  call<C extends CallName>(call: C, told: CallOf<C>): Promise<Result<Answers[C]>>;
}

export interface HostHere {
  readonly host: PanelHost;
  readonly folder: HostFolder;
  pair(name: string): Promise<PairedHere>;
  close(): Promise<void>;
  /** As far as its folder can tell, it was killed. */
  crash(): Promise<void>;
}

export async function openHost(path: string, more: Partial<Pick<HostPlace, 'clock' | 'free'>> = {}): Promise<HostHere> {
  const folder = await HostFolder.open(path, 'here');
  const files = await openHostFiles(path);
  const clock = more.clock ?? systemClock;
  const network = new NetworkService(files.network, { port: 4790, listen: async () => ({ ok: true, value: null }) }, clock);
  const host = new PanelHost({ folder, files, network, clock, program: '0', steadyMs: 10_000, onRunning: () => undefined, ...more });
  await host.start();
  return {
    host,
    folder,
    async pair(name) {
      const { code } = host.pairing.show();
      const own = newPairKeys();
      const begun = await host.pairing.begin(name, own.publicKey);
      if (!begun.ok) throw new Error(begun.problem.message);
      const agreed = await agree(own, begun.value.key, code, 'bench');
      const proven = await host.prove(begun.value.pairing, agreed?.benchProof ?? '');
      if (!proven.ok || !agreed) throw new Error('not paired');
      const { key } = agreed;
      const id = proven.value.bench;
      return {
        id,
        key,
        async call(call, told) {
          const { nonce } = host.greeting();
          const answered = await host.call(id, nonce, seal(key, 'host', nonce, { ...told, call }));
          return answered.ok ? (unseal(key, 'bench', nonce, answered.value) as never) : answered;
        },
      };
    },
    async crash() {
      await host.running?.close();
      await files.close();
    },
    async close() {
      await host.close();
      await files.close();
    },
  };
}
