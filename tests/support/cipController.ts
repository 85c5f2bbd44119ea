/** A controller with named tags to test against: the bagging cell's, in this process. */
import { once } from 'node:events';
import type { AddressInfo } from 'node:net';
import { CipServer } from '../../src/standins/pack/cipServer.ts';
import type { ServerTraits } from '../../src/standins/pack/tagServices.ts';
import { PackController } from '../../src/standins/pack/controllerTags.ts';
import { newPack, type PackState } from '../../src/standins/pack/process.ts';

export interface RunningController {
  readonly pack: PackState;
  readonly controller: PackController;
  readonly cip: CipServer;
  readonly port: number;
  stop(): Promise<void>;
}

export async function startController(traits: Partial<ServerTraits> = {}, port = 0): Promise<RunningController> {
  const pack = newPack();
  const controller = new PackController(pack);
  const cip = new CipServer(controller.memory, traits);
  cip.server.listen(port, '127.0.0.1');
  await once(cip.server, 'listening');
  const own = (cip.server.address() as AddressInfo).port;
  const endBroadcasts = await cip.answerBroadcasts(own);
  return {
    pack,
    controller,
    cip,
    port: own,
    async stop() {
      endBroadcasts();
      cip.dropSockets();
      await new Promise((resolve) => cip.server.close(resolve));
    },
  };
}
