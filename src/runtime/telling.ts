/** What devices tell by themselves of what was written to them. */
import { followWire, type Stages, unjudged } from '@/core/signal.ts';
import type { Engine } from './engine.ts';
import type { PreparedWrite } from './writer.ts';

/** Listens, from before a write is sent, to what devices tell by themselves. */
export class Telling {
  readonly #engine: Engine;
  readonly #told = new Map<string, Stages>();
  readonly #waiting = new Set<() => void>();
  readonly #stop: () => void;

  constructor(engine: Engine, going: readonly PreparedWrite[]) {
    this.#engine = engine;
    const signals = new Map(going.map(({ target }) => [target.tag.id, target.signal]));
    const tells = going.some(({ target }) => target.confirms.by === 'telling');
    this.#stop = tells
      ? engine.live.onSample((tagId) => {
          const signal = signals.get(tagId);
          const wire = signal && engine.live.get(tagId)?.wire;
          if (!wire) return;
          this.#told.set(tagId, followWire(unjudged(signal.def), wire));
          for (const wake of this.#waiting) wake();
        })
      : () => undefined;
  }

  /** What was told of each, at the latest so long after now: until each holds what was written, or time is over. */
  async of(asked: readonly PreparedWrite[], withinMs: number, stop: AbortSignal | undefined): Promise<ReadonlyMap<PreparedWrite, Stages>> {
    const isHeld = ({ target: { tag }, plan }: PreparedWrite): boolean => this.#told.get(tag.id)?.raw === plan.raw;
    await new Promise<void>((resolve) => {
      const look = (): void => {
        if (asked.every(isHeld) || stop?.aborted) end();
      };
      const end = (): void => {
        cancel();
        this.#waiting.delete(look);
        stop?.removeEventListener('abort', end);
        resolve();
      };
      const cancel = this.#engine.clock.after(withinMs, end);
      this.#waiting.add(look);
      stop?.addEventListener('abort', end);
      look();
    });
    return new Map(
      asked.flatMap((prepared) => {
        const stages = this.#told.get(prepared.target.tag.id);
        return stages ? [[prepared, stages] as const] : [];
      }),
    );
  }

  end(): void {
    this.#stop();
  }
}
