/** What everybody should know of the server itself: room on the disk, the database, how it started. Told on every page. */
import type { Trouble } from '@/core/live/status.ts';
import type { Problem } from '@/core/result.ts';
import type { Clock } from '@/drivers/contract.ts';
import type { Database } from '@/store/database.ts';
import { freeBytes } from '@/store/freeBytes.ts';
import { FULL, STUCK } from '@/store/storeTrouble.ts';

const LOOK_MS = 5000;
/** Less room than this is told. */
const LOW_BYTES = 500_000_000;
/** With less than this nothing more is stored: the database takes 16 MB at a time, and must not meet the end of the disk. */
const FULL_BYTES = 96_000_000;

const MAKE_ROOM = 'Make room on the disk of the data folder. Reading goes on meanwhile.';

export interface TroubleSources {
  /** Room on the disk, in bytes. */
  readonly free?: (folder: string) => Promise<number>;
  /** Why the server was started again by itself; empty where a person started it. */
  readonly startedAgain: string;
  /** Proof records that are not what was signed here. */
  doubt(): { readonly altered: number; readonly gaps: number };
  /** Pages that have shown something else than their controllers hold; null while none does. */
  disagreement(): string | null;
}

export class TroubleService {
  readonly #database: Pick<Database, 'isStuck' | 'isFull'>;
  readonly #folder: string;
  readonly #clock: Clock;
  readonly #sources: TroubleSources;
  readonly #startedAt: number;
  #free = Infinity;
  #cancel: () => void = () => undefined;

  constructor(database: Pick<Database, 'isStuck' | 'isFull'>, folder: string, clock: Clock, sources: TroubleSources) {
    this.#database = database;
    this.#folder = folder;
    this.#clock = clock;
    this.#sources = sources;
    this.#startedAt = clock.now();
  }

  /** Looks at the disk, now and again and again. */
  async start(): Promise<void> {
    await this.look();
    this.#cancel = this.#clock.after(LOOK_MS, () => void this.start());
  }

  close(): void {
    this.#cancel();
  }

  async look(): Promise<void> {
    try {
      this.#free = await (this.#sources.free ?? freeBytes)(this.#folder);
    } catch (error) {
      // A folder that cannot be looked at cannot be written to.
      console.error('The room on the disk is not known:', error);
      this.#free = 0;
    }
    this.#database.isFull = this.#isFull;
  }

  /** Why the project cannot be changed now; null when it can. */
  get problem(): Problem | null {
    if (this.#database.isStuck) return { code: 'store-stuck', message: STUCK, remedy: 'Start Mill Latch again.' };
    return this.#isFull ? { code: 'disk-full', message: FULL, remedy: MAKE_ROOM } : null;
  }

  get all(): readonly Trouble[] {
    const found: (Omit<Trouble, 'at'> & { readonly at?: string })[] = [];
    const freeMb = Math.round(this.#free / 1_000_000);
    const { altered, gaps } = this.#sources.doubt();
    const disagreement = this.#sources.disagreement();
    if (this.#database.isStuck)
      found.push({
        code: 'store-stuck',
        message: 'The database gives no answer: nothing is stored any more.',
        remedy: 'Start Mill Latch again. Reading goes on.',
      });
    if (this.#isFull)
      found.push({ code: 'disk-full', message: `The disk is full (${freeMb} MB left): the project cannot be changed.`, remedy: MAKE_ROOM });
    else if (this.#free < LOW_BYTES)
      found.push({
        code: 'disk-low',
        message: `The disk has ${freeMb} MB left.`,
        remedy: `Below ${FULL_BYTES / 1_000_000} MB the project can no longer be changed.`,
      });
    if (this.#sources.startedAgain !== '')
      found.push({
        code: 'started-again',
        message: `Mill Latch was started again by itself: ${this.#sources.startedAgain}.`,
        at: new Date(this.#startedAt).toISOString(),
        remedy: 'Everything is locked again. What was held on then is told above.',
      });
    if (disagreement !== null)
      found.push({ code: 'page-disagrees', message: disagreement, remedy: 'Do not go by that page: reload it, and check the tag.' });
    if (altered > 0)
      found.push({
        code: 'proofs-altered',
        message: `${altered} proof records are not what was signed in this data folder; they prove nothing.`,
        remedy: 'Check those tags again. Was the key of the folder lost, or the database edited?',
      });
    else if (gaps > 0)
      found.push({
        code: 'proofs-missing',
        message: `Proof records are missing in ${gaps === 1 ? 'one place' : `${gaps} places`}: a check that failed may be among them.`,
        remedy: 'Check again what must be certain. Was the database edited?',
      });
    return found.map((trouble) => ({ at: null, ...trouble }));
  }

  get #isFull(): boolean {
    return this.#free < FULL_BYTES;
  }
}
