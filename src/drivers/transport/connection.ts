/** Keeps a pipe of bytes open: connects, reconnects by itself with growing delay, and tells its state. */
import type { Problem } from '@/core/result.ts';
import type { Clock, LinkState } from '../contract.ts';

/** A way for bytes that is opening or open. Its events come after it was returned, never before. */
export interface Pipe {
  write(bytes: Uint8Array): void;
  close(): void;
}
export interface PipeEvents {
  readonly opened: () => void;
  readonly data: (chunk: Uint8Array) => void;
  readonly lost: (problem: Problem) => void;
}
export type OpenPipe = (events: PipeEvents) => Pipe;

export interface ConnectionOptions {
  /** Where it leads, for messages. */
  readonly where: string;
  readonly open: OpenPipe;
  readonly clock: Clock;
  readonly onState: (state: LinkState) => void;
  readonly onOpened: () => void;
  readonly onData: (chunk: Uint8Array) => void;
  /** Before the state tells of it: whatever waited for an answer is told. */
  readonly onLost: (problem: Problem) => void;
}

/** Delays between attempts to connect, in milliseconds: doubling, never above the last. */
const FIRST_DELAY_MS = 250;
const LAST_DELAY_MS = 4000;
const CONNECT_TIMEOUT_MS = 3000;

export class Connection {
  readonly #options: ConnectionOptions;
  #state: LinkState = { phase: 'closed', problem: null, retryAt: null };
  #pipe: Pipe | null = null;
  #cancelRetry: (() => void) | null = null;
  #delayMs = FIRST_DELAY_MS;

  constructor(options: ConnectionOptions) {
    this.#options = options;
  }

  get state(): LinkState {
    return this.#state;
  }

  start(): void {
    if (this.#state.phase === 'closed') this.#connect();
  }

  /** @param problem told to whatever waits for an answer */
  close(problem: Problem): void {
    this.#cancelRetry?.();
    this.#cancelRetry = null;
    this.#setState({ phase: 'closed', problem: null, retryAt: null });
    this.#drop(problem);
  }

  write(bytes: Uint8Array): void {
    this.#pipe?.write(bytes);
  }

  /** An answer has come: the next loss is a new one. */
  answered(): void {
    this.#delayMs = FIRST_DELAY_MS;
  }

  /** Ends the connection for a reason that was seen in what it carries; it is made anew. */
  lose(problem: Problem): void {
    this.#drop(problem);
    if (this.#state.phase === 'closed') return;
    const { clock } = this.#options;
    this.#cancelRetry?.();
    this.#setState({ phase: 'waiting', problem, retryAt: clock.now() + this.#delayMs });
    this.#cancelRetry = clock.after(this.#delayMs, () => this.#connect());
    this.#delayMs = Math.min(this.#delayMs * 2, LAST_DELAY_MS);
  }

  #connect(): void {
    const { clock, open, where, onOpened, onData } = this.#options;
    this.#setState({ phase: 'connecting', problem: this.#state.problem, retryAt: null });
    let over = false;
    const lost = (problem: Problem): void => {
      if (over) return;
      over = true;
      cancelTimeout();
      if (this.#pipe === pipe) this.lose(problem);
      else pipe.close();
    };
    const pipe = open({
      opened: () => {
        if (over || this.#pipe !== pipe) return;
        cancelTimeout();
        this.#setState({ phase: 'connected', problem: null, retryAt: null });
        onOpened();
      },
      data: (chunk) => {
        if (!over && this.#pipe === pipe) onData(chunk);
      },
      lost,
    });
    this.#pipe = pipe;
    const cancelTimeout = clock.after(CONNECT_TIMEOUT_MS, () =>
      lost({
        code: 'host-silent',
        message: `${where} did not answer within ${CONNECT_TIMEOUT_MS / 1000} s.`,
        remedy: 'Check address, cable and firewall.',
      }),
    );
  }

  #drop(problem: Problem): void {
    const pipe = this.#pipe;
    this.#pipe = null;
    pipe?.close();
    this.#options.onLost(problem);
  }

  #setState(state: LinkState): void {
    this.#state = state;
    this.#options.onState(state);
  }
}
