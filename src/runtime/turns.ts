/** Work that must not run at the same time as other work of the same kind: each waits for those that came before. */
export class Turns {
  readonly #last = new Map<string, Promise<unknown>>();

  run<T>(key: string, work: () => Promise<T>): Promise<T> {
    const mine = (this.#last.get(key) ?? Promise.resolve()).then(work);
    const ended: Promise<void> = mine
      .then(
        () => undefined,
        () => undefined,
      )
      .then(() => {
        if (this.#last.get(key) === ended) this.#last.delete(key);
      });
    this.#last.set(key, ended);
    return mine;
  }
}
