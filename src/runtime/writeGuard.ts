/**
 * Devices are locked against writing, after every start too. Unlocking names the device, who does it, for how long
 * and who may write: people at the bench, panels, automatic rules, driven checks. It is kept nowhere but here.
 */
import type { Unlocked, Writer as Permitted } from '@/core/live/status.ts';
import type { Clock } from '@/drivers/contract.ts';

export const LONGEST_UNLOCK_MINUTES = 120;

export class WriteGuard {
  readonly #unlocked = new Map<string, Unlocked>();
  readonly #clock: Clock;

  constructor(clock: Clock) {
    this.#clock = clock;
  }

  unlock(deviceId: string, who: string, minutes: number, writers: readonly Permitted[] = ['engineer', 'panel']): Unlocked {
    const unlocked = { deviceId, who, writers, until: this.#clock.now() + Math.min(minutes, LONGEST_UNLOCK_MINUTES) * 60_000 };
    this.#unlocked.set(deviceId, unlocked);
    return unlocked;
  }

  /** Without a device: all of them. */
  lock(deviceId?: string): void {
    if (deviceId === undefined) this.#unlocked.clear();
    else this.#unlocked.delete(deviceId);
  }

  /** Who unlocked the device, or null: it is locked. */
  unlockedBy(deviceId: string): Unlocked | null {
    const unlocked = this.#unlocked.get(deviceId);
    if (!unlocked) return null;
    if (this.#clock.now() < unlocked.until) return unlocked;
    this.#unlocked.delete(deviceId);
    return null;
  }

  /**
   * Who unlocked the device for this kind of writer, or null: it may not write.
   * @param deviceId null for a value of ours: it moves nothing, and needs no unlocking
   */
  permits(deviceId: string | null, writer: Permitted): Unlocked | null {
    if (deviceId === null) return { deviceId: '', who: '', writers: [writer], until: Infinity };
    const unlocked = this.unlockedBy(deviceId);
    return unlocked?.writers.includes(writer) ? unlocked : null;
  }

  all(): readonly Unlocked[] {
    return [...this.#unlocked.keys()].flatMap((id) => this.unlockedBy(id) ?? []);
  }
}
