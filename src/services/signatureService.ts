/** Reads the block of known values that a device's program fills, and says how the device has to be read. Only reads. */
import type { SignatureReading } from '@/core/live/signatureReading.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import { recognise } from '@/core/signature/recognise.ts';
import { parseDataType } from '@/core/value/dataType.ts';
import type { DeviceSession, DriverDescription, MemoryPart, Settings, Sink } from '@/drivers/contract.ts';
import { describeDriver } from '@/drivers/descriptions.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import type { Engine } from '@/runtime/engine.ts';

const DEADLINE_MS = 30_000;

export class SignatureService {
  readonly #model: ProjectModel;
  readonly #engine: Engine;

  constructor(model: ProjectModel, engine: Engine) {
    this.#model = model;
    this.#engine = engine;
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
    const device = this.#model.get('device', deviceId);
    const driver = describeDriver(this.#model.get('link', device?.linkId ?? '')?.driver ?? '');
    const session = this.#engine.session(deviceId);
    if (!device || !driver || !session) return fail('gone', 'The device is not online.', 'Reload, and try again.');
    const { bytes, memory } = driver;
    if (!bytes?.signature || !memory) return fail('no-signature', 'Its protocol says by itself how values lie.', 'Nothing has to be learnt.');
    const { dialect } = device;
    let last: Result<SignatureReading> = fail('signature', 'Nothing was read.');
    for (const { area, from, count } of bytes.signature.windows(word, dialect)) {
      const read = await this.#words({ driver, memory, session, dialect }, { area, from, count }, signal);
      if (!read.ok) return read;
      const found = recognise(read.value);
      if (!found.ok) {
        last = { ok: false, problem: { ...found.problem, place: 'word' } };
        continue;
      }
      const settings = bytes.signature.settings(found.value, { word, reference, firstCell: from, dialect });
      if (!settings.ok) return settings;
      const place = memory.addressAt(area, from + found.value.at, null, { ...dialect, ...settings.value });
      return ok({ place, evidence: found.value.evidence, settings: settings.value });
    }
    return last;
  }

  /** The words of a stretch as they came, null where the device refuses one. */
  async #words(
    { driver, memory, session, dialect }: Asked,
    { area, from, count }: { readonly area: string; readonly from: number; readonly count: number },
    signal: AbortSignal,
  ): Promise<Result<readonly (Uint8Array | null)[]>> {
    const word = parseDataType('WORD');
    if (!word.ok) return word;
    const words: (Uint8Array | null)[] = Array.from({ length: count }, () => null);
    const points = words.flatMap((_word, i) => {
      const address = driver.notation.parse(memory.addressAt(area, from + i, null, dialect), word.value, dialect);
      return address.ok ? [{ key: String(i), canonical: address.value.canonical, type: word.value }] : [];
    });
    let refused = '';
    const take: Sink = (key, arrival) => {
      if ('fault' in arrival) refused = arrival.fault.problem.message;
      else if (arrival.wire.kind === 'bytes') words[Number(key)] = arrival.wire.bytes.slice();
    };
    const silent = await session.prepare(points).read(take, { signal, deadline: this.#engine.clock.now() + DEADLINE_MS });
    if (silent) return { ok: false, problem: silent.problem };
    return words.every((one) => one === null) && refused !== '' ? fail('signature', refused, 'Check where the block begins.', 'word') : ok(words);
  }
}

interface Asked {
  readonly driver: DriverDescription;
  readonly memory: MemoryPart;
  readonly session: DeviceSession;
  readonly dialect: Settings;
}
