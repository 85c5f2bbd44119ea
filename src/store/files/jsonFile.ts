/** A small thing kept whole in one file: changed one after the other, and on the disk before its writer goes on. */
import { readFile, rename } from 'node:fs/promises';
import { writeWhole } from '../writeWhole.ts';

export class JsonFile<T> {
  readonly #path: string;
  readonly #mode: number;
  #value: T;
  #last: Promise<unknown> = Promise.resolve();

  private constructor(path: string, value: T, mode: number) {
    this.#path = path;
    this.#value = value;
    this.#mode = mode;
  }

  /**
   * A file that is no JSON, or not of this kind, was not written here: it is put aside, and said.
   * @param empty what it holds before anything is kept
   */
  static async open<T>(path: string, empty: T, isOne: (value: unknown) => boolean, mode = 0o600): Promise<JsonFile<T>> {
    const text = await readFile(path, 'utf8').catch((error: NodeJS.ErrnoException) => (error.code === 'ENOENT' ? null : Promise.reject(error)));
    if (text === null) return new JsonFile(path, empty, mode);
    let value: unknown;
    try {
      value = JSON.parse(text);
    } catch {
      value = undefined;
    }
    if (isOne(value)) return new JsonFile(path, value as T, mode);
    const aside = `${path}.damaged`;
    await rename(path, aside);
    console.error(`${path} could not be read. It is put aside as ${aside}, and begun anew.`);
    return new JsonFile(path, empty, mode);
  }

  get value(): T {
    return this.#value;
  }

  /** @returns when it is on the disk; until then, and where it cannot be, it is what it was. @throws Error when it cannot be */
  change(next: (before: T) => T): Promise<void> {
    const done = this.#last.then(async () => {
      const value = next(this.#value);
      await writeWhole(this.#path, JSON.stringify(value), this.#mode);
      this.#value = value;
    });
    this.#last = done.catch(() => undefined);
    return done;
  }
}

export function isObject(value: unknown): value is Readonly<Record<string, unknown>> {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}
