/** Reads many points with few requests, and finds the one bad address that would cost its neighbours their values. */
import { isRegisterArea, type Area } from '@/core/modbus/address.ts';
import { blamesAddresses, exceptionInWords } from '@/core/modbus/exceptions.ts';
import { bitAt, readRequest } from '@/core/modbus/pdu.ts';
import { inSlices, nextTurn } from '@/core/inSlices.ts';
import type { CallContext, DriverFault, PointSpec, ReadGroup, Sink } from '../contract.ts';
import type { Answer, Ask, ModbusChannel } from './channel.ts';
import type { Dialect } from './settings.ts';
import { memberOf, planningGroup, type Line, type Member, type ReadRequest, type TornRead } from './traffic.ts';

interface Refusal {
  readonly fault: DriverFault;
  readonly since: number;
}

/** After this time a refused address is asked for again: a controller may have been loaded meanwhile. */
const ASK_AGAIN_MS = 10_000;

/** Requests that are skipped in one turn, once the device is silent. */
const SKIPPED = 16;
/** Points that are taken in one step of making a group. */
const STEP = 500;

/** What a request needs of its device. */
export interface DeviceAccess {
  readonly channel: ModbusChannel;
  /** Where the link leads: two links to one place address the same devices. */
  readonly where: string;
  readonly unit: number;
  readonly dialect: Dialect;
  /** Whether all units of a line may be written to at once. */
  readonly mayBroadcast: boolean;
  /** The serial line it is on, null on a network. */
  readonly line: Line | null;
  readonly now: () => number;
}

/** A request in the manner of its device. */
export function askOf({ unit, dialect }: Pick<DeviceAccess, 'unit' | 'dialect'>, pdu: Uint8Array, context: CallContext): Ask {
  const { timeoutMs, depth, pauseMs } = dialect;
  const { deadline, signal, goesFirst = false } = context;
  return { unit, pdu, timeoutMs, depth, pauseMs, registerBytes: 2, strictUnit: dialect.strictUnit === 'strict', deadline, signal, goesFirst };
}

export class ModbusReadGroup implements ReadGroup {
  readonly #access: DeviceAccess;
  readonly #members: readonly Member[];
  readonly #strangers: readonly PointSpec[];
  /** Addresses that the device refused, by key, so that their neighbours keep a plan without them. */
  readonly #refused = new Map<string, Refusal>();
  /** A request that read across unused addresses was refused: they are read across no more. */
  #isGapRefused = false;
  #requests: readonly ReadRequest[] = [];
  #torn: readonly TornRead[] = [];

  private constructor(access: DeviceAccess, members: readonly Member[], strangers: readonly PointSpec[]) {
    this.#access = access;
    this.#members = members;
    this.#strangers = strangers;
  }

  /** Its steps: planning thousands of points takes a while. */
  static *made(access: DeviceAccess, points: readonly PointSpec[]): Generator<void, ModbusReadGroup> {
    const members: Member[] = [];
    const strangers: PointSpec[] = [];
    for (const [i, point] of points.entries()) {
      if (i % STEP === STEP - 1) yield;
      const member = memberOf(point, access.dialect);
      if (member) members.push(member);
      else strangers.push(point);
    }
    const group = new ModbusReadGroup(access, members, strangers);
    yield* group.#planning();
    return group;
  }

  get requestCount(): number {
    return this.#requests.length + this.#torn.reduce((n, t) => n + t.pieces.length, 0);
  }

