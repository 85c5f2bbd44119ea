/**
 * Frames of EtherNet/IP over one TCP connection: a session is registered first; each reply is paired with its request by the
 * sender's context, or on a connection by its id and sequence number. What nobody waits for any more goes nowhere.
 */
import { randomInt } from 'node:crypto';
import {
  buildFrame,
  carriedIn,
  COMMAND,
  connectedFrame,
  FrameCutter,
  frameStatusInWords,
  registerSessionFrame,
  unconnectedFrame,
  type EipFrame,
} from '@/core/cip/encapsulation.ts';
import { identityIn, type Identity } from '@/core/cip/identity.ts';
import type { Problem, Result } from '@/core/result.ts';
import type { Clock, DriverFault, FrameEvent, LinkState } from '../contract.ts';
import { Connection, type OpenPipe } from '../transport/connection.ts';

export interface ChannelOptions {
  readonly where: string;
  readonly open: OpenPipe;
  readonly clock: Clock;
  readonly onFrame: (frame: FrameEvent) => void;
  readonly onState: (state: LinkState) => void;
}

/** How long an answer is waited for, and by whom. */
export interface Waiting {
  readonly timeoutMs: number;
  /** Clock time after which it is not even sent. */
  readonly deadline: number;
  readonly signal?: AbortSignal;
}

export type Carrying =
  | { readonly ok: true; readonly message: Uint8Array; readonly roundTripMs: number }
  | { readonly ok: false; readonly fault: DriverFault; /** False: it never left, so nothing was done. */ readonly sent: boolean };

interface Pending {
  readonly sentAt: number;
  readonly settle: (answer: Carrying) => void;
}

const REGISTER_MS = 3000;
/** Requests in a row without any reply after which the connection is taken for dead and made anew. */
const SILENT_REQUESTS = 3;
const MOST_GIVEN_UP = 10_000;
/** Where requests on no connection begin to count. */
const FIRST_CONTEXT = 1;

export const ABORTED: DriverFault = { kind: 'aborted', problem: { code: 'aborted', message: 'The request was cancelled.' } };
const EXPIRED: DriverFault = { kind: 'aborted', problem: { code: 'expired', message: 'The request came too late to be sent.' } };

export class EipChannel {
  readonly #options: ChannelOptions;
  readonly #connection: Connection;
  #cutter = new FrameCutter();
  #state: LinkState = { phase: 'closed', problem: null, retryAt: null };
  /** 0 while none is registered. */
  #session = 0;
  #round = 0;
  #cancelRegister: () => void = () => undefined;
  readonly #pending = new Map<string, Pending>();
  readonly #givenUp = new Set<string>();
  #nextContext = FIRST_CONTEXT;
  #silentInRow = 0;
  /** Requests of all targets of the link are told apart by the ids of their connections. */
  readonly originator = randomInt(1, 0xffff_ffff);

