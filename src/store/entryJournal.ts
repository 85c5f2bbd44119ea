/**
 * What was written to a machine and is to be taken back, on the disk before it is written: a server that was killed, or a
 * computer whose power was cut, tells afterwards what it may have left there. A file of its own: the database does not force
 * its writes to the disk.
 */
import { jsonObjectIn } from '@/core/jsonText.ts';
import { open, readFile, rename, type FileHandle } from 'node:fs/promises';
import { join } from 'node:path';

/** A kind of entries, in a file of its own. */
export interface Journaled<E> {
  readonly file: string;
  readonly idOf: (entry: E) => string;
}

export class EntryJournal<E extends object> {
  readonly #file: FileHandle;
  /** One line after the other. */
  #last: Promise<unknown> = Promise.resolve();
  #closed: Promise<void> | null = null;

  private constructor(file: FileHandle) {
    this.#file = file;
  }

  /** @returns the journal, and what was begun and not ended when the server before ended */
  static async open<E extends object>(
    folder: string,
    { file: name, idOf }: Journaled<E>,
  ): Promise<{ readonly journal: EntryJournal<E>; readonly left: readonly E[] }> {
    const path = join(folder, name);
    const text = await readFile(path, 'utf8').catch((error: NodeJS.ErrnoException) => (error.code === 'ENOENT' ? '' : Promise.reject(error)));
    const left = leftIn(text, idOf);
    const draft = `${path}.new`;
    const file = await open(draft, 'w');
    await file.write(left.map((entry) => `${JSON.stringify(entry)}\n`).join(''));
    await file.sync();
    await rename(draft, path);
    return { journal: new EntryJournal<E>(file), left };
  }

  /** Settles when it is on the disk. One with the same id takes the place of the one before. */
  begin(entry: E): Promise<void> {
    return this.#write(entry);
  }

  end(id: string): Promise<void> {
    return this.#write({ ended: id });
  }

  /** What is noted afterwards is not kept: what is open then is told at the next start. */
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
function leftIn<E extends object>(text: string, idOf: (entry: E) => string): readonly E[] {
  const left = new Map<string, E>();
  for (const line of text.split('\n')) {
    const read = jsonObjectIn(line);
    if (read && typeof read.ended === 'string') left.delete(read.ended);
    else if (read && typeof idOf(read as E) === 'string') left.set(idOf(read as E), read as E);
  }
  return [...left.values()];
}
