/** One panel at work: its model online, and its live channel. Another project gets another one. */
import type { Hosted } from '@/core/hosting/messages.ts';
import type { Status, Trouble } from '@/core/live/status.ts';
import type { Clock } from '@/drivers/contract.ts';
import { createPanelWork, type PanelWork } from '@/services/panelWork.ts';
import { panelStatus } from '@/services/seenFromPanels.ts';
import { statusOf } from '@/services/snapshot.ts';
import type { NetworkService } from '@/services/networkService.ts';
import { PicturesInMemory } from '@/store/files/hostFiles.ts';
import { LiveChannel, type ChannelServices } from '@/server/liveChannel.ts';
import type { HostFiles } from './hostFiles.ts';
import type { LoadedProject } from './loadProject.ts';

/** What route handlers of panels ask for. */
export interface RunningServices extends PanelWork, ChannelServices {
  readonly audit: HostFiles['audit'];
  readonly network: NetworkService;
}

export interface Running {
  readonly hosted: Hosted;
  readonly services: RunningServices;
  readonly channel: LiveChannel;
  /** Lets go of what is held, and goes offline. */
  close(): Promise<void>;
}

export interface RunningPlace {
  readonly folder: string;
  readonly clock: Clock;
  readonly files: HostFiles;
  readonly network: NetworkService;
  readonly troubles: () => readonly Trouble[];
}

export async function run(loaded: LoadedProject, hosted: Hosted, { folder, clock, files, network, troubles }: RunningPlace): Promise<Running> {
  const pictures = new PicturesInMemory();
  for (const { digest, type, bytes } of loaded.pictures) await pictures.keep(digest, type, bytes);
  const stores = { ...files, pictures, localValues: null, alarms: { ...alarmsOf(files), close: async () => undefined } };
  const work = await createPanelWork(loaded.model, stores, { folder, clock, revision: () => 1 });
  const status = (): Status => statusOf(work, { all: troubles() }, { values: [], isolated: [] });
  const services: RunningServices = {
    ...work,
    audit: files.audit,
    network,
    // A project changes here as a whole, with its process's whole work.
    projects: { revision: 1, onApplied: () => () => undefined },
    checks: { proofs: { onProof: () => () => undefined } },
    status,
    panelStatus: () => panelStatus(status()),
  };
  const channel = new LiveChannel();
  await work.start();
  channel.begin(services);
  return {
    hosted,
    services,
    channel,
    async close() {
      await work.endWriting();
      channel.close();
      await work.close();
    },
  };
}

/** The log goes on when its alarms do not. */
function alarmsOf({ alarms }: HostFiles): Pick<HostFiles['alarms'], 'standings' | 'keep' | 'forget' | 'records'> {
  return {
    standings: () => alarms.standings(),
    keep: (...event) => alarms.keep(...event),
    forget: (id) => alarms.forget(id),
    records: (filter) => alarms.records(filter),
  };
}
