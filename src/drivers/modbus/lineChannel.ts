/**
 * Requests on a line that carries one at a time and has no transaction numbers: RTU or ASCII frames on a serial
 * port or through a gateway. A reply that comes late must not become the value of the next request, so after a
 * time-out a unit first has to answer a read whose reply looks like no other (see {@link LateReplies}).
 */
import { checkReply, isWrite, readRequest } from '@/core/modbus/pdu.ts';
import { buildSerialFrame, findReply, MAX_SERIAL_BYTES, type SerialForm } from '@/core/modbus/serialFrame.ts';
import type { Problem } from '@/core/result.ts';
import type { Clock, DriverFault, FrameEvent, LinkState } from '../contract.ts';
import { AdapterEcho, isRepeated } from './adapterEcho.ts';
import { ABORTED, EXPIRED, silentFault, type Answer, type Ask, type ModbusChannel } from './channel.ts';
import { Connection, type OpenPipe } from '../transport/connection.ts';
import { LateReplies } from './lateReplies.ts';
import { RepeatedReplies } from './repeatedReplies.ts';
import { RESTING, SilentUnitBackoff } from './silentUnitBackoff.ts';

export interface LineOptions {
  readonly where: string;
  readonly open: OpenPipe;
  readonly form: SerialForm;
  /** Time of one character, 0 where the line is behind a gateway that keeps time itself. */
  readonly characterMs: number;
  /** Least silence between frames. */
  readonly silenceMs: number;
  /** Rest after a write to all units, which nobody answers. */
  readonly turnaroundMs: number;
  readonly clock: Clock;
  readonly onFrame: (frame: FrameEvent) => void;
  readonly onState: (state: LinkState) => void;
}

interface Pending {
  readonly ask: Ask;
  readonly settle: (answer: Answer) => void;
  frame: Uint8Array | null;
  sentAt: number;
  /** The reply that looked like one that had come before, where this is asked for the second time. */
  readonly doubted: Uint8Array | null;
  /** Its reply can be that of no other request, so it is not doubted. */
  readonly isCertain: boolean;
}

/** A silence inside a reply, beyond which it is not waited for: adapters hand bytes over in lumps of up to 16 ms. */
const GAP_MS = 40;
/** How long the line is left alone after a time-out: what comes late is not sent into. */
const LINGER_MS = 100;
/** Requests without any answer after which the connection to a gateway is made anew. */
const SILENT_REQUESTS = 4;

export class LineChannel implements ModbusChannel {
  readonly maxDepth = 1;
  readonly #options: LineOptions;
  readonly #connection: Connection;
  readonly #resting = new SilentUnitBackoff();
  #waiting: Pending[] = [];
  #current: Pending | null = null;
  #received: Uint8Array = new Uint8Array(0);
  #quietUntil = 0;
  #cancelTimer: (() => void) | null = null;
  #cancelGap: (() => void) | null = null;
  readonly #echo = new AdapterEcho();
  readonly #late = new LateReplies();
  readonly #repeated = new RepeatedReplies();
  /** The reply that was given back last. */
  #doubted: Uint8Array | null = null;
  #silentInRow = 0;

