/**
 * Requests with transaction numbers over TCP or UDP: each reply is paired with its request by transaction, unit
 * and form. See {@link TransactionNumbers} for devices that confuse them.
 */
import { checkReply, isWrite } from '@/core/modbus/pdu.ts';
import { buildFrame, FrameCutter, type TcpFrame } from '@/core/modbus/tcpFrame.ts';
import type { Problem } from '@/core/result.ts';
import type { Clock, DriverFault, FrameEvent, LinkState } from '../contract.ts';
import { ABORTED, EXPIRED, silentFault, type Answer, type Ask, type ModbusChannel } from './channel.ts';
import { Connection, type OpenPipe } from '../transport/connection.ts';
import { RESTING, SilentUnitBackoff } from './silentUnitBackoff.ts';
import { TransactionNumbers } from './transactionNumbers.ts';

export interface MbapOptions {
  readonly where: string;
  readonly open: OpenPipe;
  /** Each chunk holds one whole frame, and one that is damaged costs only itself. */
  readonly isDatagrams: boolean;
  readonly clock: Clock;
  readonly onFrame: (frame: FrameEvent) => void;
  readonly onState: (state: LinkState) => void;
}

interface Pending {
  readonly ask: Ask;
  readonly settle: (answer: Answer) => void;
  transaction: number;
  sentAt: number;
  dueAt: number;
}

/** Requests without any reply after which a connection is taken for dead and made anew. */
const SILENT_REQUESTS = 3;

export class MbapChannel implements ModbusChannel {
  readonly maxDepth = 16;
  readonly #options: MbapOptions;
  readonly #connection: Connection;
  #cutter = new FrameCutter();
  #waiting: Pending[] = [];
  readonly #inFlight = new Map<number, Pending>();
  /** Requests that wait or are under way, by the signal that ends them. */
  readonly #bySignal = new WeakMap<AbortSignal, Set<Pending>>();
  /** Transactions given up on this connection: a late reply must find nobody under its number. */
  readonly #abandoned = new Set<number>();
  readonly #resting = new SilentUnitBackoff();
  readonly #numbers = new TransactionNumbers();
  /** Bytes that came one by one while several replies were on their way. */
  #single: number[] = [];
  #cancelSingle: (() => void) | null = null;
  #nextTransaction = 1;
  #outgoing: Uint8Array[] = [];
  #flushing = false;
  #cancelTimer: (() => void) | null = null;
  #timerAt = 0;
  #silentInRow = 0;
  #note: string | null = null;
  /** Before this time nothing is sent: a device wanted its rest. */
  #restUntil = 0;

