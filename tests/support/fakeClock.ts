/** A clock in the test's hand: nothing happens until time is moved on. */
import type { Clock } from '@/drivers/contract.ts';

export class FakeClock implements Clock {
  #now = 1_000_000;
  #timers: { readonly at: number; readonly call: () => void }[] = [];
  readonly #settle: () => Promise<void>;

  /** @param turns whether what waits for another turn of the loop happens between two timers too */
  constructor(turns: 'promises' | 'loop' = 'promises') {
    this.#settle = turns === 'promises' ? settle : () => new Promise((resolve) => setImmediate(resolve));
  }

  now(): number {
    return this.#now;
  }

  after(ms: number, call: () => void): () => void {
    const timer = { at: this.#now + Math.max(0, ms), call };
    this.#timers.push(timer);
    return () => {
      this.#timers = this.#timers.filter((t) => t !== timer);
    };
  }

  /** Moves on, timer by timer; what each sets off in promises happens before the next. */
  async pass(ms: number): Promise<void> {
    const end = this.#now + ms;
    await this.#settle();
    for (;;) {
      const next = this.#timers.reduce<{ at: number; call: () => void } | null>(
        (soonest, t) => (t.at <= end && (soonest === null || t.at < soonest.at) ? t : soonest),
        null,
      );
      if (!next) break;
      this.#timers = this.#timers.filter((t) => t !== next);
      this.#now = Math.max(this.#now, next.at);
      next.call();
      await this.#settle();
    }
    this.#now = end;
    await this.#settle();
  }
}

async function settle(): Promise<void> {
  for (let i = 0; i < 20; i++) await Promise.resolve();
}
