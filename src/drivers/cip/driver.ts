/** The sessions of EtherNet/IP links: one TCP connection a link, a route and a connection of CIP a device. */
import { canHold, codeFor, elementary, STRUCTURE } from '@/core/cip/dataTypes.ts';
import { readIdentity } from '@/core/cip/identity.ts';
import { buildRequest, CLASS, SERVICE } from '@/core/cip/message.ts';
import { parseRoute } from '@/core/cip/route.ts';
import { SUCCESS } from '@/core/cip/status.ts';
import { encodeSteps, formatTagPath, objectPath, parseTagPath, type Step } from '@/core/cip/tagPath.ts';
import { modifyData, PACKED_BITS, writeData } from '@/core/cip/values.ts';
import type { DataType } from '@/core/value/dataType.ts';
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

  async write(point: PointSpec, { raw }: WriteValue, context: CallContext): Promise<DriverFault | null> {
    if (this.#problem) return { kind: 'settings', problem: this.#problem };
    const path = parseTagPath(point.canonical);
    if (!path.ok) return { kind: 'settings', problem: path.problem };
    const last = path.value.steps.at(-1);
    const isPacked = point.type.kind === 'boolean' && path.value.bit === null && typeof last === 'number';
    const steps: readonly Step[] = isPacked ? [...path.value.steps.slice(0, -1), Math.floor(last / PACKED_BITS)] : path.value.steps;
    const bit = isPacked ? last % PACKED_BITS : path.value.bit;
    // The controller's own type of the place, which a write must name.
    const known = await this.#placeOf(steps, point, context);
    if ('kind' in known) return known;
    if (bit !== null) {
      const declared = elementary(known.code);
      if (isPacked && declared?.name !== 'DWORD') return unfit(`The controller holds no array of BOOL there.`);
      if (!declared || declared.name === 'BOOL' || declared.name.endsWith('REAL') || bit >= 8 * declared.bytes)
        return unfit(`There is no bit ${bit} there.`);
      return this.#send(SERVICE.modifyTag, steps, modifyData(declared.bytes, bit, raw === true), context);
    }
    const fits = known.code === STRUCTURE ? point.type.kind === 'text' : canHold(point.type, known.code);
    if (!fits) return unfit(`The controller holds a ${elementary(known.code)?.name ?? 'structure'} there, which is no ${point.type.name}.`);
    const data = writeData(known.code, asDeclared(known.code, raw, point.type), known.text);
    return data.ok ? this.#send(SERVICE.writeTag, steps, data.value, context) : { kind: 'settings', problem: data.problem };
  }

  async #placeOf(steps: readonly Step[], point: PointSpec, context: CallContext): Promise<KnownPlace | DriverFault> {
    const name = formatTagPath({ steps, bit: null });
    const known = this.#places.get(name);
    if (known) return known;
    let fault: DriverFault | null = null;
    await new TagReadGroup(this.#reading, [point]).read((_key, arrival) => {
      if ('fault' in arrival) fault = arrival.fault;
    }, context);
    return this.#places.get(name) ?? fault ?? { code: codeFor(point.type), text: null };
  }

  /** Sent once, whatever comes of it. */
  async #send(service: number, steps: readonly Step[], data: Uint8Array, context: CallContext): Promise<DriverFault | null> {
    const message = buildRequest(service, encodeSteps(steps), data);
    if (message.length > this.#target.size.request)
      return unfit(
        'The value does not fit into one message; in several it could be read half new.',
        'Allow larger messages in the protocol options of the device.',
      );
    const asked = await this.#target.ask(service, message, context);
    if (!asked.ok) return asked.sent && asked.fault.kind !== 'refused' ? { ...asked.fault, kind: 'unknown' } : asked.fault;
    if (asked.reply.general === SUCCESS) return null;
    // Its type may have been changed: it is asked for again before the next write.
    this.#places.delete(formatTagPath({ steps, bit: null }));
    return refusal(asked.reply);
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

function unfit(message: string, remedy = 'Choose the type that the controller declares.'): DriverFault {
  return { kind: 'settings', problem: { code: 'unfit-value', message, remedy } };
}

/** Where the tag reads the bits of an integer, or a time counts in one: the same bits as the controller's type has them. */
function asDeclared(code: number, raw: WriteValue['raw'], type: DataType): WriteValue['raw'] {
  const declared = elementary(code);
  if (type.kind !== 'integer' || declared?.name === type.name || (typeof raw !== 'number' && typeof raw !== 'bigint') || !declared) return raw;
  if (BigInt(raw) < type.min || BigInt(raw) > type.max) return raw;
  const bits = 8 * declared.bytes;
  const same = /^[SDL]?INT$/.test(declared.name) ? BigInt.asIntN(bits, BigInt(raw)) : BigInt.asUintN(bits, BigInt(raw));
  return declared.bytes === 8 ? same : Number(same);
}
