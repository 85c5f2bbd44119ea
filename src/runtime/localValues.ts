/**
 * Values of local tags. They are there from the start: as they were last written, or as they begin. Read and written like
 * those of a device, by a session that never fails.
 */
import { parseFor, planWrite, type SignalDefinition, unjudged } from '@/core/signal.ts';
import type { RawValue } from '@/core/value/codec.ts';
import type { Clock, DeviceSession, ValueArrival, WriteValue } from '@/drivers/contract.ts';
import type { EffectiveSignal } from '@/mapping/effective.ts';
import type { LiveTable } from './liveTable.ts';

/** Stands for a device where one is named by its id. */
export const LOCAL = 'local';

/** Where the values outlive the server. */
export interface LocalValueKeeper {
  /** @param at when, in milliseconds since 1970 */
  keep(tagId: string, value: RawValue, at: number): Promise<void>;
}

/** A value with the time at which it was kept; null where nobody noted it. */
export interface Written {
  readonly value: RawValue;
  readonly at: number | null;
}

export interface KeptLocally {
  readonly keeper: LocalValueKeeper;
  /** Values as they were kept. */
  readonly written: ReadonlyMap<string, Written>;
}

/** They end with the process. */
export const NOT_KEPT: KeptLocally = { keeper: { keep: async () => undefined }, written: new Map() };

interface Local {
  readonly signal: EffectiveSignal;
  readonly initial: string;
}

export class LocalValues {
  readonly #live: LiveTable;
  readonly #clock: Clock;
  readonly #keeper: LocalValueKeeper;
  readonly #tags = new Map<string, Local>();
  readonly #written: Map<string, Written>;

  /** @param written values as they were kept */
  constructor(live: LiveTable, clock: Clock, keeper: LocalValueKeeper, written: ReadonlyMap<string, Written>) {
    this.#live = live;
    this.#clock = clock;
    this.#keeper = keeper;
    this.#written = new Map(written);
  }

  /** Takes a tag that is new or changed. */
  take(tagId: string, signal: EffectiveSignal, initial: string): void {
    this.#tags.set(tagId, { signal, initial });
    this.#show(tagId);
  }

  remove(tagId: string): void {
    this.#tags.delete(tagId);
  }

  readonly session: DeviceSession = {
    prepare: (points) => ({
      requestCount: 0,
      read: async (sink) => {
        for (const { key } of points) {
          const arrival = this.#arrivalOf(key);
          if (arrival) sink(key, arrival);
        }
        return null;
      },
    }),
    write: async ({ key }, { raw }: WriteValue) => {
      const at = this.#clock.now();
      try {
        await this.#keeper.keep(key, raw, at);
      } catch (error) {
        const message = `The value could not be kept: ${error instanceof Error ? error.message : String(error)}.`;
        return { kind: 'refused', problem: { code: 'not-kept', message, remedy: 'Check the room and the permissions of the data folder.' } };
      }
      this.#written.set(key, { value: raw, at });
      this.#show(key);
      return null;
    },
    async *test() {
      // There is nothing on the way that could fail.
    },
  };

  #show(tagId: string): void {
    const arrival = this.#arrivalOf(tagId);
    const tag = this.#tags.get(tagId);
    if (arrival && tag) this.#live.arrive(tagId, tag.signal, arrival.wire, { sourceAt: arrival.sourceAt }, arrival.at, arrival.roundTripMs);
  }

  #arrivalOf(tagId: string): ValueArrival | null {
    const tag = this.#tags.get(tagId);
    if (!tag) return null;
    const { def } = tag.signal;
    const written = this.#written.get(tagId);
    const isKept = written !== undefined && fitsKind(def, written.value);
    const value = isKept ? written.value : beginning(def, tag.initial);
    const sourceAt = isKept ? (written.at ?? undefined) : undefined;
    return { wire: { kind: 'typed', value }, torn: false, at: this.#clock.now(), roundTripMs: 0, sourceAt };
  }
}

/** After a change of its type, what was written before may be none of it. */
function fitsKind({ type }: SignalDefinition, value: RawValue): boolean {
  if (type.kind === 'boolean') return typeof value === 'boolean';
  if (type.kind === 'text') return typeof value === 'string';
  return typeof value === 'number' || typeof value === 'bigint';
}

/** Its initial value, or what IEC 61131-3 (table 10 of edition 3, from memory) has a variable begin with: 0, false, an empty text. */
function beginning(def: SignalDefinition, initial: string): RawValue {
  const wanted = initial === '' ? null : parseFor(def, initial);
  const plan = wanted?.ok ? planWrite(unjudged(def), wanted.value) : null;
  if (plan?.ok) return plan.value.raw;
  return def.type.kind === 'boolean' ? false : def.type.kind === 'text' ? '' : 0;
}
