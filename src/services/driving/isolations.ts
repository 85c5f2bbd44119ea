/** Devices whose machine a named person has declared isolated, for limited minutes; none after a start. */
import { LONGEST_ISOLATION_MINUTES, type Isolation } from '@/core/check/driving/drivenValue.ts';
import type { Clock } from '@/drivers/contract.ts';

export class Isolations {
  readonly #declared = new Map<string, Isolation>();
  readonly #clock: Clock;

  constructor(clock: Clock) {
    this.#clock = clock;
  }

  declare(deviceId: string, who: string, minutes: number): Isolation {
    const isolation = { deviceId, who, until: this.#clock.now() + Math.min(minutes, LONGEST_ISOLATION_MINUTES) * 60_000 };
    this.#declared.set(deviceId, isolation);
    return isolation;
  }

  end(deviceId: string): void {
    this.#declared.delete(deviceId);
  }

  /** Null: nobody answers for it (any more). */
  of(deviceId: string): Isolation | null {
    const isolation = this.#declared.get(deviceId);
    return isolation && this.#clock.now() < isolation.until ? isolation : null;
  }

  all(): readonly Isolation[] {
    return [...this.#declared.keys()].flatMap((id) => this.of(id) ?? []);
  }
}