  constructor(options: MbapOptions) {
    this.#options = options;
    this.#connection = new Connection({
      where: options.where,
      open: options.open,
      clock: options.clock,
      onState: options.onState,
      onOpened: () => {
        this.#cutter = new FrameCutter();
        this.#numbers.forget();
        this.#silentInRow = 0;
      },
      onData: (chunk) => this.#take(chunk),
      onLost: (problem) => this.#drop(problem),
    });
  }

  get state(): LinkState {
    return this.#connection.state;
  }

  start(): void {
    this.#connection.start();
  }

  close(): void {
    this.#connection.close({ code: 'closed', message: 'The link was closed.' });
  }

  async transact(ask: Ask): Promise<Answer> {
    const answer = await this.#ask(ask);
    if (answer.ok && answer.reply.kind === 'data' && this.#numbers.begins(ask)) {
      // The reply is a view into what the socket handed over; it must outlast the two that follow.
      const data = new Uint8Array(answer.reply.data);
      await this.#tryNumbers(ask);
      return { ...answer, reply: { kind: 'data', data } };
    }
    return answer;
  }

  async #tryNumbers(ask: Ask): Promise<void> {
    const [known, other] = this.#numbers.pair(ask);
    const answers = Promise.all([this.#ask(known, true), this.#ask(other, true)]);
    if (this.#numbers.judge(...(await answers))) this.#note = CONFUSED;
    this.#sendWaiting();
  }

  #ask(ask: Ask, isPair = false): Promise<Answer> {
    if (this.state.phase !== 'connected') return Promise.resolve({ ok: false, fault: this.#downFault(), sent: false });
    if (ask.signal?.aborted) return Promise.resolve({ ok: false, fault: ABORTED, sent: false });
    const isFree = ask.isUrgent === true || isWrite(ask.pdu);
    if (!isFree && !this.#resting.mayAsk(ask.unit, this.#options.clock.now())) return Promise.resolve({ ok: false, fault: RESTING, sent: false });
    return new Promise((resolve) => {
      let settle: Pending['settle'] = resolve;
      const { signal } = ask;
      if (signal) {
        const all = this.#endedBy(signal);
        settle = (answer) => {
          all.delete(pending);
          resolve(answer);
        };
      }
      const pending: Pending = { ask, settle, transaction: -1, sentAt: 0, dueAt: 0 };
      if (signal) this.#endedBy(signal).add(pending);
      if (isPair && this.#isRested()) this.#send(pending);
      else if ((this.#waiting.length === 0 || ask.goesFirst) && this.#mayJoin(ask) && this.#isRested()) this.#send(pending);
      else {
        if (ask.goesFirst) this.#waiting.unshift(pending);
        else this.#waiting.push(pending);
        if (!this.#isRested()) this.#wakeAt(this.#restUntil);
      }
    });
  }

  /** Listens to each signal once: listening anew for each request would cost a tenth of its time. */
  #endedBy(signal: AbortSignal): Set<Pending> {
    const known = this.#bySignal.get(signal);
    if (known) return known;
    const all = new Set<Pending>();
    this.#bySignal.set(signal, all);
    const onAbort = (): void => {
      for (const pending of [...all]) this.#abort(pending);
    };
    signal.addEventListener('abort', onAbort, { once: true });
    return all;
  }

  /** Where bytes come one by one, those of some milliseconds are taken together: one alone tells nothing of what it begins. */
  #take(chunk: Uint8Array): void {
    if (chunk.length === 1 && this.#inFlight.size > 1 && !this.#options.isDatagrams) {
      this.#single.push(chunk[0] ?? 0);
      this.#cancelSingle?.();
      this.#cancelSingle = this.#options.clock.after(SINGLE_MS, () => this.#takeSingle());
      return;
    }
    this.#takeSingle();
    this.#takeChunk(chunk);
  }

  #takeSingle(): void {
    this.#cancelSingle?.();
    this.#cancelSingle = null;
    const chunk = Uint8Array.from(this.#single);
    this.#single = [];
    if (chunk.length > 0) this.#takeChunk(chunk);
  }

  #takeChunk(chunk: Uint8Array): void {
    const { clock, onFrame, where, isDatagrams } = this.#options;
    if (isDatagrams) this.#cutter = new FrameCutter();
    const isKnown = (transaction: number): boolean => this.#inFlight.has(transaction) || this.#abandoned.has(transaction);
    const why = this.#cutter.push(chunk, (frame) => this.#receive(frame), isKnown);
    if (!why) return;
    onFrame({
      at: clock.now(),
      direction: 'received',
      bytes: Uint8Array.from(chunk.subarray(0, 260)),
      note: `not Modbus TCP: ${why}`,
      oddity: 'protocol',
    });
    if (isDatagrams) return;
    this.#connection.lose({ code: 'malformed', message: `What answers at ${where} does not speak Modbus TCP: ${why}.`, remedy: 'Check the port.' });
  }

  /** What was sent and not answered is unknown to the writer; nothing is kept for later. */
  #drop(problem: Problem): void {
    this.#cancelTimer?.();
    this.#cancelTimer = null;
    this.#cancelSingle?.();
    this.#cancelSingle = null;
    this.#single = [];
    this.#outgoing = [];
    this.#abandoned.clear();
    const all = [...this.#inFlight.values(), ...this.#waiting];
    this.#inFlight.clear();
    this.#waiting = [];
    for (const pending of all) {
      this.#resting.forget(pending.ask.unit);
      fail(pending, { kind: problem.code === 'closed' ? 'aborted' : 'link-down', problem });
    }
  }

  #send(pending: Pending): void {
    const now = this.#options.clock.now();
    const { ask } = pending;
    if (now >= ask.deadline) {
      this.#resting.forget(ask.unit);
      fail(pending, EXPIRED);
      return;
    }
    pending.transaction = this.#freeTransaction();
    pending.sentAt = now;
    pending.dueAt = now + ask.timeoutMs;
    this.#inFlight.set(pending.transaction, pending);
    const frame = buildFrame(pending.transaction, ask.unit, ask.pdu);
    this.#options.onFrame({ at: now, direction: 'sent', bytes: frame });
    this.#outgoing.push(frame);
    if (!this.#flushing) {
      this.#flushing = true;
      process.nextTick(this.#flush);
    }
    this.#wakeAt(pending.dueAt);
  }

  /** One timer for all requests, set for the soonest that is due: devices of one link may have different time-outs. */
  #wakeAt(dueAt: number): void {
    if (this.#cancelTimer && this.#timerAt <= dueAt) return;
    this.#cancelTimer?.();
    this.#timerAt = dueAt;
    this.#cancelTimer = this.#options.clock.after(dueAt - this.#options.clock.now(), this.#expire);
  }

  /** Frames made in one turn leave in one write; datagrams one by one. */
  readonly #flush = (): void => {
    this.#flushing = false;
    const frames = this.#outgoing;
    this.#outgoing = [];
    if (this.#options.isDatagrams) for (const frame of frames) this.#connection.write(frame);
    else if (frames.length > 0) this.#connection.write(frames.length === 1 && frames[0] ? frames[0] : Buffer.concat(frames));
  };

  #freeTransaction(): number {
    do this.#nextTransaction = (this.#nextTransaction + 1) & 0xffff;
    while (this.#inFlight.has(this.#nextTransaction) || this.#abandoned.has(this.#nextTransaction));
    return this.#nextTransaction;
  }

  #receive(frame: TcpFrame): void {
    const at = this.#options.clock.now();
    const pending = this.#inFlight.get(frame.transaction);
    if (!pending) {
      const late = this.#abandoned.delete(frame.transaction);
      const isConfused = !late && this.#numbers.doubt();
      const unasked = { note: `answers no request${isConfused ? `. ${CONFUSED}` : ''}`, oddity: 'unasked' } as const;
      this.#options.onFrame({ at, direction: 'received', bytes: frame.bytes, ...(late ? LATE : unasked) });
      if (isConfused) this.#failAll(malformed(CONFUSED));
      return;
    }
    const { ask } = pending;
    const checked = checkReply(ask.pdu, frame.pdu, ask.registerBytes);
    const wrongUnit = frame.unit !== ask.unit && ask.strictUnit ? `unit ${frame.unit} answers for unit ${ask.unit}` : null;
    this.#silentInRow = 0;
    this.#connection.answered();
    this.#resting.answered(ask.unit);
    this.#inFlight.delete(frame.transaction);
    if (ask.pauseMs > 0) this.#restUntil = at + ask.pauseMs;
    if (wrongUnit !== null || !checked.ok) {
      const isConfused = !checked.ok && this.#numbers.doubt();
      const message = `${wrongUnit ?? (checked.ok ? '' : checked.problem.message)}${isConfused ? ` ${CONFUSED}` : ''}`;
      this.#options.onFrame({ at, direction: 'received', bytes: frame.bytes, note: message, oddity: wrongUnit === null ? 'unfit' : 'stranger' });
      fail(pending, malformed(message));
      if (isConfused) this.#failAll(malformed(message));
    } else {
      this.#options.onFrame({ at, direction: 'received', bytes: frame.bytes, ...this.#noted() });
      pending.settle({ ok: true, reply: checked.value, roundTripMs: at - pending.sentAt });
    }
    this.#sendWaiting();
  }

  /** What requests in flight would get may be anybody's. */
  #failAll(fault: DriverFault): void {
    for (const pending of [...this.#inFlight.values()]) {
      this.#giveUp(pending);
      fail(pending, fault);
    }
  }

  /** What is to be told with the next frame. */
  #noted(): Pick<FrameEvent, 'note' | 'oddity'> {
    const note = this.#note;
    this.#note = null;
    return note === null ? {} : { note, oddity: 'unfit' };
  }

  #isRested(): boolean {
    return this.#restUntil === 0 || this.#options.clock.now() >= this.#restUntil;
  }

  /**
   * What goes first need not wait for a read that is not answered: its echo is no reply to a read, nor a read's reply its
   * echo, so that whatever the device makes of their numbers no value is taken for another.
   */
  #mayJoin(ask: Ask): boolean {
    if (this.#numbers.mayJoin(ask, this.#inFlight)) return true;
    if (!ask.goesFirst) return false;
    const others = [...this.#inFlight.values()];
    if (others.some((other) => isWrite(other.ask.pdu))) return false;
    const from = Math.max(...others.map((other) => other.sentAt)) + BESIDE_MS;
    if (this.#options.clock.now() >= from) return true;
    this.#wakeAt(from);
    return false;
  }

  #sendWaiting(): void {
    for (let next = this.#waiting[0]; next && this.#mayJoin(next.ask); next = this.#waiting[0]) {
      if (!this.#isRested()) return this.#wakeAt(this.#restUntil);
      this.#waiting.shift();
      this.#send(next);
    }
  }

  /** Gives up the requests that are past due, sends what waited for a rest, and sets the timer for the next. */
  readonly #expire = (): void => {
    this.#cancelTimer = null;
    const now = this.#options.clock.now();
    let next = Infinity;
    let gaveUp = false;
    for (const pending of [...this.#inFlight.values()])
      if (pending.dueAt <= now) {
        const { unit, timeoutMs } = pending.ask;
        this.#giveUp(pending);
        gaveUp = true;
        // A search expects silence.
        if (!pending.ask.isUrgent) this.#silentInRow++;
        this.#resting.silent(unit, now, timeoutMs);
        fail(pending, silentFault(unit, timeoutMs));
      } else next = Math.min(next, pending.dueAt);
    // What has begun and not ended by now was cut: whatever follows would be read as its rest.
    if (gaveUp && this.#cutter.hasPart) {
      this.#connection.lose(CUT);
      return;
    }
    if (this.#silentInRow >= SILENT_REQUESTS) {
      this.#silentInRow = 0;
      this.#connection.lose({
        code: 'silent',
        message: `The connection to ${this.#options.where} no longer answers; it is made anew.`,
        remedy: 'Check power and line of the device.',
      });
      return;
    }
    this.#sendWaiting();
    if (next < Infinity) this.#wakeAt(next);
  };

  #giveUp(pending: Pending): void {
    this.#inFlight.delete(pending.transaction);
    this.#abandoned.add(pending.transaction);
    // A device this far behind is not coming back to these: the numbers are needed again.
    if (this.#abandoned.size > 30_000) this.#connection.lose({ code: 'silent', message: 'Too many replies are missing on this connection.' });
  }

  #abort(pending: Pending): void {
    const place = this.#waiting.indexOf(pending);
    if (place >= 0) this.#waiting.splice(place, 1);
    else if (this.#inFlight.get(pending.transaction) === pending) this.#giveUp(pending);
    this.#resting.forget(pending.ask.unit);
    fail(pending, ABORTED);
    this.#sendWaiting();
  }

  #downFault(): DriverFault {
    return { kind: 'link-down', problem: this.state.problem ?? { code: 'connecting', message: `Connecting to ${this.#options.where}.` } };
  }
}

/** A read that is not answered for so long is not waited for by what goes first. */
const BESIDE_MS = 100;
/** Bytes of one reply that come one by one follow each other sooner than this. */
const SINGLE_MS = 20;
const CONFUSED = 'The device confuses the numbers of requests that are in flight together: it is asked for one at a time from here on.';
const CUT: Problem = { code: 'malformed', message: 'A frame was cut on its way; the connection is made anew.', remedy: 'Check the gateway.' };
const LATE = { note: 'late: its request was given up', oddity: 'late' } as const;

function malformed(message: string): DriverFault {
  return { kind: 'malformed', problem: { code: 'malformed', message, remedy: 'Look at the frames in the trace.' } };
}

function fail(pending: Pending, fault: DriverFault): void {
  pending.settle({ ok: false, fault, sent: pending.transaction >= 0 });
}
