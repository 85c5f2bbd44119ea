/**
 * One change of a register at a time. A bit is written by reading its register, changing it and writing it back: what
 * somebody else changes in between would be undone. Changes that share a register wait for those that came before,
 * whichever tag, device or link of this process they come from.
 */
interface Running {
  readonly party: string;
  readonly start: number;
  readonly end: number;
  readonly over: Promise<unknown>;
}

export class RegisterChanges {
  readonly #running = new Set<Running>();

  /** @param party who is addressed: where the link leads, and the unit */
  run<T>(party: string, start: number, count: number, change: () => Promise<T>): Promise<T> {
    const end = start + count;
    const before = [...this.#running].filter((r) => r.party === party && r.start < end && start < r.end).map((r) => r.over);
    const changed = before.length === 0 ? change() : Promise.allSettled(before).then(change);
    const mine: Running = { party, start, end, over: changed };
    this.#running.add(mine);
    const forget = (): void => void this.#running.delete(mine);
    changed.then(forget, forget);
    return changed;
  }
}
