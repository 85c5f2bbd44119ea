/** Reads the block of known values that a device's program fills, and says how the device has to be read. Only reads. */
import type { SignatureReading } from '@/core/live/signatureReading.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import { recognise } from '@/core/signature/recognise.ts';
import type { MemoryService } from './memoryService.ts';

export class SignatureService {
  readonly #memory: MemoryService;

  constructor(memory: MemoryService) {
    this.#memory = memory;
  }

  /**
   * @param asked where the block begins as its program counts, and the number that the manual gives to that place
   * @param signal cancels it
   */
  async read(
    deviceId: string,
    { word, reference }: { readonly word: number; readonly reference: string },
    signal: AbortSignal,
  ): Promise<Result<SignatureReading>> {
    const here = this.#memory.of(deviceId);
    if (!here.ok) return here;
    const { driver, memory, dialect } = here.value;
    const part = driver.bytes?.signature;
    if (!part) return fail('no-signature', 'Its protocol says by itself how values lie.', 'Nothing has to be learnt.');
    let last: Result<SignatureReading> = fail('signature', 'Nothing was read.');
    for (const stretch of part.windows(word, dialect)) {
      const read = await this.#memory.cells(here.value, stretch, signal);
      const found = read.ok ? recognise(read.value) : read;
      if (!found.ok) {
        if (found.problem.code !== 'signature') return found;
        last = { ok: false, problem: { ...found.problem, place: 'word' } };
        continue;
      }
      const { area, from } = stretch;
      const settings = part.settings(found.value, { word, reference, firstCell: from, dialect });
      if (!settings.ok) return settings;
      const place = memory.addressAt(area, from + found.value.at, null, { ...dialect, ...settings.value });
      return ok({ place, evidence: found.value.evidence, settings: settings.value });
    }
    return last;
  }
}
