/** The last frames of each link. */
import type { FrameEvent } from '@/drivers/contract.ts';

const KEPT = 2000;

export interface TracedFrame extends FrameEvent {
  /** Grows by one with every frame of the link. */
  readonly n: number;
}

export class Trace {
  readonly #frames: TracedFrame[] = [];
  #next = 0;
  #count = 0;

  add(frame: FrameEvent): void {
    this.#frames[this.#next] = { ...frame, n: ++this.#count };
    this.#next = (this.#next + 1) % KEPT;
  }

  /** The newest frames after one that is known, oldest of them first. */
  last(limit: number, after = 0): readonly TracedFrame[] {
    if (this.#count <= after) return [];
    const ordered = this.#frames.length < KEPT ? this.#frames : [...this.#frames.slice(this.#next), ...this.#frames.slice(0, this.#next)];
    return ordered.slice(-Math.min(limit, this.#count - after));
  }
}
