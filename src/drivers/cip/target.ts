/**
 * A processor at the end of a route: messages to it go one after the other, on a connection as large as it grants, or without one
 * where it grants none. A connection that is lost is opened again with the next message.
 */
import {
  alongRoute,
  forwardClose,
  forwardOpen,
  IDLE_MS,
  openedConnection,
  readReply,
  sizeInstead,
  SMALL_SIZE,
  type CipReply,
} from '@/core/cip/message.ts';
import type { MessageSize } from '@/core/cip/readPlan.ts';
import { NOT_SUPPORTED, statusInWords, SUCCESS, type CipStatus } from '@/core/cip/status.ts';
import type { CallContext, Clock, DriverFault } from '../contract.ts';
import type { Dialect } from './describe.ts';
import { malformed, type Carrying, type EipChannel, type Waiting } from './eipChannel.ts';

export type Asked =
  | { readonly ok: true; readonly reply: CipReply; readonly roundTripMs: number }
  | { readonly ok: false; readonly fault: DriverFault; readonly sent: boolean };

interface Opened {
  readonly theirId: number;
  readonly ourId: number;
  readonly serial: number;
  readonly size: number;
  readonly round: number;
  sequence: number;
  usedAt: number;
}

/** Messages without a connection carry about this much each way. */
const UNCONNECTED_BYTES = 500;
/** What the way along a route takes of it: service, path, time-out, length, and the route's own length. */
const ALONG_BYTES = 14;
const SEQUENCE_BYTES = 2;
/** A controller that grants no connection is asked again after this. */
const ASK_AGAIN_MS = 30_000;
/** Opened anew before the controller gives it up. */
const STALE_MS = IDLE_MS - 4000;

/** Additional status words that say something of a connection's size or number and nothing of the way to the target. */
const SIZE_REFUSED = 0x0109;
const NO_CONNECTION_LEFT: ReadonlySet<number> = new Set([0x0113, 0x0301, 0x0100, 0x0106, 0x0108]);
const CONNECTION_LOST: ReadonlySet<number> = new Set([0x0107, 0x0203]);

let nextId = 0x1000;

export class Target {
  readonly #channel: EipChannel;
  readonly #route: Uint8Array;
  readonly #dialect: Dialect;
  readonly #clock: Clock;
  #opened: Opened | null = null;
  /** A connection that the controller may still hold, and we do not use any more. */
  #left: Opened | null = null;
  #askAgainAt = 0;
  #size: number | null = null;
  /** Why messages travel without a connection, for who asks. */
  #why: CipStatus | null = null;
  readonly #waiting: (() => void)[] = [];
  #isBusy = false;