  constructor(options: ChannelOptions) {
    this.#options = options;
    this.#connection = new Connection({
      where: options.where,
      open: options.open,
      clock: options.clock,
      onState: (state) => (state.phase === 'connected' ? this.#become({ ...state, phase: 'connecting' }) : this.#become(state)),
      onOpened: () => this.#register(),
      onData: (chunk) => this.#take(chunk),
      onLost: (problem) => this.#drop(problem),
    });
  }

  get state(): LinkState {
    return this.#state;
  }
  /** Another one after each time that the connection was made: what was opened on an older one is gone. */
  get round(): number {
    return this.#round;
  }

  start(): void {
    this.#connection.start();
  }

  close(): void {
    if (this.#session !== 0) this.#write(buildFrame(COMMAND.unregisterSession, this.#session, new Uint8Array(0)));
    this.#connection.close({ code: 'closed', message: 'The link was closed.' });
  }

  unconnected(message: Uint8Array, waiting: Waiting): Promise<Carrying> {
    const context = this.#freeContext();
    return this.#exchange(`u${context}`, () => unconnectedFrame(this.#session, message, context), waiting);
  }

  connected(
    to: { readonly theirId: number; readonly ourId: number; readonly sequence: number },
    message: Uint8Array,
    waiting: Waiting,
  ): Promise<Carrying> {
    const frame = (): Uint8Array => connectedFrame(this.#session, to.theirId, to.sequence, message, 0);
    return this.#exchange(`c${to.ourId} ${to.sequence}`, frame, waiting);
  }

  /** Who the host itself is. */
  async identity(waiting: Waiting): Promise<Result<Identity>> {
    const context = this.#freeContext();
    const came = await this.#exchange(`i${context}`, () => buildFrame(COMMAND.listIdentity, 0, new Uint8Array(0), context), waiting);
    return came.ok ? identityIn(came.message) : { ok: false, problem: came.fault.problem };
  }

  #freeContext(): number {
    this.#nextContext = this.#nextContext >= 0x7fff_ffff ? FIRST_CONTEXT : this.#nextContext + 1;
    return this.#nextContext;
  }

  #exchange(key: string, frame: () => Uint8Array, { timeoutMs, deadline, signal }: Waiting): Promise<Carrying> {
    const { clock } = this.#options;
    if (this.#state.phase !== 'connected') return Promise.resolve({ ok: false, fault: this.#down(), sent: false });
    if (signal?.aborted) return Promise.resolve({ ok: false, fault: ABORTED, sent: false });
    const now = clock.now();
    if (now >= deadline) return Promise.resolve({ ok: false, fault: EXPIRED, sent: false });
    return new Promise((resolve) => {
      const settle = (answer: Carrying): void => {
        this.#pending.delete(key);
        cancel();
        signal?.removeEventListener('abort', aborted);
        resolve(answer);
      };
      const giveUp = (fault: DriverFault): void => {
        if (this.#givenUp.size > MOST_GIVEN_UP) this.#givenUp.clear();
        this.#givenUp.add(key);
        settle({ ok: false, fault, sent: true });
      };
      const aborted = (): void => giveUp(ABORTED);
      const cancel = clock.after(timeoutMs, () => {
        giveUp(this.#silent(timeoutMs));
        if (++this.#silentInRow >= SILENT_REQUESTS)
          this.#lose('silent', 'no longer answers; it is made anew', 'Check power and network of the device.');
      });
      signal?.addEventListener('abort', aborted);
      this.#pending.set(key, { sentAt: now, settle });
      this.#write(frame());
    });
  }

  #write(bytes: Uint8Array): void {
    this.#options.onFrame({ at: this.#options.clock.now(), direction: 'sent', bytes });
    this.#connection.write(bytes);
  }

  #register(): void {
    this.#cutter = new FrameCutter();
    this.#session = 0;
    this.#silentInRow = 0;
    this.#write(registerSessionFrame());
    this.#cancelRegister = this.#options.clock.after(REGISTER_MS, () =>
      this.#lose('no-session', `answered nothing within ${REGISTER_MS / 1000} s`, 'Check that the port is one of EtherNet/IP.'),
    );
  }

  #take(chunk: Uint8Array): void {
    const why = this.#cutter.push(chunk, (frame) => this.#receive(frame));
    if (why === null) return;
    const { clock, onFrame } = this.#options;
    onFrame({ at: clock.now(), direction: 'received', bytes: chunk.slice(0, 260), note: `not EtherNet/IP: ${why}`, oddity: 'protocol' });
    this.#lose('malformed', `does not speak EtherNet/IP: ${why}`, 'Check the port.');
  }

  #receive(frame: EipFrame): void {
    const { clock, onFrame } = this.#options;
    const at = clock.now();
    const received = (more: Partial<FrameEvent> = {}): void => onFrame({ at, direction: 'received', bytes: frame.bytes, ...more });
    if (frame.command === COMMAND.registerSession && this.#session === 0) {
      received();
      this.#cancelRegister();
      if (frame.status !== 0 || frame.session === 0)
        return this.#lose('no-session', `gives no session: ${frameStatusInWords(frame.status)}`, 'It may serve too many clients.');
      this.#session = frame.session;
      this.#round++;
      this.#connection.answered();
      return this.#become({ phase: 'connected', problem: null, retryAt: null });
    }
    const key = keyOf(frame);
    const pending = key === null ? undefined : this.#pending.get(key);
    if (key === null || !pending) {
      const isLate = key !== null && this.#givenUp.delete(key);
      return received(isLate ? { note: 'late: its request was given up', oddity: 'late' } : { note: 'answers no request', oddity: 'unasked' });
    }
    this.#silentInRow = 0;
    if (frame.status !== 0) {
      received();
      return pending.settle({
        ok: false,
        sent: true,
        fault: { kind: 'refused', problem: { code: 'frame-status', message: `The device refused the frame: ${frameStatusInWords(frame.status)}.` } },
      });
    }
    const carried = frame.command === COMMAND.listIdentity ? { ok: true as const, value: { message: frame.data } } : carriedIn(frame.data);
    if (!carried.ok) {
      received({ note: carried.problem.message, oddity: 'unfit' });
      return pending.settle({ ok: false, sent: true, fault: malformed(carried.problem.message) });
    }
    received();
    // What was read outlives the chunk that it came in.
    pending.settle({ ok: true, message: new Uint8Array(carried.value.message), roundTripMs: at - pending.sentAt });
  }

  #lose(code: string, what: string, remedy: string): void {
    this.#connection.lose({ code, message: `What is at ${this.#options.where} ${what}.`, remedy });
  }

  #drop(problem: Problem): void {
    this.#cancelRegister();
    this.#session = 0;
    this.#givenUp.clear();
    const fault: DriverFault = { kind: problem.code === 'closed' ? 'aborted' : 'link-down', problem };
    for (const pending of [...this.#pending.values()]) pending.settle({ ok: false, fault, sent: true });
  }

  #become(state: LinkState): void {
    this.#state = state;
    this.#options.onState(state);
  }

  #down(): DriverFault {
    return { kind: 'link-down', problem: this.#state.problem ?? { code: 'connecting', message: `Connecting to ${this.#options.where}.` } };
  }

  #silent(timeoutMs: number): DriverFault {
    return {
      kind: 'silent',
      problem: {
        code: 'timeout',
        message: `No reply from ${this.#options.where} within ${timeoutMs} ms.`,
        remedy: 'Check route, power and network of the controller.',
      },
    };
  }
}

/** Whose answer a frame is; null for one that is no answer. A frame with an error status tells no more than its context. */
function keyOf(frame: EipFrame): string | null {
  if (frame.command === COMMAND.listIdentity) return `i${frame.context}`;
  if (frame.command === COMMAND.sendRRData) return `u${frame.context}`;
  if (frame.command !== COMMAND.sendUnitData) return null;
  const carried = carriedIn(frame.data);
  return carried.ok && carried.value.kind === 'connected' ? `c${carried.value.connection} ${carried.value.sequence}` : null;
}

export function malformed(message: string): DriverFault {
  return { kind: 'malformed', problem: { code: 'malformed', message, remedy: 'Look at the frames in the trace.' } };
}
