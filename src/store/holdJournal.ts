/**
 * What is held on, written to the disk before it goes on: a server that was killed, or a machine whose power was cut, tells
 * afterwards what it may have left on. A file of its own: the database does not force its writes to the disk.
 */
import { jsonObjectIn } from '@/core/jsonText.ts';
import { open, readFile, rename, type FileHandle } from 'node:fs/promises';
import { join } from 'node:path';

export interface HoldEntry {
  readonly holdId: string;
  readonly tagId: string;
  readonly tagName: string;
  readonly deviceName: string;
  /** Of the signal path: it is switched off only where it was switched on. */
  readonly digest: string;
  /** Where that is, for the person who has to go there. */
  readonly place: string;
  /** ISO time. */
  readonly at: string;
}

const FILE = 'held.jsonl';

export class HoldJournal {
  readonly #file: FileHandle;
  /** One line after the other. */
  #last: Promise<unknown> = Promise.resolve();
  #closed: Promise<void> | null = null;

  private constructor(file: FileHandle) {
    this.#file = file;
  }

  /** @returns the journal, and what was on when the server before ended */
  static async open(folder: string): Promise<{ readonly journal: HoldJournal; readonly left: readonly HoldEntry[] }> {
    const path = join(folder, FILE);
    const left = leftIn(await readFile(path, 'utf8').catch((error: NodeJS.ErrnoException) => (error.code === 'ENOENT' ? '' : Promise.reject(error))));
    const draft = `${path}.new`;
    const file = await open(draft, 'w');
    await file.write(left.map((entry) => `${JSON.stringify(entry)}\n`).join(''));
    await file.sync();
    await rename(draft, path);
    return { journal: new HoldJournal(file), left };
  }

  /** Settles when it is on the disk. */
  begin(entry: HoldEntry): Promise<void> {
    return this.#write(entry);
  }

  end(holdId: string): Promise<void> {
    return this.#write({ ended: holdId });
  }

  /** What is noted afterwards is not kept: what is on then is told at the next start. */
  close(): Promise<void> {
    this.#closed ??= this.#last.then(() => this.#file.close());
    return this.#closed;
  }

  #write(line: object): Promise<void> {
    if (this.#closed) return Promise.resolve();
    const written = this.#last.then(async () => {
      await this.#file.appendFile(`${JSON.stringify(line)}\n`);
      await this.#file.datasync();
    });
    this.#last = written.catch(() => undefined);
    return written;
  }
}

/** A line that was cut by the end of the server is the beginning of one that was never sent. */
function leftIn(text: string): readonly HoldEntry[] {
  const left = new Map<string, HoldEntry>();
  for (const line of text.split('\n')) {
    const read = jsonObjectIn(line);
    if (read && typeof read.ended === 'string') left.delete(read.ended);
    else if (read && typeof read.holdId === 'string') left.set(read.holdId, read as unknown as HoldEntry);
  }
  return [...left.values()];
}
