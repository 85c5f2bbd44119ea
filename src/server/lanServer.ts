/** The second server, for other machines: on one address of this one, while it is opened on purpose. */
import type { Server } from 'node:http';
import { fail, ok, type Result } from '@/core/result.ts';

export class LanServer {
  readonly #port: number;
  readonly #make: () => Server;
  #open: Server | null = null;

  /** @param make one that judges who asks as other machines are judged */
  constructor(port: number, make: () => Server) {
    this.#port = port;
    this.#make = make;
  }

  /** Opens it on an address, in the place of what was open before; null closes it. */
  async listen(address: string | null): Promise<Result<null>> {
    await this.#close();
    if (address === null) return ok(null);
    const opened = this.#make();
    return new Promise((resolve) => {
      opened.once('error', (error: NodeJS.ErrnoException) => {
        const why = error.code === 'EADDRNOTAVAIL' ? 'it has no such address' : (error.code ?? error.message);
        resolve(fail('listen', `This machine cannot listen on ${address}: ${why}.`, 'Choose an address of one of its adapters.', 'address'));
      });
      opened.listen(this.#port, address, () => {
        this.#open = opened;
        resolve(ok(null));
      });
    });
  }

  /** At once: nobody waits for its connections. */
  end(): void {
    this.#open?.close();
    this.#open?.closeAllConnections();
  }

  #close(): Promise<void> {
    const open = this.#open;
    this.#open = null;
    return new Promise((resolve) => {
      if (!open) return resolve();
      open.close(() => resolve());
      open.closeAllConnections();
    });
  }
}
