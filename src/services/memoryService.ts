/** Cells of a device's memory as they are now, read beside the scan on the connection that is there. Only reads. */
import { fail, ok, type Result } from '@/core/result.ts';
import { parseDataType } from '@/core/value/dataType.ts';
import type { DeviceSession, DriverDescription, MemoryPart, Settings, Sink } from '@/drivers/contract.ts';
import { describeDriver } from '@/drivers/descriptions.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import type { Engine } from '@/runtime/engine.ts';

const DEADLINE_MS = 30_000;
/** How long a cell that was refused is not asked for again: finding out which ones are takes many requests. */
const REFUSED_MS = 30_000;

/** A stretch of one area. */
export interface Stretch {
  readonly area: string;
  readonly from: number;
  readonly count: number;
}

/** A device that is online, and has memory that can be drawn. */
export interface Remembering {
  readonly deviceId: string;
  readonly driver: DriverDescription;
  readonly memory: MemoryPart;
  readonly session: DeviceSession;
  readonly dialect: Settings;
}

export class MemoryService {
  readonly #model: ProjectModel;
  readonly #engine: Engine;
  /** When a refused cell may be asked for again. */
  readonly #refused = new Map<string, number>();

  constructor(model: ProjectModel, engine: Engine) {
    this.#model = model;
    this.#engine = engine;
  }

  of(deviceId: string): Result<Remembering> {
    const device = this.#model.get('device', deviceId);
    const driver = describeDriver(this.#model.get('link', device?.linkId ?? '')?.driver ?? '');
    const session = this.#engine.session(deviceId);
    if (!device || !driver || !session) return fail('gone', 'The device is not online.', 'Reload, and try again.');
    const { memory } = driver;
    return memory
      ? ok({ deviceId, driver, memory, session, dialect: device.dialect })
      : fail('no-memory', 'Its values have names, and no places.', 'Look at its tags in the map.');
  }

  /**
   * @param signal cancels it
   * @returns each cell as its bytes came, null where the device refuses it; a problem where it does not answer at all
   */
  async cells(
    { deviceId, driver, memory, session, dialect }: Remembering,
    { area, from, count }: Stretch,
    signal: AbortSignal,
  ): Promise<Result<readonly (Uint8Array | null)[]>> {
    const known = memory.areas.find(({ id }) => id === area);
    if (!known) return fail('area', 'The device has no such area.', undefined, 'area');
    const type = parseDataType(known.cellBits === 1 ? 'BOOL' : 'WORD');
    if (!type.ok) return type;
    const cells: (Uint8Array | null)[] = Array.from({ length: Math.max(0, Math.min(count, known.cells - from)) }, () => null);
    const now = this.#engine.clock.now();
    for (const [key, until] of this.#refused) if (until <= now) this.#refused.delete(key);
    const keyOf = (i: number): string => `${deviceId} ${area} ${from + i}`;
    const points = cells.flatMap((_cell, i) => {
      if (this.#refused.has(keyOf(i))) return [];
      const address = driver.notation.parse(memory.addressAt(area, from + i, null, dialect), type.value, dialect);
      return address.ok ? [{ key: String(i), canonical: address.value.canonical, type: type.value }] : [];
    });
    const take: Sink = (key, arrival) => {
      if ('fault' in arrival && arrival.fault.kind === 'refused') this.#refused.set(keyOf(Number(key)), now + REFUSED_MS);
      else if ('wire' in arrival && arrival.wire.kind === 'bytes') cells[Number(key)] = new Uint8Array(arrival.wire.bytes);
    };
    if (points.length === 0) return ok(cells);
    const silent = await session.prepare(points).read(take, { signal, deadline: this.#engine.clock.now() + DEADLINE_MS });
    if (silent) return { ok: false, problem: silent.problem };
    return ok(cells);
  }
}
