/**
 * A driver's session as the engine uses it. What a driver throws ends here: it breaks the session, is told once, and from
 * then on every call is answered as by a link that is down. Nothing else notices.
 */
import type { Problem, Result } from '@/core/result.ts';
import type {
  CallContext,
  Clock,
  DeviceSession,
  Driver,
  DriverFault,
  DriverSession,
  LinkState,
  Observation,
  Observer,
  PointSpec,
  PointWrite,
  ReadGroup,
  ScannedNumber,
  SessionOptions,
  Settings,
  Sink,
  TestStage,
} from '@/drivers/contract.ts';

/** @param onFailed hears of the first thing that the driver throws */
export function containedSession(driver: Driver, options: SessionOptions, onFailed: (problem: Problem) => void): DriverSession {
  return new ContainedSession(driver, options, new Wall(options.clock, onFailed));
}

/** Whether the driver stands, and what is answered in its place once it does not. */
class Wall {
  #problem: Problem | null = null;
  readonly clock: Clock;
  readonly #onFailed: (problem: Problem) => void;

  constructor(clock: Clock, onFailed: (problem: Problem) => void) {
    this.clock = clock;
    this.#onFailed = onFailed;
  }

  get problem(): Problem | null {
    return this.#problem;
  }

  /** Why nothing can be asked; a call that was given up before the driver threw breaks nothing. */
  failed(error: unknown, context?: CallContext): DriverFault {
    if (context?.signal.aborted) return ABORTED;
    if (this.#problem === null) {
      console.error('A driver failed:', error);
      const what = error instanceof Error ? error.message : String(error);
      this.#problem = {
        code: 'driver-failed',
        message: `The driver of this link failed: ${what.slice(0, 200)}`,
        remedy: 'It is started again by itself. If that does not help, the log of the server says where it failed.',
      };
      this.#onFailed(this.#problem);
    }
    return { kind: 'link-down', problem: this.#problem };
  }

  /** @returns what the call gives, or the fault */
  try<T>(call: () => T, instead: (fault: DriverFault) => T): T {
    if (this.#problem) return instead({ kind: 'link-down', problem: this.#problem });
    try {
      return call();
    } catch (error) {
      return instead(this.failed(error));
    }
  }

  async wait<T>(call: () => Promise<T>, instead: (fault: DriverFault) => T, context?: CallContext): Promise<T> {
    if (this.#problem) return instead({ kind: 'link-down', problem: this.#problem });
    try {
      return await call();
    } catch (error) {
      return instead(this.failed(error, context));
    }
  }

  async *each<T>(call: () => AsyncIterable<T>, instead: (fault: DriverFault) => readonly T[], context: CallContext): AsyncIterable<T> {
    if (this.#problem) return yield* instead({ kind: 'link-down', problem: this.#problem });
    try {
      yield* call();
    } catch (error) {
      yield* instead(this.failed(error, context));
    }
  }
}

class ContainedSession implements DriverSession {
  readonly #wall: Wall;
  readonly #inner: DriverSession | null;
  readonly scan?: NonNullable<DriverSession['scan']>;

  constructor(driver: Driver, options: SessionOptions, wall: Wall) {
    this.#wall = wall;
    const inner = wall.try<DriverSession | null>(
      () => driver.createSession(options),
      () => null,
    );
    this.#inner = inner;
    if (inner?.scan)
      this.scan = (numbers, timeoutMs, context) =>
        wall.each<ScannedNumber>(
          () => inner.scan?.(numbers, timeoutMs, context) ?? nothing(),
          () => [],
          context,
        );
  }

  get state(): LinkState {
    const problem = this.#wall.problem;
    return this.#inner && problem === null ? this.#inner.state : { phase: 'waiting', problem, retryAt: null };
  }

  start(): void {
    this.#wall.try(
      () => this.#inner?.start(),
      () => undefined,
    );
  }

  close(): void {
    try {
      this.#inner?.close();
    } catch (error) {
      this.#wall.failed(error);
    }
  }

  device(settings: Settings, dialect: Settings): DeviceSession {
    const inner = this.#wall.try<DeviceSession | null>(
      () => this.#inner?.device(settings, dialect) ?? null,
      () => null,
    );
    return new ContainedDevice(inner, this.#wall);
  }
}

class ContainedDevice implements DeviceSession {
  readonly #inner: DeviceSession | null;
  readonly #wall: Wall;
  readonly preparing?: NonNullable<DeviceSession['preparing']>;
  readonly writeAll?: NonNullable<DeviceSession['writeAll']>;
  readonly sight?: NonNullable<DeviceSession['sight']>;
  readonly isThere?: NonNullable<DeviceSession['isThere']>;
  readonly identify?: NonNullable<DeviceSession['identify']>;
  readonly browse?: NonNullable<DeviceSession['browse']>;
  readonly observe?: NonNullable<DeviceSession['observe']>;

  constructor(inner: DeviceSession | null, wall: Wall) {
    this.#inner = inner;
    this.#wall = wall;
    const refused = (fault: DriverFault): Result<never> => ({ ok: false, problem: fault.problem });
    const isFault = (fault: DriverFault): DriverFault | null => fault;
    // What a driver does not offer, its contained session does not offer either.
    if (!inner) return;
    const preparing = inner.preparing?.bind(inner);
    const writeAll = inner.writeAll?.bind(inner);
    const sight = inner.sight?.bind(inner);
    const isThere = inner.isThere?.bind(inner);
    const identify = inner.identify?.bind(inner);
    const browse = inner.browse?.bind(inner);
    const observe = inner.observe?.bind(inner);
    if (preparing) this.preparing = (points) => this.#preparing(points, preparing);
    if (writeAll) this.writeAll = (writes, context) => this.#writeAll(writes, writeAll, context);
    if (sight) this.sight = (reference, context) => wall.wait(() => sight(reference, context), refused, context);
    if (isThere) this.isThere = (context) => wall.wait(() => isThere(context), isFault, context);
    if (identify) this.identify = (context) => wall.wait(() => identify(context), refused, context);
    if (browse) this.browse = (path, context) => wall.wait(() => browse(path, context), refused, context);
    if (observe) this.observe = (observer) => this.#observation(() => observe(observer), observer);
  }

  prepare(points: readonly PointSpec[]): ReadGroup {
    return this.#wall.try(
      () => (this.#inner ? this.#contained(this.#inner.prepare(points), points) : this.#dead(points, this.#gone())),
      (fault) => this.#dead(points, fault),
    );
  }

  write(point: PointSpec, value: Parameters<DeviceSession['write']>[1], context: CallContext): Promise<DriverFault | null> {
    const { problem } = this.#wall;
    if (problem || !this.#inner) return Promise.resolve(problem ? { kind: 'link-down', problem } : this.#gone());
    const inner = this.#inner;
    // It may have been sent before the driver failed.
    return this.#wall.wait<DriverFault | null>(
      () => inner.write(point, value, context),
      (fault) => ({ kind: 'unknown', problem: fault.problem }),
      context,
    );
  }

  async #writeAll(
    writes: readonly PointWrite[],
    writeAll: NonNullable<DeviceSession['writeAll']>,
    context: CallContext,
  ): Promise<readonly (DriverFault | null)[]> {
    const { problem } = this.#wall;
    if (problem) return writes.map(() => ({ kind: 'link-down', problem }));
    const faults = await this.#wall.wait<readonly (DriverFault | null)[]>(
      () => writeAll(writes, context),
      (fault) => writes.map(() => ({ kind: 'unknown', problem: fault.problem })),
      context,
    );
    return writes.map((_write, at) => (at < faults.length ? (faults[at] ?? null) : UNTOLD));
  }

