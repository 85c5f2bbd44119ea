/** The sessions of OPC UA links: one connection a link, made again after every break; devices read, write, observe and browse over it. */
import { parseMember, type NodeAddress } from '@/core/opcua/nodeId.ts';
import { fail, ok, type Problem, type Result } from '@/core/result.ts';
import type {
  BrowsedNode,
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
  SessionOptions,
  Settings,
  Sink,
  TestStage,
  WriteValue,
} from '../contract.ts';
import { Browser } from './browsing.ts';
import { chooseEndpoint, connectTo, endpointsOf, type Connecting, type Connection } from './connection.ts';
import { deviceOf, dialectOf, linkOf, opcUaDescription, type Dialect } from './describe.ts';
import { loadLibrary } from './library.ts';
import { observeNodes } from './subscription.ts';
import { testServer } from './testConnection.ts';
import { arrivalOf, faultOf } from './values.ts';
import { placeOf, writeNodes, type Within } from './writing.ts';

const FIRST_DELAY_MS = 1000;
const LONGEST_DELAY_MS = 30_000;
const CONNECT_MS = 10_000;

export const opcUa: Driver = { description: opcUaDescription, createSession: (how) => new UaLink(how) };

class UaLink implements DriverSession {
  readonly #options: SessionOptions;
  #state: LinkState = { phase: 'closed', problem: null, retryAt: null };
  #connection: Connection | null = null;
  /** Grows with every start and close: what comes of an older attempt counts for nothing. */
  #round = 0;
  #delayMs = FIRST_DELAY_MS;
  #cancelRetry: () => void = () => undefined;

  constructor(options: SessionOptions) {
    this.#options = options;
  }

  get state(): LinkState {
    return this.#state;
  }
  get connection(): Connection | null {
    return this.#connection;
  }
  get clock(): Clock {
    return this.#options.clock;
  }

  start(): void {
    const round = ++this.#round;
    this.#cancelRetry();
    this.#become({ phase: 'connecting', problem: null, retryAt: null });
    void this.#connect(round);
  }

  close(): void {
    this.#round++;
    this.#cancelRetry();
    this.#drop();
    this.#become({ phase: 'closed', problem: null, retryAt: null });
  }

  device(settings: Settings, dialect: Settings): DeviceSession {
    return new UaDevice(this, deviceOf(settings).root, dialectOf(dialect));
  }

  async connecting(timeoutMs: number, onFrame: Connecting['onFrame']): Promise<Connecting> {
    const ua = await loadLibrary();
    const { settings, folder = '', clock } = this.#options;
    return { ua, settings: linkOf(settings), folder, timeoutMs, now: () => clock.now(), onFrame };
  }

  async #connect(round: number): Promise<void> {
    const { clock, onFrame } = this.#options;
    const made = await this.#make((direction, bytes) => onFrame({ at: clock.now(), direction, bytes })).catch((error: unknown) => ({
      ok: false as const,
      problem: faultOf(error).problem,
    }));
    if (round !== this.#round) {
      if (made.ok) made.value.close();
      return;
    }
    if (!made.ok) return this.#wait(round, made.problem);
    this.#connection = made.value;
    this.#delayMs = FIRST_DELAY_MS;
    const lost = (why: string) => (): void => {
      if (this.#connection !== made.value) return;
      this.#drop();
      this.#wait(round, { code: 'connection-lost', message: why, remedy: 'It is made again by itself.' });
    };
    made.value.session.on('session_closed', lost('The session has ended.'));
    made.value.session.on('keepalive_failure', lost('The server has given no sign of the session.'));
    made.value.onBroken(lost('The connection to the server has broken.'));
    this.#become({ phase: 'connected', problem: null, retryAt: null });
  }

  async #make(onFrame: Connecting['onFrame']): Promise<Result<Connection>> {
    const connecting = await this.connecting(CONNECT_MS, onFrame);
    const endpoints = await endpointsOf(connecting);
    if (!endpoints.ok) return endpoints;
    const endpoint = chooseEndpoint(connecting.ua, connecting.settings, endpoints.value);
    return endpoint.ok ? connectTo(connecting, endpoint.value) : endpoint;
  }

  #wait(round: number, problem: Problem): void {
    if (round !== this.#round) return;
    const { clock } = this.#options;
    const delayMs = this.#delayMs;
    this.#delayMs = Math.min(2 * delayMs, LONGEST_DELAY_MS);
    this.#become({ phase: 'waiting', problem, retryAt: clock.now() + delayMs });
    this.#cancelRetry = clock.after(delayMs, () => {
      if (round === this.#round) this.start();
    });
  }

  #drop(): void {
    const connection = this.#connection;
    this.#connection = null;
    connection?.close();
  }

  #become(state: LinkState): void {
    this.#state = state;
    this.#options.onState(state);
  }
}

const DOWN: DriverFault = { kind: 'link-down', problem: { code: 'not-connected', message: 'There is no session with the server.' } };

class UaDevice implements DeviceSession {
  readonly #link: UaLink;
  readonly #root: string;
  readonly #dialect: Dialect;
  #browser: { readonly of: Connection; readonly browser: Browser } | null = null;

