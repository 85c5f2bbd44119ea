/**
 * Requests on a line that carries one at a time and has no transaction numbers: RTU or ASCII frames on a serial
 * port or through a gateway. A reply that comes late must not become the value of the next request, so after a
 * time-out a unit first has to answer an echo, whose reply looks like no other (see {@link LineChannel.#clear}).
 */
import { checkReply, diagnosticRequest, isWrite, readRequest } from '@/core/modbus/pdu.ts';
import { buildSerialFrame, findReply, MAX_SERIAL_BYTES, type SerialForm } from '@/core/modbus/serialFrame.ts';
import type { Problem } from '@/core/result.ts';
import type { Clock, DriverFault, FrameEvent, LinkState } from '../contract.ts';
import { ABORTED, EXPIRED, silentFault, type Answer, type Ask, type ModbusChannel } from './channel.ts';
import { Connection, type OpenPipe } from './connection.ts';
import { RESTING, RestingUnits } from './restingUnits.ts';

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
}

/** A reply that came lately, to what. */
interface Recent {
  readonly unit: number;
  readonly pdu: Uint8Array;
  readonly bytes: Uint8Array;
  readonly at: number;
}

/** A silence inside a reply, beyond which it is not waited for: adapters hand bytes over in lumps of up to 16 ms. */
const GAP_MS = 40;
/** How long after the last time-out a late reply is thought possible where a unit does not know the echo. */
const LATE_MS = 10_000;
/** How long the line is left alone after a time-out: what comes late is not sent into. */
const LINGER_MS = 100;
/** A reply that comes again within this time is one that was sent twice. */
const AGAIN_MS = 2000;
/** How long a line on which replies come twice is treated with care. */
const CARE_MS = 60_000;
const MOST_LINGER_MS = 250;
const MOST_TRUSTED = 5000;
/** Requests without any answer after which the connection to a gateway is made anew. */
const SILENT_REQUESTS = 4;

export class LineChannel implements ModbusChannel {
  readonly maxDepth = 1;
  readonly #options: LineOptions;
  readonly #connection: Connection;
  readonly #resting = new RestingUnits();
  #waiting: Pending[] = [];
  #current: Pending | null = null;
  #received: Uint8Array = new Uint8Array(0);
  /** Whether the adapter sends back what we send; null until a reply has shown it. */
  #echoes: boolean | null = null;
  #quietUntil = 0;
  #cancelTimer: (() => void) | null = null;
  #cancelGap: (() => void) | null = null;
  /** The request whose echo was taken off what came. */
  #stripped: Pending | null = null;
  /** Units that owe replies: to what, and since when. */
  readonly #owing = new Map<number, { readonly since: number; readonly pdus: readonly Uint8Array[] }>();
  /** The reply that was given back last. */
  #doubted: Uint8Array | null = null;
  #recent: Recent[] = [];
  /** Pairs of requests that were found to have the same reply by asking again. */
  readonly #trusted = new Set<string>();
  /** Where replies come twice: how long the line is left alone after each, and until when. */
  #care = { lingerMs: 0, until: 0 };
  #echoData = 0x5a00;
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
        this.#echoes = null;
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
    if (this.#echoes === null && isWrite(ask.pdu) && ask.unit > 0) await this.#enqueue({ ...ask, pdu: readRequest('HR', 0, 1) });
    // The late reply to a read looks like no reply to a write, and a write that must be sent waits for nobody.
    if (!isWrite(ask.pdu) && this.#owes(ask.unit)) {
      const why = await this.#clear(ask);
      if (why) return { ok: false, fault: why, sent: false };
    }
    const answer = await this.#enqueue(ask);
    if (answer.ok || answer.fault !== DOUBTED) return answer;
    const doubted = this.#doubted;
    const why = await this.#clear(ask);
    // It has just spoken, so it does not know the echo: what may still come is waited for instead.
    if (why?.kind === 'silent') {
      this.#quietUntil = this.#now() + MOST_LINGER_MS;
      this.#owing.delete(ask.unit);
    } else if (why) return { ok: false, fault: why, sent: true };
    return this.#enqueue(ask, doubted);
  }

