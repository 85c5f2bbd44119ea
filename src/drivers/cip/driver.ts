/** The sessions of EtherNet/IP links: one TCP connection a link, a route and a connection of CIP a device. */
import { readIdentity } from '@/core/cip/identity.ts';
import { buildRequest, CLASS, SERVICE } from '@/core/cip/message.ts';
import { parseRoute } from '@/core/cip/route.ts';
import { SUCCESS } from '@/core/cip/status.ts';
import { objectPath } from '@/core/cip/tagPath.ts';
import { ok, type Problem, type Result } from '@/core/result.ts';
import type {
  BrowsedNode,
  CallContext,
  Clock,
  DeviceSession,
  Driver,
  DriverFault,
  DriverSession,
  LinkState,
  PointSpec,
  PointWrite,
  ReadGroup,
  SessionOptions,
  Settings,
  TestStage,
  WriteValue,
} from '../contract.ts';
import { tcpPipe } from '../transport/tcpPipe.ts';
import { TagBrowser } from './browsing.ts';
import { cipDescription, deviceOf, dialectOf, linkOf, type Dialect } from './describe.ts';
import { discover } from './discover.ts';
import { EipChannel } from './eipChannel.ts';
import { TagReadGroup, type KnownPlace, type Reading } from './readGroup.ts';
import { refusal, Target } from './target.ts';
import { testController } from './testConnection.ts';
import { writeTags } from './writing.ts';

export const cip: Driver = { description: cipDescription, createSession: (how) => new CipLink(how), discover };

class CipLink implements DriverSession {
  readonly #channel: EipChannel;
  readonly #clock: Clock;
  readonly #targets: Target[] = [];

  constructor({ settings, clock, onFrame, onState }: SessionOptions) {
    const link = linkOf(settings);
    this.#clock = clock;
    this.#channel = new EipChannel({ where: `${link.host}:${link.port}`, open: tcpPipe(link), clock, onFrame, onState });
  }

  get state(): LinkState {
    return this.#channel.state;
  }

  start(): void {
    this.#channel.start();
  }

  close(): void {
    for (const target of this.#targets) target.close();
    this.#channel.close();
  }

  device(settings: Settings, dialect: Settings): DeviceSession {
    const route = parseRoute(deviceOf(settings).route);
    const asked = dialectOf(dialect);
    const target = new Target(this.#channel, route.ok ? route.value : new Uint8Array(0), asked, this.#clock);
    this.#targets.push(target);
    return new CipDevice(this.#channel, target, asked, this.#clock, route.ok ? null : route.problem);
  }
}

class CipDevice implements DeviceSession {
  readonly #channel: EipChannel;
  readonly #target: Target;
  readonly #dialect: Dialect;
  readonly #clock: Clock;
  /** Why the route cannot be used. */
  readonly #problem: Problem | null;
  readonly #places = new Map<string, KnownPlace>();
  #browser: TagBrowser | null = null;

  constructor(channel: EipChannel, target: Target, dialect: Dialect, clock: Clock, problem: Problem | null) {
    [this.#channel, this.#target, this.#dialect, this.#clock, this.#problem] = [channel, target, dialect, clock, problem];
  }

  get #reading(): Reading {
    return { target: this.#target, packing: this.#dialect.packing, now: () => this.#clock.now(), places: this.#places };
  }

  prepare(points: readonly PointSpec[]): ReadGroup {
    return new TagReadGroup(this.#reading, points);
  }

  async write(point: PointSpec, value: WriteValue, context: CallContext): Promise<DriverFault | null> {
    const [fault = null] = await this.writeAll([{ point, value }], context);
    return fault;
  }

  async writeAll(writes: readonly PointWrite[], context: CallContext): Promise<readonly (DriverFault | null)[]> {
    const problem = this.#problem;
    return problem ? writes.map(() => ({ kind: 'settings', problem })) : writeTags(this.#reading, writes, context);
  }

  async browse(path: string, context: CallContext): Promise<Result<readonly BrowsedNode[]>> {
    if (this.#problem) return { ok: false, problem: this.#problem };
    if (path === '' || !this.#browser) this.#browser = new TagBrowser(this.#target);
    return this.#browser.under(path, context);
  }

  /** The Identity object of the processor. */
  async identify(context: CallContext): Promise<Result<Readonly<Record<string, string>>>> {
    if (this.#problem) return { ok: false, problem: this.#problem };
    const asked = await this.#target.askPlainly(SERVICE.getAttributesAll, IDENTITY, context);
    if (!asked.ok) return { ok: false, problem: asked.fault.problem };
    if (asked.reply.general !== SUCCESS) return { ok: false, problem: refusal(asked.reply).problem };
    const identity = readIdentity(asked.reply.data);
    if (!identity.ok) return identity;
    const { product, revision, serial, vendor } = identity.value;
    // Its own revision says nothing of the program that is loaded into it.
    return ok({ product, firmware: revision, serial, vendor: String(vendor) });
  }

  async isThere(context: CallContext): Promise<DriverFault | null> {
    if (this.#problem) return { kind: 'settings', problem: this.#problem };
    const asked = await this.#target.askPlainly(SERVICE.getAttributesAll, IDENTITY, context);
    if (!asked.ok) return asked.fault;
    return asked.reply.general === SUCCESS ? null : refusal(asked.reply);
  }

  test(points: readonly PointSpec[], context: CallContext): AsyncIterable<TestStage> {
    const { timeoutMs } = this.#dialect;
    return testController(
      { channel: this.#channel, target: this.#target, device: this, clock: this.#clock, timeoutMs, problem: this.#problem, points },
      context,
    );
  }
}

const IDENTITY = buildRequest(SERVICE.getAttributesAll, objectPath(CLASS.identity, 1));