  test(points: readonly PointSpec[], context: CallContext): AsyncIterable<TestStage> {
    return this.#wall.each(() => this.#inner?.test(points, context) ?? nothing(), failedStage, context);
  }

  *#preparing(points: readonly PointSpec[], preparing: NonNullable<DeviceSession['preparing']>): Generator<void, ReadGroup> {
    const { problem } = this.#wall;
    if (problem) return this.#dead(points, { kind: 'link-down', problem });
    try {
      return this.#contained(yield* preparing(points), points);
    } catch (error) {
      return this.#dead(points, this.#wall.failed(error));
    }
  }

  #contained(group: ReadGroup, points: readonly PointSpec[]): ReadGroup {
    const wall = this.#wall;
    return {
      get requestCount() {
        return group.requestCount;
      },
      read: (sink, context) =>
        wall.wait<DriverFault | null>(
          () => group.read(sink, context),
          (fault) => this.#lost(points, fault, sink),
          context,
        ),
    };
  }

  #dead(points: readonly PointSpec[], fault: DriverFault): ReadGroup {
    return { requestCount: 0, read: (sink) => Promise.resolve(this.#lost(points, fault, sink)) };
  }

  /** Points whose value had come before the driver failed turn bad with the others: their link is down. */
  #lost(points: readonly PointSpec[], fault: DriverFault, sink: Sink): DriverFault {
    const at = this.#wall.clock.now();
    if (fault !== ABORTED) for (const { key } of points) sink(key, { fault, at });
    return fault;
  }

  #observation(begin: () => Observation, { lost }: Observer): Observation {
    const wall = this.#wall;
    const inner = wall.try<Observation | null>(begin, (fault) => (lost(fault), null));
    const guarded = (call: (observation: Observation) => void): void =>
      wall.try<void>(() => {
        if (inner) call(inner);
      }, lost);
    return {
      add: (points) => guarded((observation) => observation.add(points)),
      remove: (keys) => guarded((observation) => observation.remove(keys)),
      close: () => guarded((observation) => observation.close()),
    };
  }

  #gone(): DriverFault {
    return { kind: 'link-down', problem: this.#wall.problem ?? ABORTED.problem };
  }
}

const UNTOLD: DriverFault = { kind: 'unknown', problem: { code: 'untold', message: 'The driver has not said what became of it.' } };
const ABORTED: DriverFault = { kind: 'aborted', problem: { code: 'aborted', message: 'It was given up.' } };

function failedStage({ problem }: DriverFault): readonly TestStage[] {
  const meaning = problem.remedy === undefined ? {} : { meaning: problem.remedy };
  return [{ id: 'driver', title: 'Driver', state: 'failed', ms: 0, seen: problem.message, ...meaning }];
}

async function* nothing(): AsyncIterable<never> {
  // Nothing comes.
}
