/** Tests a device's connection, on the live one when there is one, since many devices allow only one. */
import { filledIn, yupOf } from '@/core/manifest/yupOf.ts';
import { networkInterfaces } from 'node:os';
import { ValidationError } from 'yup';
import type { DialectTrial } from '@/core/live/dialectTrial.ts';
import type { LocalPorts } from '@/core/live/localPorts.ts';
import { wireToJson } from '@/core/live/wireJson.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import { followWire, NO_VALUE_TEXT } from '@/core/signal.ts';
import type { FoundParty, Settings, Sink, TestStage } from '@/drivers/contract.ts';
import { describeDriver } from '@/drivers/descriptions.ts';
import { effectiveSignal } from '@/mapping/effective.ts';
import { listSerialPorts } from '@/drivers/serialPorts.ts';
import { findDriver } from '@/drivers/registry.ts';
import type { Finding } from '@/core/find/finding.ts';
import type { SettingsSchema } from '@/core/manifest/settingsSchema.ts';
import { deviceIdOf, withIndex } from '@/core/project/tagSource.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import type { Engine } from '@/runtime/engine.ts';

const TEST_DEADLINE_MS = 60_000;
const TRIAL_DEADLINE_MS = 10_000;

export class ConnectionService {
  readonly #model: ProjectModel;
  readonly #engine: Engine;

  constructor(model: ProjectModel, engine: Engine) {
    this.#model = model;
    this.#engine = engine;
  }

  /** The stages come as they are known. @param signal cancels the test */
  test(deviceId: string, signal: AbortSignal): Result<AsyncIterable<TestStage>> {
    const session = this.#engine.session(deviceId);
    if (!session) return fail('gone', 'The device is not online.', 'Reload, and try again.');
    const stages = session.test(this.#model.pointsOf(deviceId), { signal, deadline: this.#engine.clock.now() + TEST_DEADLINE_MS });
    return ok(this.#withNeighbours(deviceId, stages));
  }

  /** Who speaks a protocol on a network, one by one; nothing is written. @param settings of a link that is not made yet */
  discover(driverId: string, settings: Settings, signal: AbortSignal): Result<AsyncIterable<Finding>> {
    const driver = findDriver(driverId);
    if (!driver?.discover) return fail('no-discovery', 'Nobody can be asked who they are in this protocol.', 'Enter the address.');
    const checked = checkedSettings(driver.description.link, settings);
    if (!checked.ok) return checked;
    const context = { signal, deadline: this.#engine.clock.now() + TEST_DEADLINE_MS };
    return ok(findings(driver.discover(checked.value, context)));
  }

  /** What a link can be set to on this machine. */
  async localPorts(): Promise<LocalPorts> {
    const serialPorts = (await listSerialPorts()).map(({ path, label }) => ({ value: path, label }));
    const adapters = Object.entries(networkInterfaces()).map(([name, addresses]) => ({
      value: name,
      label: (addresses ?? []).map((a) => a.cidr ?? a.address).join(', '),
    }));
    return { serialPorts, adapters };
  }

  /**
   * Reads one tag with a dialect that is not kept: what it would ask for, what came, and what it would show.
   * @returns with the wire as it came; null when nothing came
   */
  async tryDialect(deviceId: string, tagId: string, dialect: Settings): Promise<Result<DialectTrial>> {
    const tag = this.#model.get('tag', tagId);
    const device = this.#model.get('device', deviceId);
    const link = device && this.#model.get('link', device.linkId);
    const driver = link && describeDriver(link.driver);
    const session = this.#engine.linkSession(link?.id ?? '');
    if (!tag || deviceIdOf(tag) !== deviceId || !device || !link || !driver || !session)
      return fail('gone', 'The device is not online.', 'Reload, and try again.');
    const checked = checkedSettings(driver.dialect, dialect);
    if (!checked.ok) return checked;
    // At the address itself: an index leads to places like it.
    const signal = effectiveSignal({
      tag: { ...tag, ...withIndex(tag, '') },
      device: { ...device, dialect },
      link,
      scale: this.#model.get('scale', tagId),
      inherited: this.#model.inheritedBy(tag),
    });
    if (!signal.ok) return signal;
    const { canonical, def } = signal.value;
    const place = driver.notation.explain(canonical, dialect);
    const asked = driver.wireInWords(canonical, def.type, dialect);
    let told: DialectTrial = { place, asked, wire: null, text: NO_VALUE_TEXT, problem: 'nothing came', roundTripMs: 0 };
    const group = session.device(device.settings, dialect).prepare([{ key: tagId, canonical, type: def.type }]);
    const take: Sink = (_key, arrival) => {
      if ('fault' in arrival) told = { ...told, problem: arrival.fault.problem.message };
      else {
        const stages = followWire(def, arrival.wire);
        const wire = wireToJson(arrival.wire);
        const text = `${stages.text}${def.unit && stages.eng !== null ? ` ${def.unit}` : ''}`;
        told = { place, asked, wire, text, problem: stages.broken?.problem.message ?? null, roundTripMs: arrival.roundTripMs };
      }
    };
    await group.read(take, { signal: new AbortController().signal, deadline: this.#engine.clock.now() + TRIAL_DEADLINE_MS });
    return ok(told);
  }

  /** What only the project knows of the settings: another device with the same address. */
  async *#withNeighbours(deviceId: string, stages: AsyncIterable<TestStage>): AsyncIterable<TestStage> {
    const twin = this.#twinOf(deviceId);
    for await (const stage of stages)
      yield stage.id === 'settings' && stage.state !== 'failed' && twin !== null
        ? {
            ...stage,
            state: 'noted',
            meaning: `${twin} is set up with the same address: both read the same machine.`,
            causes: [{ id: 'twin', cause: 'Two devices of the project have one address', remedy: 'Correct the address of one of them.' }],
          }
        : stage;
  }

  #twinOf(deviceId: string): string | null {
    const identity = (id: string): string | null => {
      const device = this.#model.get('device', id);
      const link = device && this.#model.get('link', device.linkId);
      const driver = link && describeDriver(link.driver);
      return driver ? driver.origin(link.settings, device.settings, device.dialect, '').join(' ') : null;
    };
    const own = identity(deviceId);
    return this.#model.all('device').find((d) => d.id !== deviceId && identity(d.id) === own)?.name ?? null;
  }
}

async function* findings(parties: AsyncIterable<Result<FoundParty>>): AsyncIterable<Finding> {
  for await (const party of parties)
    yield party.ok ? { kind: 'party', ...party.value } : { kind: 'problem', message: party.problem.message, remedy: party.problem.remedy ?? '' };
}

function checkedSettings(schema: SettingsSchema, settings: Settings): Result<Settings> {
  try {
    const filled = filledIn(schema, settings);
    yupOf(schema).validateSync(filled, { strict: true });
    return ok(filled);
  } catch (error) {
    if (error instanceof ValidationError) return fail('invalid', error.message, undefined, error.path);
    throw error;
  }
}
