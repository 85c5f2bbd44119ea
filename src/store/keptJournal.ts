/**
 * The last value of each local tag in a file of its own, forced to the disk at most once a second: the database does not force its
 * writes, so that alone it would go back by some seconds when the power is cut. A line is in the file before a write is
 * confirmed, so a server that is killed loses nothing.
 */
import { open, readFile, rename, type FileHandle } from 'node:fs/promises';
import { join } from 'node:path';
import { jsonObjectIn } from '@/core/jsonText.ts';
import type { KeptState } from '@/core/live/status.ts';
import type { RawValue } from '@/core/value/codec.ts';
import { isDecimal } from '@/core/value/decimal.ts';
import { fromJson, toJson, type ValueJson } from '@/core/value/engineering.ts';
import type { StoredLocalValue } from './localValueStore.ts';

export const KEPT_FILE = 'kept.jsonl';
export const FORCED_EVERY_MS = 1000;
/** Lines after which it is written anew, with one for each tag. */
const MOST_LINES = 20_000;

interface Timer {
  now(): number;
  after(ms: number, call: () => void): () => void;
}

export class KeptJournal {
  readonly #path: string;
  readonly #clock: Timer;
  readonly #values: Map<string, StoredLocalValue>;
  #file: FileHandle;
  #lines: number;
  /** One after the other. */
  #last: Promise<unknown> = Promise.resolve();
  #state: KeptState = { at: null, isWaiting: false, problem: '' };
  #forcedAt = -Infinity;
  #cancel: (() => void) | null = null;
  #isClosed = false;

  private constructor(path: string, clock: Timer, file: FileHandle, values: Map<string, StoredLocalValue>) {
    this.#path = path;
    this.#clock = clock;
    this.#file = file;
    this.#values = values;
    this.#lines = values.size;
  }

  /** @param known values of the database; what the journal has of a tag is at least as new */
  static async open(folder: string, clock: Timer, known: ReadonlyMap<string, StoredLocalValue>): Promise<KeptJournal> {
    const path = join(folder, KEPT_FILE);
    const text = await readFile(path, 'utf8').catch((error: NodeJS.ErrnoException) => (error.code === 'ENOENT' ? '' : Promise.reject(error)));
    const values = new Map([...known, ...valuesIn(text)]);
    return new KeptJournal(path, clock, await writtenAnew(folder, path, values), values);
  }

  get values(): ReadonlyMap<string, StoredLocalValue> {
    return this.#values;
  }

  get state(): KeptState {
    return this.#state;
  }

  /** Settles when it is in the file; it is forced to the disk within a second. */
  keep(tagId: string, value: RawValue, at: number): Promise<void> {
    this.#values.set(tagId, { value, at });
    return this.#inTurn(async () => {
      await this.#file.appendFile(lineOf(tagId, { value, at }));
      this.#lines++;
      this.#state = { ...this.#state, isWaiting: true };
      this.#forceSoon();
    });
  }

  async close(): Promise<void> {
    if (this.#isClosed) return;
    this.#isClosed = true;
    this.#cancel?.();
    await this.#inTurn(() => this.#force()).catch(() => undefined);
    await this.#file.close();
  }

  #inTurn<T>(work: () => Promise<T>): Promise<T> {
    const done = this.#last.then(work);
    this.#last = done.catch(() => undefined);
    return done;
  }

  #forceSoon(): void {
    if (this.#cancel || this.#isClosed) return;
    // A timer counts whole milliseconds, and may be one early.
    const wait = Math.max(0, this.#forcedAt + FORCED_EVERY_MS - this.#clock.now());
    this.#cancel = this.#clock.after(wait === 0 ? 0 : Math.ceil(wait) + 1, () => {
      this.#cancel = null;
      void this.#inTurn(() => this.#force()).catch(() => undefined);
    });
  }

  /** Runs in its turn: no line is added meanwhile. */
  async #force(): Promise<void> {
    if (!this.#state.isWaiting) return;
    this.#forcedAt = this.#clock.now();
    try {
      if (this.#lines > MOST_LINES) await this.#shorten();
      else await this.#file.datasync();
      // As of its beginning: that is how old what lies on the disk may be.
      this.#state = { at: this.#forcedAt, isWaiting: false, problem: '' };
    } catch (error) {
      this.#state = { ...this.#state, problem: error instanceof Error ? error.message : String(error) };
      this.#forceSoon();
    }
  }

  async #shorten(): Promise<void> {
    const before = this.#file;
    this.#file = await writtenAnew(join(this.#path, '..'), this.#path, this.#values);
    this.#lines = this.#values.size;
    await before.close();
  }
}

const lineOf = (tagId: string, { value, at }: StoredLocalValue): string => `${JSON.stringify({ tagId, value: toJson(value), at })}\n`;

/** A whole file takes the place of the one before: old or new, never between. */
async function writtenAnew(folder: string, path: string, values: ReadonlyMap<string, StoredLocalValue>): Promise<FileHandle> {
  const draft = `${path}.new`;
  const file = await open(draft, 'w');
  await file.write([...values].map(([tagId, stored]) => lineOf(tagId, stored)).join(''));
  await file.sync();
  await rename(draft, path);
  const directory = await open(folder, 'r');
  await directory.sync().finally(() => directory.close());
  return file;
}

/** A line that a power cut left half is none: the value before it counts. */
function valuesIn(text: string): ReadonlyMap<string, StoredLocalValue> {
  const values = new Map<string, StoredLocalValue>();
  for (const line of text.split('\n')) {
    const read = jsonObjectIn(line);
    const value = read && typeof read.value === 'object' && read.value !== null ? fromJson(read.value as ValueJson) : null;
    if (!read || typeof read.tagId !== 'string' || value?.ok !== true || isDecimal(value.value)) continue;
    values.set(read.tagId, { value: value.value, at: typeof read.at === 'number' ? read.at : null });
  }
  return values;
}