  async read(sink: Sink, context: CallContext): Promise<DriverFault | null> {
    const now = this.#access.now();
    for (const point of this.#strangers)
      sink(point.key, {
        fault: { kind: 'settings', problem: { code: 'address', message: `“${point.canonical}” is not a Modbus address.` } },
        at: now,
      });
    let askAgain = false;
    for (const [key, refusal] of this.#refused) {
      if (now - refusal.since < ASK_AGAIN_MS) sink(key, { fault: refusal.fault, at: now });
      else {
        this.#refused.delete(key);
        askAgain = true;
      }
    }
    if (askAgain) await inSlices(this.#planning());
    const known = this.#refused.size;
    const wereGapsRead = !this.#isGapRefused;
    let deviceFault: DriverFault | null = null;
    const queue: (() => Promise<DriverFault | null>)[] = [
      ...this.#requests.map((request) => () => this.#readRequest(request, sink, context)),
      ...this.#torn.map((torn) => () => this.#readTorn(torn, sink, context)),
    ];
    const skip: ((fault: DriverFault) => void)[] = [
      ...this.#requests.map((request) => (fault: DriverFault) => this.#tellAll(request.members, fault, sink)),
      ...this.#torn.map((torn) => (fault: DriverFault) => this.#tellAll([torn.member], fault, sink)),
    ];
    let next = 0;
    const work = async (): Promise<void> => {
      for (let mine = next++; mine < queue.length; mine = next++) {
        if (deviceFault) {
          skip[mine]?.(deviceFault);
          // Telling tens of thousands of points leaves others their turns.
          if (mine % SKIPPED === 0) await nextTurn();
        } else deviceFault = (await queue[mine]?.()) ?? deviceFault;
      }
    };
    await Promise.all(Array.from({ length: Math.min(this.#access.dialect.depth, this.#access.channel.maxDepth, queue.length) }, work));
    if (this.#refused.size > known || (wereGapsRead && this.#isGapRefused)) await inSlices(this.#planning());
    return deviceFault;
  }

  *#planning(): Generator<void, void> {
    const { dialect, line } = this.#access;
    const members = this.#refused.size === 0 ? this.#members : this.#members.filter((m) => !this.#refused.has(m.key));
    const plan = yield* planningGroup(members, this.#isGapRefused ? { ...dialect, maxGap: 0 } : dialect, line);
    this.#requests = plan.requests;
    this.#torn = plan.torn;
  }

  /** Returns a fault only when it is the whole device's. */
  async #readRequest(request: ReadRequest, sink: Sink, context: CallContext): Promise<DriverFault | null> {
    const answer = await this.#ask(request, context);
    const at = this.#access.now();
    if (!answer.ok) {
      this.#tellAll(request.members, answer.fault, sink);
      return answer.fault.kind === 'malformed' ? null : answer.fault;
    }
    if (answer.reply.kind === 'data') {
      // One copy for all values of the reply: what the socket handed over is larger, and used again.
      const data = new Uint8Array(answer.reply.data);
      const width = request.registerBytes;
      for (const member of request.members) {
        const from = member.start - request.start;
        const bytes = isRegisterArea(request.area)
          ? data.subarray(from * width, (from + member.count) * width)
          : Uint8Array.of(bitAt(data, from) ? 1 : 0);
        sink(member.key, { wire: { kind: 'bytes', bytes }, torn: false, at, roundTripMs: answer.roundTripMs });
      }
      return null;
    }
    const { code } = answer.reply;
    const fault = exceptionFault(code, this.#access.unit);
    const [first, ...others] = request.members;
    if (!blamesAddresses(code) || !first) {
      this.#tellAll(request.members, fault, sink);
      return fault.kind === 'silent' ? fault : null;
    }
    if (others.length === 0) {
      this.#refused.set(first.key, { fault, since: at });
      sink(first.key, { fault, at });
      return null;
    }
    if (hasGap(request)) this.#isGapRefused = true;
    return this.#readHalves(request, sink, context);
  }

  async #readHalves(request: ReadRequest, sink: Sink, context: CallContext): Promise<DriverFault | null> {
    const middle = request.members.length >> 1;
    let fault: DriverFault | null = null;
    for (const members of [request.members.slice(0, middle), request.members.slice(middle)]) {
      const start = Math.min(...members.map((m) => m.start));
      const count = Math.max(...members.map((m) => m.start + m.count)) - start;
      if (fault) this.#tellAll(members, fault, sink);
      else fault = await this.#readRequest({ ...request, start, count, members }, sink, context);
    }
    return fault;
  }

  async #readTorn({ member, pieces }: TornRead, sink: Sink, context: CallContext): Promise<DriverFault | null> {
    const width = member.registerBytes;
    const bytes = new Uint8Array(member.count * width);
    let roundTripMs = 0;
    for (const piece of pieces) {
      const answer = await this.#ask({ area: member.address.area, registerBytes: width, start: piece.start, count: piece.count }, context);
      const fault = !answer.ok ? answer.fault : answer.reply.kind === 'exception' ? exceptionFault(answer.reply.code, this.#access.unit) : null;
      if (fault) {
        // A device that is busy, or a gateway that speaks for it, says nothing against the address.
        if (answer.ok && answer.reply.kind === 'exception' && blamesAddresses(answer.reply.code))
          this.#refused.set(member.key, { fault, since: this.#access.now() });
        this.#tellAll([member], fault, sink);
        return answer.ok || fault.kind === 'malformed' ? null : fault;
      }
      if (answer.ok && answer.reply.kind === 'data') {
        bytes.set(answer.reply.data, (piece.start - member.start) * width);
        roundTripMs += answer.roundTripMs;
      }
    }
    sink(member.key, { wire: { kind: 'bytes', bytes }, torn: true, at: this.#access.now(), roundTripMs });
    return null;
  }

  /** A read may be repeated: nothing changes in the device by it. */
  async #ask(request: { area: Area; registerBytes: 2 | 4; start: number; count: number }, context: CallContext): Promise<Answer> {
    const { channel, dialect } = this.#access;
    const ask = { ...askOf(this.#access, readRequest(request.area, request.start, request.count), context), registerBytes: request.registerBytes };
    let answer = await channel.transact(ask);
    for (let retry = 0; retry < dialect.readRetries && !answer.ok && answer.fault.kind === 'silent'; retry++) answer = await channel.transact(ask);
    return answer;
  }

  #tellAll(members: readonly Member[], fault: DriverFault, sink: Sink): void {
    const at = this.#access.now();
    for (const member of members) sink(member.key, { fault, at });
  }
}

/** Whether a request asks for addresses that none of its members lies on. */
function hasGap({ start, count, members }: ReadRequest): boolean {
  let end = start;
  for (const m of members) {
    if (m.start > end) return true;
    end = Math.max(end, m.start + m.count);
  }
  return end < start + count;
}

/** An exception as a fault; a gateway that speaks for a missing unit is that unit's silence. */
export function exceptionFault(code: number, unit: number): DriverFault {
  const isGateway = code === 0x0a || code === 0x0b;
  return {
    kind: isGateway ? 'silent' : 'refused',
    problem: {
      code: `exception-${code.toString(16).padStart(2, '0')}`,
      message: `Unit ${unit} answers with ${exceptionInWords(code)}.`,
      remedy: isGateway ? 'Check the unit number and the line behind the gateway.' : 'Check address, type and counting base.',
    },
  };
}
