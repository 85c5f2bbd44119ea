/**
 * Observes the points of one device: values come by themselves, and are good as long as the observation gives signs of life.
 * One that is lost, or falls silent without a word, is begun anew, later each time.
 */
import type { Arrival, Clock, DeviceSession, DriverFault, Observation, ObservedPoint } from '@/drivers/contract.ts';

const FIRST_DELAY_MS = 1000;
const LONGEST_DELAY_MS = 30_000;
/** An observation that was just begun has this long for its first sign. */
const FIRST_SIGN_MS = 10_000;

export interface ObservingOptions {
  readonly observe: NonNullable<DeviceSession['observe']>;
  readonly clock: Clock;
  readonly arrive: (key: string, point: ObservedPoint, arrival: Arrival) => void;
  readonly alive: () => void;
  /** Nothing that was told is good any more. */
  readonly lost: (fault: DriverFault) => void;
}

export class Observing {
  readonly #options: ObservingOptions;
  readonly #points = new Map<string, ObservedPoint>();
  #observation: Observation | null = null;
  #cancelSilence: () => void = () => undefined;
  #cancelAgain: () => void = () => undefined;
  #delayMs = FIRST_DELAY_MS;

  constructor(options: ObservingOptions) {
    this.#options = options;
  }

  /** Takes points that are new or changed, and drops others. */
  change(points: readonly ObservedPoint[], removed: readonly string[]): void {
    const known = [...removed, ...points.map(({ key }) => key)].filter((key) => this.#points.has(key));
    for (const key of removed) this.#points.delete(key);
    for (const point of points) this.#points.set(point.key, point);
    if (known.length > 0) this.#observation?.remove(known);
    if (points.length > 0) this.#observation?.add(points);
  }

  /** Begins, or begins anew: the link has come up. */
  start(): void {
    this.stop();
    const { observe, arrive, alive } = this.#options;
    let observation: Observation | null = null;
    const isOver = (): boolean => observation !== null && this.#observation !== observation;
    observation = observe({
      sink: (key, arrival) => {
        const point = this.#points.get(key);
        if (point && !isOver()) arrive(key, point, arrival);
      },
      alive: (forMs) => {
        if (isOver()) return;
        this.#delayMs = FIRST_DELAY_MS;
        this.#expectSign(forMs);
        alive();
      },
      // What is lost while it is being begun is over once it has begun.
      lost: (fault) => queueMicrotask(() => !isOver() && this.#lose(fault)),
    });
    this.#observation = observation;
    this.#expectSign(FIRST_SIGN_MS);
    if (this.#points.size > 0) observation.add([...this.#points.values()]);
  }

  stop(): void {
    this.#cancelSilence();
    this.#cancelAgain();
    const observation = this.#observation;
    this.#observation = null;
    observation?.close();
  }

  #expectSign(withinMs: number): void {
    this.#cancelSilence();
    this.#cancelSilence = this.#options.clock.after(withinMs, () =>
      this.#lose({
        kind: 'silent',
        problem: { code: 'no-sign', message: `The subscription has given no sign for ${Math.round(withinMs / 1000)} s.`, remedy: 'It is made anew.' },
      }),
    );
  }

  #lose(fault: DriverFault): void {
    this.stop();
    this.#options.lost(fault);
    this.#cancelAgain = this.#options.clock.after(this.#delayMs, () => this.start());
    this.#delayMs = Math.min(2 * this.#delayMs, LONGEST_DELAY_MS);
  }
}
