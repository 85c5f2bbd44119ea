/** Local tags that have a behaviour: their values move by it, and what is kept of them stays as it was. */
import type { Clock } from '@/drivers/contract.ts';
import { deviceIdOf } from '@/core/project/tagSource.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import type { LiveTable } from '../liveTable.ts';
import type { Simulator } from './simulator.ts';

const EVERY_MS = 200;

export class SimulatedLocals {
  readonly #model: ProjectModel;
  readonly #live: LiveTable;
  readonly #clock: Clock;
  readonly #simulator: Simulator;
  #cancel: (() => void) | null = null;

  constructor(model: ProjectModel, live: LiveTable, clock: Clock, simulator: Simulator) {
    this.#model = model;
    this.#live = live;
    this.#clock = clock;
    this.#simulator = simulator;
  }

  /** Runs while there is something to do. */
  follow(): void {
    if (this.#model.count('simulation') > 0) this.#cancel ??= this.#clock.after(EVERY_MS, () => this.#step());
  }

  close(): void {
    this.#cancel?.();
    this.#cancel = null;
  }

  #step(): void {
    this.#cancel = null;
    for (const { id, behaviour } of this.#model.all('simulation')) {
      const tag = this.#model.get('tag', id);
      // One that holds does so by itself, and takes what is written.
      if (!tag || tag.source.kind !== 'local' || deviceIdOf(tag) !== null || behaviour.kind === 'hold') continue;
      const signal = this.#model.effective(id);
      const wire = signal.ok ? this.#simulator.wire(id, signal.value) : null;
      if (signal.ok && wire?.ok) this.#live.arrive(id, signal.value, wire.value, {}, this.#clock.now(), 0);
    }
    this.follow();
  }
}
