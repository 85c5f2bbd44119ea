/** Opens devices for writing: only the machine that is meant, and only as long as its settings stay what they were. */
import type { Unlocked, Writer } from '@/core/live/status.ts';
import { sortedJson } from '@/core/project/sameJson.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import { qualityInWords } from '@/core/value/quality.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import type { Engine } from '@/runtime/engine.ts';
import type { WriteGuard } from '@/runtime/writeGuard.ts';

export interface UnlockRequest {
  readonly deviceId: string;
  readonly who: string;
  readonly minutes: number;
  readonly writers?: readonly Writer[] | undefined;
}

export class GuardService {
  readonly #model: ProjectModel;
  readonly #engine: Engine;
  readonly #guard: WriteGuard;
  /** What the devices were when they were unlocked. */
  readonly #known = new Map<string, string | null>();

  constructor(model: ProjectModel, engine: Engine, guard: WriteGuard) {
    this.#model = model;
    this.#engine = engine;
    this.#guard = guard;
  }

  /**
   * Asks the device who it is first, where it has an identity: default addresses repeat from machine to machine.
   * Refuses when it says something else, or says nothing.
   */
  async unlock({ deviceId, who, minutes, writers }: UnlockRequest): Promise<Result<Unlocked>> {
    const device = this.#model.get('device', deviceId);
    if (!device) return fail('gone', 'The device is not there (any more).', 'Reload, and try again.', 'deviceId');
    const before = this.#settingsOf(deviceId);
    // One that is simulated is no machine that could be another one.
    if (device.identityTagId !== null && !device.isSimulated) {
      const said = await this.identify(device.identityTagId);
      if (!said.ok) return said;
      if (said.value !== device.identity)
        return fail(
          'identity',
          `${device.name} says “${said.value}”, “${device.identity}” is expected: this may be another machine.`,
          'Check its address and cable. If the device was replaced, take its identity over in Links.',
          'deviceId',
        );
    }
    if (this.#settingsOf(deviceId) !== before) return fail('changed', 'The device was changed meanwhile.', 'Try again.', 'deviceId');
    this.#known.set(deviceId, before);
    return ok(this.#guard.unlock(deviceId, who, minutes, writers));
  }

  /** What the tag that tells the identity says now. */
  async identify(tagId: string): Promise<Result<string>> {
    const sample = await this.#engine.readNow(tagId);
    if (sample && sample.eng !== null && sample.quality.level !== 'bad') return ok(sample.text);
    return fail(
      'identity-unread',
      `The device does not say who it is: ${sample ? qualityInWords(sample.quality) : 'it is not online'}.`,
      'Bring the device back first; it is opened for writing only when it is known.',
      'deviceId',
    );
  }

  /** Closes devices that are not what they were when they were opened. Called after every change of the project. @returns their names */
  relockChanged(): readonly string[] {
    const changed = this.#guard.all().filter(({ deviceId }) => this.#settingsOf(deviceId) !== this.#known.get(deviceId));
    for (const { deviceId } of changed) this.#guard.lock(deviceId);
    return changed.map(({ deviceId }) => this.#model.get('device', deviceId)?.name ?? deviceId);
  }

  #settingsOf(deviceId: string): string | null {
    const device = this.#model.get('device', deviceId);
    const link = device && this.#model.get('link', device.linkId);
    if (!device || !link) return null;
    const identityAt = device.identityTagId === null ? null : this.#model.effective(device.identityTagId);
    return (
      sortedJson([
        link.id,
        link.driver,
        link.settings,
        device.settings,
        device.dialect,
        device.identity,
        device.isSimulated,
        identityAt?.ok ? identityAt.value.digest : null,
      ]) ?? null
    );
  }
}