  /**
   * Asks a unit that owes a reply for an echo. Requests are answered in turn, so whatever is still to come comes
   * before the echo, or before the refusal of it; neither can be mistaken for the reply to anything else.
   */
  async #clear(ask: Ask): Promise<DriverFault | null> {
    this.#echoData = (this.#echoData + 1) & 0xffff;
    const answer = await this.#enqueue({ ...ask, pdu: diagnosticRequest(0, this.#echoData) });
    if (!answer.ok) return answer.fault;
    this.#owing.delete(ask.unit);
    return null;
  }

  #owes(unit: number): boolean {
    const owed = this.#owing.get(unit);
    if (owed && this.#now() - owed.since > LATE_MS) this.#owing.delete(unit);
    return this.#owing.has(unit);
  }

  #owe(unit: number, pdu: Uint8Array): void {
    const owed = this.#owing.get(unit);
    // An echo that comes late looks like no other reply: it makes nothing worse.
    if (owed && pdu[0] === ECHO) return;
    this.#owing.set(unit, { since: this.#now(), pdus: [...(owed?.pdus ?? []), pdu].slice(-8) });
  }

  #enqueue(ask: Ask, doubted: Uint8Array | null = null): Promise<Answer> {
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
        doubted,
      };
      signal?.addEventListener('abort', onAbort);
      // Writes go before reads: somebody waits for them.
      const place = isWrite(ask.pdu) ? this.#waiting.findIndex((p) => !isWrite(p.ask.pdu)) : -1;
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
    if (!frame) return;
    if (
      this.#echoes !== true &&
      !isRepeated(ask.pdu) &&
      this.#received.length >= frame.length &&
      isSame(this.#received.slice(0, frame.length), frame)
    )
      this.#echoes = true;
    if (this.#echoes === true && !this.#stripEcho(frame)) return;
    for (;;) {
      const found = findReply(this.#options.form, this.#received, ask.unit, ask.pdu);
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
          ...(this.#owing.has(ask.unit) ? LATE : { note: 'noise before a frame', oddity: 'noise' }),
        });
      if (found.unit !== ask.unit) {
        const note = `unit ${found.unit} speaks, unit ${ask.unit} was asked`;
        const isAgain = this.#isAgain(found.unit, bytes);
        this.#saw(found.unit, UNKNOWN, bytes);
        this.#options.onFrame({ at, direction: 'received', bytes, ...(isAgain ? AGAIN : { note, oddity: 'stranger' }) });
        continue;
      }
      const checked = checkReply(ask.pdu, found.pdu, ask.registerBytes);
      if (!checked.ok && this.#owing.has(ask.unit)) {
        this.#saw(ask.unit, UNKNOWN, bytes);
        this.#options.onFrame({ at, direction: 'received', bytes, ...LATE });
        continue;
      }
      if (checked.ok && this.#isDoubtful(current, bytes)) return this.#doubt(current, bytes);
      this.#options.onFrame({ at, direction: 'received', bytes, ...(checked.ok ? {} : { note: checked.problem.message, oddity: 'unfit' }) });
      this.#remember(ask, bytes);
      if (!isRepeated(ask.pdu)) this.#echoes ??= false;
      this.#answered(ask.unit);
      this.#end(
        checked.ok
          ? { ok: true, reply: checked.value, roundTripMs: at - current.sentAt }
          : { ok: false, fault: malformed(checked.problem.message), sent: true },
      );
      return;
    }
  }

  /**
   * Whether a reply is byte for byte one that came lately to another request of the unit: two devices of one address,
   * or one that speaks twice, look like that. So do two places that hold the same, which is found out by asking again.
   */
  #isDoubtful({ ask, doubted }: Pending, bytes: Uint8Array): boolean {
    if (doubted || isWrite(ask.pdu) || ask.pdu[0] === ECHO) return false;
    return this.#alike(ask, bytes).some((r) => !this.#trusted.has(pairOf(r, ask)));
  }

  /** Gives the request back unanswered: see {@link transact}. */
  #doubt(current: Pending, bytes: Uint8Array): void {
    const note = 'the same as the reply to another request: asked again';
    this.#options.onFrame({ at: this.#now(), direction: 'received', bytes, note, oddity: 'unasked' });
    this.#quietUntil = this.#now() + LINGER_MS;
    this.#owe(current.ask.unit, current.ask.pdu);
    this.#doubted = bytes;
    this.#end({ ok: false, fault: DOUBTED, sent: true });
  }

  #remember({ unit, pdu }: Ask, bytes: Uint8Array): void {
    const doubted = this.#current?.doubted ?? null;
    if (doubted && !isSame(doubted, bytes)) this.#takeCare(LINGER_MS);
    if (doubted && isSame(doubted, bytes)) {
      if (this.#trusted.size > MOST_TRUSTED) this.#trusted.clear();
      for (const r of this.#alike({ unit, pdu }, bytes)) this.#trusted.add(pairOf(r, { pdu, unit }));
    }
    this.#saw(unit, pdu, bytes);
  }

  #saw(unit: number, pdu: Uint8Array, bytes: Uint8Array): void {
    const at = this.#now();
    const isNewer = (r: Recent): boolean => r.unit === unit && isSame(r.pdu, pdu) && (pdu !== UNKNOWN || isSame(r.bytes, bytes));
    this.#recent = this.#recent.filter((r) => at - r.at < AGAIN_MS && !isNewer(r));
    this.#recent.push({ unit, pdu, bytes, at });
  }

  /** Replies to other requests of the unit that came lately and are the same. */
  #alike({ unit, pdu }: Pick<Ask, 'unit' | 'pdu'>, bytes: Uint8Array): readonly Recent[] {
    return this.#recent.filter((r) => r.unit === unit && this.#now() - r.at < AGAIN_MS && isSame(r.bytes, bytes) && !isSame(r.pdu, pdu));
  }

  /** Whether a frame is a reply that has come before; if so, the line is left alone long enough from here on. */
  #isAgain(unit: number, bytes: Uint8Array): boolean {
    const now = this.#now();
    const first = this.#recent.findLast((r) => r.unit === unit && now - r.at < AGAIN_MS && isSame(r.bytes, bytes));
    if (first) this.#takeCare(now - first.at);
    return first !== undefined;
  }

  #takeCare(lagMs: number): void {
    const lingerMs = Math.min(MOST_LINGER_MS, Math.max(this.#care.lingerMs, 1.5 * lagMs + 10));
    this.#care = { lingerMs, until: this.#now() + CARE_MS };
  }

  /** False while the echo has not come whole. An adapter that stops echoing is believed again at the next time-out. */
  #stripEcho(frame: Uint8Array): boolean {
    const sent = this.#current;
    if (!sent || sent.frame !== frame || this.#stripped === sent) return true;
    const common = Math.min(this.#received.length, frame.length);
    if (!isSame(this.#received.slice(0, common), frame.slice(0, common))) {
      // The adapter echoes no longer; whether it does is found out again.
      this.#echoes = null;
      this.#stripped = sent;
      return true;
    }
    if (common < frame.length) return false;
    this.#options.onFrame({ at: this.#now(), direction: 'received', bytes: frame, note: 'echo of what was sent, from the adapter', oddity: 'echo' });
    this.#received = this.#received.slice(frame.length);
    this.#stripped = sent;
    return true;
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
    this.#echoes ??= false;
    this.#owe(unit, pdu);
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
    const careMs = now < this.#care.until ? this.#care.lingerMs : 0;
    if (careMs === 0) this.#care = { lingerMs: 0, until: 0 };
    this.#quietUntil = Math.max(this.#quietUntil, now + Math.max(this.#options.silenceMs, current.ask.pauseMs, careMs));
    current.settle(answer);
    this.#next();
  }

  /** Bytes that nobody waits for go to the trace; a reply that is owed settles the debt. */
  #tellStray(): void {
    const bytes = this.#received;
    if (bytes.length === 0) return;
    this.#received = new Uint8Array(0);
    const payer = [...this.#owing].find(([unit, { pdus }]) =>
      pdus.some((pdu) => {
        const found = findReply(this.#options.form, bytes, unit, pdu);
        return found.kind === 'frame' && found.unit === unit;
      }),
    );
    if (payer && payer[1].pdus.length === 1) this.#owing.delete(payer[0]);
    const odd = payer ? LATE : this.#isAgain(bytes[0] ?? 0, bytes) ? AGAIN : ({ note: 'answers no request', oddity: 'unasked' } as const);
    if (payer) {
      const found = findReply(this.#options.form, bytes, payer[0], payer[1].pdus[0] ?? UNKNOWN);
      if (found.kind === 'frame') this.#saw(payer[0], UNKNOWN, bytes.slice(found.from, found.end));
    }
    this.#options.onFrame({ at: this.#now(), direction: 'received', bytes, ...odd });
  }

  #abort(pending: Pending): void {
    this.#resting.forget(pending.ask.unit);
    const place = this.#waiting.indexOf(pending);
    if (place >= 0) {
      this.#waiting.splice(place, 1);
      pending.settle({ ok: false, fault: ABORTED, sent: false });
    } else if (this.#current === pending) {
      this.#owe(pending.ask.unit, pending.ask.pdu);
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
      if (pending === current) this.#owe(pending.ask.unit, pending.ask.pdu);
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
const AGAIN = { note: 'a reply that has come before', oddity: 'unasked' } as const;
/** Of a reply to nobody knows what. */
const UNKNOWN = new Uint8Array(0);
const ECHO = 8;
const NO_REPLY = { kind: 'data', data: new Uint8Array(0) } as const;

/** Requests whose reply repeats them, so that an echo looks like it. */
function isRepeated(pdu: Uint8Array): boolean {
  return [5, 6, 8, 22].includes(pdu[0] ?? 0);
}

/** Two requests of one unit. */
function pairOf(a: Pick<Ask, 'unit' | 'pdu'>, b: Pick<Ask, 'unit' | 'pdu'>): string {
  return `${a.unit} ${String(a.pdu)} ${String(b.pdu)}`;
}

function isSame(a: Uint8Array, b: Uint8Array): boolean {
  return a.length === b.length && a.every((byte, i) => b[i] === byte);
}

function malformed(message: string): DriverFault {
  return { kind: 'malformed', problem: { code: 'malformed', message, remedy: 'Look at the frames in the trace.' } };
}