  constructor(options: LineOptions) {
    this.#options = options;
    this.#connection = new Connection({
      where: options.where,
      open: options.open,
      clock: options.clock,
      onState: options.onState,
      onOpened: () => {
        this.#received = new Uint8Array(0);
        this.#echo.forget();
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
    if (this.state.phase !== 'connected') return { ok: false, fault: this.#downFault(), sent: false };
    if (ask.signal?.aborted) return { ok: false, fault: ABORTED, sent: false };
    if (ask.unit === 0 && !isWrite(ask.pdu)) return { ok: false, fault: NOBODY, sent: false };
    const isFree = ask.isUrgent === true || isWrite(ask.pdu);
    if (!isFree && !this.#resting.mayAsk(ask.unit, this.#now())) return { ok: false, fault: RESTING, sent: false };
    // Where what is sent may come back, the echo of a write looks like its confirmation.
    if (!this.#echo.isKnown && isWrite(ask.pdu) && ask.unit > 0) await this.#enqueue({ ...ask, pdu: readRequest('HR', 0, 1) });
    // The late reply to a read looks like no reply to a write, and a write that must be sent waits for nobody.
    if (!isWrite(ask.pdu) && this.#late.couldBeTakenFor(ask.unit, ask.pdu, this.#now())) {
      const why = await this.#clear(ask);
      if (why) return { ok: false, fault: why, sent: false };
    }
    const answer = await this.#enqueue(ask);
    if (answer.ok || answer.fault !== DOUBTED) return answer;
    const doubted = this.#doubted;
    const why = await this.#clear(ask);
    if (why) return { ok: false, fault: why, sent: true };
    return this.#enqueue(ask, doubted);
  }

  /** Asks a unit that owes a reply for something whose answer can be nothing else: what is still to come comes before it. */
  async #clear(ask: Ask): Promise<DriverFault | null> {
    for (const otherFunction of [false, true]) {
      const pdu = this.#late.probe(ask.unit, ask.pdu, otherFunction);
      const answer = await this.#enqueue({ ...ask, pdu }, 'certain');
      if (!answer.ok) return answer.fault;
      // An exception may be the late reply itself, where it answers the same function.
      if (answer.reply.kind === 'data' || this.#late.isOwnException(ask.unit, pdu)) break;
    }
    this.#late.settle(ask.unit);
    return null;
  }

  #enqueue(ask: Ask, doubted: Uint8Array | 'certain' | null = null): Promise<Answer> {
    if (this.state.phase !== 'connected') return Promise.resolve({ ok: false, fault: this.#downFault(), sent: false });
    return new Promise((resolve) => {
      const { signal } = ask;
      const onAbort = (): void => this.#abort(pending);
      const pending: Pending = {
        ask,
        settle: (answer) => {
          signal?.removeEventListener('abort', onAbort);
          resolve(answer);
        },
        frame: null,
        sentAt: 0,
        doubted: doubted === 'certain' ? null : doubted,
        isCertain: doubted !== null,
      };
      signal?.addEventListener('abort', onAbort);
      // Writes go before reads: somebody waits for them; letting go goes before all.
      const place = ask.goesFirst
        ? this.#waiting.findIndex((p) => !p.ask.goesFirst)
        : isWrite(ask.pdu)
          ? this.#waiting.findIndex((p) => !isWrite(p.ask.pdu))
          : -1;
      if (place < 0) this.#waiting.push(pending);
      else this.#waiting.splice(place, 0, pending);
      this.#next();
    });
  }

  #next(): void {
    if (this.#current || this.state.phase !== 'connected' || this.#waiting.length === 0) return;
    const now = this.#now();
    if (now < this.#quietUntil) {
      this.#wakeAfter(this.#quietUntil - now, () => this.#next());
      return;
    }
    const pending = this.#waiting.shift();
    if (!pending) return;
    const { ask } = pending;
    if (now >= ask.deadline) {
      this.#resting.forget(ask.unit);
      pending.settle({ ok: false, fault: EXPIRED, sent: false });
      this.#next();
      return;
    }
    this.#tellStray();
    const { form, onFrame, characterMs, turnaroundMs } = this.#options;
    const frame = buildSerialFrame(form, ask.unit, ask.pdu);
    pending.frame = frame;
    pending.sentAt = now;
    this.#current = pending;
    onFrame({ at: now, direction: 'sent', bytes: frame });
    this.#connection.write(frame);
    const sendingMs = frame.length * characterMs;
    if (ask.unit === 0) this.#wakeAfter(sendingMs + turnaroundMs, () => this.#end({ ok: true, reply: NO_REPLY, roundTripMs: 0 }));
    else this.#wakeAfter(sendingMs + ask.timeoutMs, () => this.#giveUp());
  }

  #take(chunk: Uint8Array): void {
    const bytes = new Uint8Array(this.#received.length + chunk.length);
    bytes.set(this.#received);
    bytes.set(chunk, this.#received.length);
    // More than two frames without an end is noise: only its end can still matter.
    this.#received = bytes.length > 2 * MAX_SERIAL_BYTES.ascii ? bytes.slice(-2 * MAX_SERIAL_BYTES.ascii) : bytes;
    this.#cancelGap?.();
    this.#cancelGap = null;
    if (this.#current) this.#look(this.#current);
    else this.#quietUntil = Math.max(this.#quietUntil, this.#now() + this.#options.silenceMs);
    if (this.#received.length > 0) this.#cancelGap = this.#options.clock.after(GAP_MS, () => this.#gap());
  }

  /** Looks for the reply in what has come so far. */
  #look(current: Pending): void {
    const { ask, frame } = current;
    const { form } = this.#options;
    if (!frame) return;
    const echoed = this.#echo.strip(frame, ask.pdu, this.#received);
    if (echoed === null) return;
    if (echoed > 0) {
      const note = 'echo of what was sent, from the adapter';
      this.#options.onFrame({ at: this.#now(), direction: 'received', bytes: frame, note, oddity: 'echo' });
      this.#received = this.#received.slice(echoed);
    }
    for (;;) {
      const found = findReply(form, this.#received, ask.unit, ask.pdu);
      if (found.kind !== 'frame') break;
      const at = this.#now();
      const bytes = this.#received.slice(found.from, found.end);
      const noise = this.#received.slice(0, found.from);
      this.#received = this.#received.slice(found.end);
      if (noise.length > 0)
        this.#options.onFrame({
          at,
          direction: 'received',
          bytes: noise,
          ...(this.#late.owes(ask.unit) ? LATE : { note: 'noise before a frame', oddity: 'noise' }),
        });
      if (found.unit !== ask.unit) {
        const note = `unit ${found.unit} speaks, unit ${ask.unit} was asked`;
        const odd = this.#late.payment(form, bytes)
          ? LATE
          : this.#repeated.isAgain(found.unit, bytes, at)
            ? AGAIN
            : ({ note, oddity: 'stranger' } as const);
        this.#repeated.saw(found.unit, null, bytes, at);
        this.#options.onFrame({ at, direction: 'received', bytes, ...odd });
        continue;
      }
      const checked = checkReply(ask.pdu, found.pdu, ask.registerBytes);
      if (!checked.ok && this.#late.owes(ask.unit)) {
        this.#repeated.saw(ask.unit, null, bytes, at);
        this.#options.onFrame({ at, direction: 'received', bytes, ...LATE });
        continue;
      }
      // What fits another request and has come before is no answer to this one, which is still to come.
      if (!checked.ok && this.#repeated.isOfAnother(ask.unit, ask.pdu, bytes, at)) {
        this.#options.onFrame({ at, direction: 'received', bytes, ...AGAIN });
        continue;
      }
      if (checked.ok && !current.isCertain && this.#repeated.isDoubtful(ask.unit, ask.pdu, bytes, at)) return this.#doubt(current, bytes);
      this.#options.onFrame({ at, direction: 'received', bytes, ...(checked.ok ? {} : { note: checked.problem.message, oddity: 'unfit' }) });
      if (checked.ok) this.#repeated.taken(ask.unit, ask.pdu, bytes, current.doubted, at);
      else this.#repeated.saw(ask.unit, null, bytes, at);
      if (!isRepeated(ask.pdu)) this.#echo.hadNone();
      // What answers something else leaves the answer to this one still to come.
      if (!checked.ok) this.#late.owe(ask.unit, ask.pdu, at);
      this.#answered(ask.unit);
      this.#end(
        checked.ok
          ? { ok: true, reply: checked.value, roundTripMs: at - current.sentAt }
          : { ok: false, fault: malformed(checked.problem.message), sent: true },
      );
      return;
    }
  }

  /** Gives the request back unanswered: see {@link transact}. */
  #doubt(current: Pending, bytes: Uint8Array): void {
    const note = 'the same as the reply to another request: asked again';
    this.#options.onFrame({ at: this.#now(), direction: 'received', bytes, note, oddity: 'unasked' });
    this.#quietUntil = this.#now() + LINGER_MS;
    this.#late.owe(current.ask.unit, current.ask.pdu, this.#now());
    this.#doubted = bytes;
    this.#end({ ok: false, fault: DOUBTED, sent: true });
  }

  /** Nothing has come for a while: what is there is all there is. */
  #gap(): void {
    this.#cancelGap = null;
    const current = this.#current;
    if (!current) return this.#tellStray();
    const { ask } = current;
    if (this.#received.length === 0) return;
    const found = findReply(this.#options.form, this.#received, ask.unit, ask.pdu);
    // A gateway may hand a reply over in pieces; on our own line a gap ends it.
    if (found.kind === 'partial' && this.#options.characterMs === 0) return;
    const why =
      found.kind === 'garbage' && found.why === 'checksum'
        ? 'the check sum is wrong'
        : found.kind === 'partial'
          ? 'it was cut short'
          : 'it is no frame';
    this.#options.onFrame({
      at: this.#now(),
      direction: 'received',
      bytes: this.#received,
      note: `not a reply: ${why}`,
      oddity: found.kind === 'partial' ? 'short' : found.kind === 'garbage' && found.why === 'checksum' ? 'checksum' : 'noise',
    });
    this.#received = new Uint8Array(0);
    // Noise is not an answer, and the answer may still come.
    if (found.kind === 'garbage' && found.why === 'form') return;
    this.#resting.forget(ask.unit);
    this.#end({ ok: false, fault: malformed(`The reply of unit ${ask.unit} is damaged: ${why}.`), sent: true });
  }

  #giveUp(): void {
    const current = this.#current;
    if (!current) return;
    const now = this.#now();
    const { unit, timeoutMs, pdu } = current.ask;
    if (this.#received.length > 0 && findReply(this.#options.form, this.#received, unit, pdu).kind === 'partial') {
      this.#options.onFrame({ at: now, direction: 'received', bytes: this.#received, note: 'not a reply: it was cut short', oddity: 'short' });
      this.#received = new Uint8Array(0);
    }
    this.#tellStray();
    this.#echo.hadNone();
    this.#late.owe(unit, pdu, now);
    const lingerMs = Math.min(LINGER_MS, timeoutMs);
    this.#resting.silent(unit, now, timeoutMs + lingerMs);
    this.#quietUntil = now + lingerMs;
    // A search expects silence.
    if (!current.ask.isUrgent) this.#silentInRow++;
    this.#end({ ok: false, fault: silentFault(unit, timeoutMs), sent: true });
    if (this.#silentInRow < SILENT_REQUESTS || this.#options.characterMs > 0) return;
    this.#silentInRow = 0;
    this.#connection.lose({
      code: 'silent',
      message: `The gateway at ${this.#options.where} no longer answers; the connection is made anew.`,
      remedy: 'Check power and line behind the gateway.',
    });
  }

  #answered(unit: number): void {
    this.#silentInRow = 0;
    this.#connection.answered();
    this.#resting.answered(unit);
  }

  /** The current request is over. */
  #end(answer: Answer): void {
    const current = this.#current;
    if (!current) return;
    this.#current = null;
    this.#cancelTimer?.();
    this.#cancelTimer = null;
    const now = this.#now();
    this.#quietUntil = Math.max(this.#quietUntil, now + Math.max(this.#options.silenceMs, current.ask.pauseMs, this.#repeated.lingerMs(now)));
    current.settle(answer);
    this.#next();
  }

  /** Bytes that nobody waits for go to the trace; a reply that is owed settles the debt. */
  #tellStray(): void {
    const bytes = this.#received;
    if (bytes.length === 0) return;
    this.#received = new Uint8Array(0);
    const now = this.#now();
    const payment = this.#late.payment(this.#options.form, bytes);
    const odd = payment
      ? LATE
      : this.#repeated.isAgain(bytes[0] ?? 0, bytes, now)
        ? AGAIN
        : ({ note: 'answers no request', oddity: 'unasked' } as const);
    if (payment) this.#repeated.saw(payment.unit, null, payment.frame, now);
    this.#options.onFrame({ at: now, direction: 'received', bytes, ...odd });
  }

  #abort(pending: Pending): void {
    this.#resting.forget(pending.ask.unit);
    const place = this.#waiting.indexOf(pending);
    if (place >= 0) {
      this.#waiting.splice(place, 1);
      pending.settle({ ok: false, fault: ABORTED, sent: false });
    } else if (this.#current === pending) {
      this.#late.owe(pending.ask.unit, pending.ask.pdu, this.#now());
      this.#end({ ok: false, fault: ABORTED, sent: true });
    }
  }

  #drop(problem: Problem): void {
    this.#cancelTimer?.();
    this.#cancelTimer = null;
    this.#cancelGap?.();
    this.#cancelGap = null;
    this.#received = new Uint8Array(0);
    const fault: DriverFault = { kind: problem.code === 'closed' ? 'aborted' : 'link-down', problem };
    const current = this.#current;
    const waiting = this.#waiting;
    this.#current = null;
    this.#waiting = [];
    for (const pending of current ? [current, ...waiting] : waiting) {
      this.#resting.forget(pending.ask.unit);
      if (pending === current) this.#late.owe(pending.ask.unit, pending.ask.pdu, this.#now());
      pending.settle({ ok: false, fault, sent: pending === current });
    }
  }

  #wakeAfter(ms: number, call: () => void): void {
    this.#cancelTimer?.();
    this.#cancelTimer = this.#options.clock.after(ms, () => {
      this.#cancelTimer = null;
      call();
    });
  }

  #now(): number {
    return this.#options.clock.now();
  }

  #downFault(): DriverFault {
    return { kind: 'link-down', problem: this.state.problem ?? { code: 'connecting', message: `Connecting to ${this.#options.where}.` } };
  }
}

const LATE = { note: 'late: its request was given up', oddity: 'late' } as const;
const NOBODY: DriverFault = {
  kind: 'settings',
  problem: {
    code: 'broadcast',
    message: 'Unit 0 is every device of the line at once: nobody answers a read.',
    remedy: 'Choose a unit from 1 to 247.',
  },
};
const DOUBTED = malformed('A reply came that had come before.');
const AGAIN = { note: 'a reply that has come before', oddity: 'again' } as const;
const NO_REPLY = { kind: 'data', data: new Uint8Array(0) } as const;

function malformed(message: string): DriverFault {
  return { kind: 'malformed', problem: { code: 'malformed', message, remedy: 'Look at the frames in the trace.' } };
}