  constructor(channel: EipChannel, route: Uint8Array, dialect: Dialect, clock: Clock) {
    [this.#channel, this.#route, this.#dialect, this.#clock] = [channel, route, dialect, clock];
  }

  /** Bytes of one message each way: as granted, or as asked for before anything was. */
  get size(): MessageSize {
    const { messages, messageBytes } = this.#dialect;
    const small = UNCONNECTED_BYTES - (this.#route.length > 0 ? ALONG_BYTES + this.#route.length : 0);
    const isWithout = messages === 'unconnected' || this.#size === 0;
    const most = (this.#size ?? messageBytes) - SEQUENCE_BYTES;
    return isWithout ? { request: small, reply: small } : { request: most, reply: most };
  }

  /** How messages travel just now. */
  get way(): { readonly size: number; readonly refused: CipStatus | null } {
    return { size: this.#opened?.size ?? 0, refused: this.#why };
  }

  /** Sends once. A read that a lost connection swallowed may be asked again by the caller, a write never. */
  ask(service: number, message: Uint8Array, context: CallContext): Promise<Asked> {
    return this.#inTurn(context.goesFirst === true, () => this.#ask(service, message, context));
  }

  /** Without a connection, whatever the dialect says: for who the processor is. */
  async askPlainly(service: number, message: Uint8Array, context: CallContext): Promise<Asked> {
    return this.#read(await this.#plainly(message, this.#waitingOf(context)), service);
  }

  /** Opens the connection, where there is none. Null when messages can travel. */
  open(context: CallContext): Promise<DriverFault | null> {
    return this.#inTurn(false, () => this.#ready(this.#waitingOf(context)));
  }

  close(): void {
    const opened = this.#opened;
    this.#opened = null;
    if (opened && opened.round === this.#channel.round && this.#channel.state.phase === 'connected')
      void this.#closeConnection(opened, { timeoutMs: this.#dialect.timeoutMs, deadline: Infinity });
  }

  async #inTurn<T>(isFirst: boolean, work: () => Promise<T>): Promise<T> {
    if (this.#isBusy)
      await new Promise<void>((resolve) => {
        if (isFirst) this.#waiting.unshift(resolve);
        else this.#waiting.push(resolve);
      });
    this.#isBusy = true;
    try {
      return await work();
    } finally {
      const next = this.#waiting.shift();
      if (next) next();
      else this.#isBusy = false;
    }
  }

  #waitingOf({ deadline, signal }: CallContext): Waiting {
    return { timeoutMs: this.#dialect.timeoutMs, deadline, signal };
  }

  async #ask(service: number, message: Uint8Array, context: CallContext): Promise<Asked> {
    const waiting = this.#waitingOf(context);
    const fault = await this.#ready(waiting);
    if (fault) return { ok: false, fault, sent: false };
    const opened = this.#opened;
    if (!opened) return this.#read(await this.#plainly(message, waiting), service);
    opened.sequence = (opened.sequence + 1) & 0xffff;
    opened.usedAt = this.#clock.now();
    const asked = this.#read(await this.#channel.connected(opened, message, waiting), service);
    // Nobody knows whether the controller still has it: it is opened anew, and the old one is closed first.
    if (!asked.ok && asked.sent && asked.fault.kind === 'silent') this.#leave();
    if (asked.ok && CONNECTION_LOST.has(asked.reply.extended)) this.#leave();
    return asked;
  }

  #leave(): void {
    this.#left = this.#opened;
    this.#opened = null;
  }

  async #plainly(message: Uint8Array, waiting: Waiting): Promise<Carrying> {
    return this.#channel.unconnected(alongRoute(message, this.#route, waiting.timeoutMs), waiting);
  }

  #read(carried: Carrying, service: number): Asked {
    if (!carried.ok) return carried;
    // A router on the way that fails answers for the service that it was asked to pass on.
    const reply = readReply(carried.message, service);
    const byRouter = reply.ok ? reply : readReply(carried.message, 0x52);
    if (!byRouter.ok) return { ok: false, fault: malformed(`The reply does not fit: ${reply.ok ? '' : reply.problem.message}.`), sent: true };
    return { ok: true, reply: byRouter.value, roundTripMs: carried.roundTripMs };
  }

  /** Null when messages can travel: on the connection, or without one where none is granted. */
  async #ready(waiting: Waiting): Promise<DriverFault | null> {
    const { messages, messageBytes } = this.#dialect;
    if (messages === 'unconnected') return null;
    const now = this.#clock.now();
    if (this.#opened && this.#opened.round !== this.#channel.round) this.#opened = null;
    if (this.#left && this.#left.round !== this.#channel.round) this.#left = null;
    if (this.#opened && now - this.#opened.usedAt > STALE_MS) this.#leave();
    if (this.#opened) return null;
    if (this.#channel.state.phase === 'connected' && this.#size === 0 && now < this.#askAgainAt) return null;
    const left = this.#left;
    this.#left = null;
    if (left) await this.#closeConnection(left, waiting);
    return this.#open([messageBytes, ...(messageBytes > SMALL_SIZE ? [SMALL_SIZE] : [])], waiting);
  }

  async #open(sizes: readonly number[], waiting: Waiting): Promise<DriverFault | null> {
    const [size, ...smaller] = sizes;
    if (size === undefined) {
      this.#size = 0;
      this.#askAgainAt = this.#clock.now() + ASK_AGAIN_MS;
      return null;
    }
    nextId = (nextId + 1) & 0x7fff_ffff;
    const serial = nextId & 0xffff;
    const asked = forwardOpen({ size, route: this.#route, ourId: nextId, serial, originator: this.#channel.originator });
    const round = this.#channel.round;
    const carried = await this.#channel.unconnected(asked.message, waiting);
    const opened = this.#read(carried, asked.service);
    if (!opened.ok) return opened.fault;
    const { reply } = opened;
    if (reply.general === SUCCESS) {
      const ids = openedConnection(reply.data);
      if (!ids.ok) return malformed(ids.problem.message);
      this.#opened = { ...ids.value, serial, size, round, sequence: 0, usedAt: this.#clock.now() };
      this.#size = size;
      this.#why = null;
      return null;
    }
    this.#why = { general: reply.general, extended: reply.extended };
    if (reply.extended === SIZE_REFUSED || reply.general === NOT_SUPPORTED) {
      const instead = carried.ok && reply.extended === SIZE_REFUSED ? sizeInstead(carried.message) : null;
      return this.#open(instead !== null && instead < size && instead >= 100 ? [instead] : smaller, waiting);
    }
    if (NO_CONNECTION_LEFT.has(reply.extended) || reply.general === 0x02) return this.#open([], waiting);
    return refusal(reply);
  }

  async #closeConnection({ serial }: Opened, waiting: Waiting): Promise<void> {
    await this.#channel.unconnected(forwardClose({ route: this.#route, serial, originator: this.#channel.originator }), waiting);
  }
}

export function refusal({ general, extended }: CipStatus): DriverFault {
  const code = `cip-${general.toString(16).padStart(2, '0')}${extended ? `-${extended.toString(16).padStart(4, '0')}` : ''}`;
  return { kind: 'refused', problem: { code, ...statusInWords({ general, extended }) } };
}
