/**
 * Leaves a silent unit in peace for a while, so that waiting for it does not cost the other units of a link their
 * pace. Its next request is the probe; of all silent units only one is probed at a time.
 */
import type { DriverFault } from '../contract.ts';

/** Waiting for silent units takes at most one part in this many of a link's time. */
const PACE = 12;
const LEAST_MS = 500;
/** How long a unit counts as one that is in use. */
const IN_USE_MS = 30_000;

export class SilentUnitBackoff {
  readonly #restUntil = new Map<number, number>();
  readonly #askedAt = new Map<number, number>();
  /** Before this time no silent unit is probed. */
  #nextProbe = 0;
  #probing: number | null = null;

  /** Whether a unit is asked now. Notes that somebody wants to. */
  mayAsk(unit: number, now: number): boolean {
    this.#askedAt.set(unit, now);
    const until = this.#restUntil.get(unit);
    if (until === undefined || !this.#hasOthers(unit, now)) return true;
    if (now < until || now < this.#nextProbe || (this.#probing !== null && this.#probing !== unit)) return false;
    this.#probing = unit;
    return true;
  }

  answered(unit: number): void {
    this.#restUntil.delete(unit);
    if (this.#probing === unit) this.#probing = null;
  }

  /** @param costMs for how long the link was held up by the silence */
  silent(unit: number, now: number, costMs: number): void {
    const rest = now + Math.max(LEAST_MS, PACE * costMs);
    this.#restUntil.set(unit, rest);
    this.#nextProbe = rest;
    if (this.#probing === unit) this.#probing = null;
  }

  /** A probe that came to no end is one no longer. */
  forget(unit: number): void {
    if (this.#probing === unit) this.#probing = null;
  }

  #hasOthers(unit: number, now: number): boolean {
    for (const [other, at] of this.#askedAt) if (other !== unit && now - at < IN_USE_MS) return true;
    return false;
  }
}

/** The same words each time: the same news is not told twice. */
export const RESTING: DriverFault = {
  kind: 'silent',
  problem: {
    code: 'resting',
    message: 'The unit did not answer; it is asked again now and then, so that the others of its link keep their pace.',
    remedy: 'Check unit number, power and line of the device.',
  },
};