  constructor(link: UaLink, root: string, dialect: Dialect) {
    [this.#link, this.#root, this.#dialect] = [link, root, dialect];
  }

  prepare(points: readonly PointSpec[]): ReadGroup {
    const atOnce = (): number => Math.min(this.#dialect.perRead, this.#link.connection?.limits.read ?? Infinity);
    return {
      get requestCount() {
        return Math.ceil(points.length / atOnce());
      },
      read: async (sink, context) => {
        const count = atOnce();
        for (let from = 0; from < points.length; from += count) {
          const fault = await this.#read(points.slice(from, from + count), sink, context);
          if (!fault) continue;
          // Nothing is asked of a server that does not answer; each point hears of it all the same.
          for (const { key } of points.slice(from + count)) sink(key, { fault, at: this.#link.clock.now() });
          return fault;
        }
        return null;
      },
    };
  }

  async #read(points: readonly PointSpec[], sink: Sink, context: CallContext): Promise<DriverFault | null> {
    const connection = this.#link.connection;
    const now = (): number => this.#link.clock.now();
    const lose = (of: readonly PointSpec[], fault: DriverFault): DriverFault => {
      for (const { key } of of) sink(key, { fault, at: now() });
      return fault;
    };
    if (!connection) return lose(points, DOWN);
    const placed: { readonly point: PointSpec; readonly address: NodeAddress; readonly nodeId: string }[] = [];
    for (const point of points) {
      const place = placeOf(point, connection);
      if (place.ok) placed.push({ point, ...place.value });
      else sink(point.key, { fault: { kind: 'refused', problem: place.problem }, at: now() });
    }
    if (placed.length === 0) return null;
    const begun = now();
    const { ua, session } = connection;
    const read = await this.#within(
      session.read(
        placed.map(({ nodeId }) => ({ nodeId, attributeId: ua.AttributeIds.Value })),
        0,
      ),
      context,
    );
    if (!read.ok) {
      return lose(
        placed.map(({ point }) => point),
        read.fault,
      );
    }
    for (const [i, { point, address }] of placed.entries()) {
      const value = read.value[i];
      if (value) sink(point.key, arrivalOf(ua, value, point.type, parseMember(address.member), now(), now() - begun));
    }
    return null;
  }

  async write(point: PointSpec, value: WriteValue, context: CallContext): Promise<DriverFault | null> {
    const [fault = null] = await this.writeAll([{ point, value }], context);
    return fault;
  }

  async writeAll(writes: readonly PointWrite[], context: CallContext): Promise<readonly (DriverFault | null)[]> {
    const connection = this.#link.connection;
    return connection ? writeNodes(connection, writes, (work) => this.#within(work, context)) : writes.map(() => DOWN);
  }

  observe(observer: Observer): Observation {
    const connection = this.#link.connection;
    if (connection) return observeNodes(connection, this.#dialect, this.#link.clock, observer);
    queueMicrotask(() => observer.lost(DOWN));
    return { add: () => undefined, remove: () => undefined, close: () => undefined };
  }

  async browse(path: string, context: CallContext): Promise<Result<readonly BrowsedNode[]>> {
    const connection = this.#link.connection;
    if (!connection) return { ok: false, problem: this.#link.state.problem ?? DOWN.problem };
    if (path === '' || this.#browser?.of !== connection)
      this.#browser = { of: connection, browser: new Browser(connection, this.#root, this.#dialect.perRead) };
    const found = await this.#within(this.#browser.browser.under(path), context);
    return found.ok ? found.value : { ok: false, problem: found.fault.problem };
  }

  /** BuildInfo of the server (IEC 62541-5, 6.3.1). */
  async identify(context: CallContext): Promise<Result<Readonly<Record<string, string>>>> {
    const connection = this.#link.connection;
    if (!connection) return fail('not-connected', 'There is no session with the server.');
    const { ua, session } = connection;
    const read = await this.#within(
      session.read(['i=2263', 'i=2261', 'i=2264'].map((nodeId) => ({ nodeId, attributeId: ua.AttributeIds.Value }))),
      context,
    );
    if (!read.ok) return { ok: false, problem: read.fault.problem };
    const [maker = '', product = '', revision = ''] = read.value.map(({ value }) => (typeof value.value === 'string' ? value.value : ''));
    return ok({ maker, product, revision });
  }

  async isThere(context: CallContext): Promise<DriverFault | null> {
    const connection = this.#link.connection;
    if (!connection) return DOWN;
    const read = await this.#within(connection.session.read({ nodeId: 'i=2259', attributeId: connection.ua.AttributeIds.Value }), context);
    return read.ok ? null : read.fault;
  }

  async *test(points: readonly PointSpec[], _context: CallContext): AsyncIterable<TestStage> {
    const connecting = await this.#link.connecting(this.#dialect.timeoutMs, () => undefined);
    yield* testServer({ ...connecting, clock: this.#link.clock, dialect: this.#dialect, points });
  }

  /** What is not answered in time, or no longer wanted, is a fault; its late answer goes nowhere. */
  #within<T>(work: Promise<T>, { signal, deadline }: CallContext): Promise<Within<T>> {
    const { clock } = this.#link;
    const waitMs = Math.max(0, Math.min(this.#dialect.timeoutMs, deadline - clock.now()));
    return new Promise((resolve) => {
      const end = (done: Within<T>): void => {
        cancel();
        signal.removeEventListener('abort', aborted);
        resolve(done);
      };
      const aborted = (): void => end({ ok: false, fault: { kind: 'aborted', problem: { code: 'aborted', message: 'It was given up.' } } });
      const cancel = clock.after(waitMs, () =>
        end({ ok: false, fault: { kind: 'silent', problem: { code: 'BadTimeout', message: `The server has not answered within ${waitMs} ms.` } } }),
      );
      if (signal.aborted) return aborted();
      signal.addEventListener('abort', aborted);
      work.then(
        (value) => end({ ok: true, value }),
        (error: unknown) => end({ ok: false, fault: faultOf(error) }),
      );
    });
  }
}
