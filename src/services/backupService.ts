/** Backups of the data folder: on request, once a day, before what is risky; and going back to one. */
import { fail, ok, type Result } from '@/core/result.ts';
import type { Clock } from '@/drivers/contract.ts';
import { askForRestore, listBackups, type Backup, type BackupReason } from '@/store/backups.ts';
import type { Database } from '@/store/database.ts';
import { freeBytes } from '@/store/freeBytes.ts';
import type { Host } from './services.ts';

const DAY_MS = 86_400_000;
/** How often it is looked whether a day has passed: the machine may have slept. */
const LOOK_MS = 600_000;
/** Room that a backup leaves on the disk. */
const ROOM_LEFT_BYTES = 500_000_000;

export class BackupService {
  readonly #database: Database;
  readonly #host: Host;
  readonly #clock: Clock;
  /** The last change that is known to be in a backup. */
  #saved = -1;
  #cancel: () => void = () => undefined;
  /** One at a time. */
  #making: Promise<unknown> = Promise.resolve();

  constructor(database: Database, host: Host, clock: Clock) {
    this.#database = database;
    this.#host = host;
    this.#clock = clock;
  }

  start(): void {
    this.#cancel = this.#clock.after(LOOK_MS, () => {
      this.daily().catch((error: unknown) => console.error('The daily backup could not be made:', error));
      this.start();
    });
  }

  /** Waits for one that is being made. */
  async close(): Promise<void> {
    this.#cancel();
    await this.#making;
  }

  list(): Promise<readonly Backup[]> {
    return listBackups(this.#host.folder);
  }

  /** Makes one now; changes wait meanwhile, reading goes on. */
  async make(why: BackupReason): Promise<Result<Backup>> {
    const free = await freeBytes(this.#host.folder);
    if (free < ROOM_LEFT_BYTES)
      return fail(
        'disk-full',
        `The disk of the data folder has ${Math.round(free / 1_000_000)} MB left: a backup could fill it.`,
        'Make room first, or move the data folder.',
      );
    const making = this.#making.then(() => this.#database.backUp(why));
    this.#making = making.catch(() => undefined);
    const made = await making;
    this.#saved = await this.#lastChange();
    return ok(made);
  }

  /** Makes the backup of the day, where the newest is a day old and something was changed since. */
  async daily(): Promise<void> {
    const [newest] = await this.list();
    if (newest && this.#clock.now() - Date.parse(newest.at) < DAY_MS) return;
    const last = await this.#lastChange();
    if (last === 0 || last === this.#saved) return;
    const made = await this.make('daily');
    if (!made.ok) console.error(`The daily backup was not made: ${made.problem.message}`);
  }

  /** Goes back to a backup: the server starts again with it, and what is there now becomes a backup itself. */
  async restore(name: string): Promise<Result<{ readonly restarting: true }>> {
    const asked = await askForRestore(this.#host.folder, name);
    if (!asked.ok) return asked;
    this.#host.restart();
    return ok({ restarting: true });
  }

  async #lastChange(): Promise<number> {
    return Number((await this.#database.query('select coalesce(max(seq), 0) as seq from change_log'))[0]?.seq ?? 0);
  }
}
