/** Backups of the data folder, and going back to one. */
import { ok, type Result } from '@/core/result.ts';
import { askForRestore, listBackups, type Backup } from '@/store/backups.ts';
import type { Host } from './services.ts';

export class BackupService {
  readonly #host: Host;

  constructor(host: Host) {
    this.#host = host;
  }

  list(): Promise<readonly Backup[]> {
    return listBackups(this.#host.folder);
  }

  /** Goes back to a backup: the server starts again with it, and what is there now becomes a backup itself. */
  async restore(name: string): Promise<Result<{ readonly restarting: true }>> {
    const asked = await askForRestore(this.#host.folder, name);
    if (!asked.ok) return asked;
    this.#host.restart();
    return ok({ restarting: true });
  }
}
