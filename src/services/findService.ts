/** Searches over a link. They only read, have the line for themselves meanwhile, and listen before they speak. */
import { LISTEN_MS, type Finding } from '@/core/find/finding.ts';
import { matchKnownValue, type Candidate } from '@/core/find/knownValue.ts';
import type { Link } from '@/core/project/entities.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import type { CallContext, Driver, FrameEvent, Settings } from '@/drivers/contract.ts';
import { describeDriver } from '@/drivers/descriptions.ts';
import { findDriver } from '@/drivers/registry.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import type { Engine } from '@/runtime/engine.ts';
import type { HoldService } from './holdService.ts';

const EXCLUSIVE = 'A search has the line for itself; reading goes on afterwards.';
const DEADLINE_MS = 15 * 60_000;
const OPEN_MS = 2000;

export interface NumberSearch {
  readonly numbers: readonly number[];
  readonly timeoutMs: number;
}

/** What came without our asking; our own replies that come late, or twice, are not. */
function isForeign({ direction, oddity }: FrameEvent): boolean {
  return direction === 'received' && oddity !== undefined && oddity !== 'late' && oddity !== 'again' && oddity !== 'echo';
}

export class FindService {
  readonly #model: ProjectModel;
  readonly #engine: Engine;
  readonly #holds: HoldService;
  /** Links that are being searched. */
  readonly #busy = new Set<string>();

  constructor(model: ProjectModel, engine: Engine, holds: HoldService) {
    this.#model = model;
    this.#engine = engine;
    this.#holds = holds;
  }

  /** Which numbers of a link answer. */
  numbers(linkId: string, search: NumberSearch, signal: AbortSignal): Result<AsyncIterable<Finding>> {
    const begun = this.#begin(linkId);
    return begun.ok ? ok(this.#exclusively(linkId, signal, () => this.#numbers(linkId, search, signal))) : begun;
  }

  /** With which speed and parity somebody answers on a serial port. */
  line(linkId: string, search: NumberSearch, signal: AbortSignal): Result<AsyncIterable<Finding>> {
    const begun = this.#begin(linkId);
    if (!begun.ok) return begun;
    const { link, driver } = begun.value;
    if (!driver.description.searchesLine)
      return fail('no-line', 'Speed and parity are set on a serial port only.', 'Behind a gateway they are set in the gateway.');
    return ok(this.#exclusively(linkId, signal, () => this.#line(link, driver, search, signal)));
  }

  /** Every way in which a place shows a value that is known. */
  async value(deviceId: string, reference: string, value: string, signal: AbortSignal): Promise<Result<readonly Candidate[]>> {
    const session = this.#engine.session(deviceId);
    if (!session?.sight) return fail('gone', 'The device is not online.', 'Reload, and try again.');
    const seen = await session.sight(reference, this.#context(signal));
    return seen.ok ? matchKnownValue(seen.value, value) : seen;
  }

  #begin(linkId: string): Result<{ readonly link: Link; readonly driver: Driver }> {
    const link = this.#model.get('link', linkId);
    const driver = link && findDriver(link.driver);
    if (!link || !driver || !this.#engine.linkSession(linkId)) return fail('gone', 'The link is not there (any more).', 'Reload, and try again.');
    if (this.#busy.has(linkId)) return fail('busy', 'A search is running on this link already.', 'Wait for it, or cancel it.');
    return ok({ link, driver });
  }

  async *#exclusively(linkId: string, signal: AbortSignal, search: () => AsyncIterable<Finding>): AsyncIterable<Finding> {
    if (this.#busy.has(linkId)) return;
    this.#busy.add(linkId);
    const held = await this.#holds.releaseLink(linkId, 'Released by the server: its link is searched.');
    if (held) {
      this.#busy.delete(linkId);
      yield { kind: 'problem', message: held.message, remedy: held.remedy ?? '' };
      return;
    }
    this.#engine.pause(linkId, EXCLUSIVE);
    try {
      yield { kind: 'listened', heard: await this.#listen(linkId, signal) };
      if (!signal.aborted) yield* search();
    } finally {
      this.#busy.delete(linkId);
      this.#engine.pause(linkId, null);
    }
  }

  /** Frames that come while nobody here asks: another master is at work. */
  async #listen(linkId: string, signal: AbortSignal): Promise<number> {
    const link = this.#model.get('link', linkId);
    if (!link || !describeDriver(link.driver)?.line?.(link.settings)) return 0;
    // What was under way may still end.
    await this.#rest(300, signal);
    const before = this.#engine.frames(linkId, 1).at(-1)?.n ?? 0;
    await this.#rest(LISTEN_MS - 300, signal);
    return this.#engine.frames(linkId, Infinity, before).filter(isForeign).length;
  }

  async *#numbers(linkId: string, { numbers, timeoutMs }: NumberSearch, signal: AbortSignal): AsyncIterable<Finding> {
    const session = this.#engine.linkSession(linkId);
    if (session?.state.phase !== 'connected') {
      const problem = session?.state.problem;
      yield { kind: 'problem', message: problem?.message ?? 'The link is not connected.', remedy: problem?.remedy ?? 'Try again in a moment.' };
      return;
    }
    for await (const found of session.scan?.(numbers, timeoutMs, this.#context(signal)) ?? []) yield { kind: 'number', ...found };
  }

  async *#line(link: Link, driver: Driver, { numbers, timeoutMs }: NumberSearch, signal: AbortSignal): AsyncIterable<Finding> {
    this.#engine.suspend(link.id, true);
    try {
      await this.#rest(200, signal);
      for (const settings of driver.description.searchesLine ?? []) {
        if (signal.aborted) return;
        const answered = await this.#tryLine(driver, { ...link.settings, ...settings }, { numbers, timeoutMs }, signal);
        if (!answered.ok) {
          yield { kind: 'problem', message: answered.problem.message, remedy: answered.problem.remedy ?? '' };
          return;
        }
        yield { kind: 'line', settings, number: answered.value?.number ?? null, seen: answered.value?.seen ?? '' };
        if (answered.value) return;
      }
    } finally {
      this.#engine.suspend(link.id, false);
    }
  }

  /** The first number that answers with these settings, null when none does. */
  async #tryLine(
    driver: Driver,
    settings: Settings,
    { numbers, timeoutMs }: NumberSearch,
    signal: AbortSignal,
  ): Promise<Result<{ number: number; seen: string } | null>> {
    const session = driver.createSession({ settings, clock: this.#engine.clock, onFrame: () => undefined, onState: () => undefined });
    session.start();
    try {
      for (let waited = 0; session.state.phase === 'connecting' && waited < OPEN_MS; waited += 20) await this.#rest(20, signal);
      const { phase, problem } = session.state;
      if (phase !== 'connected') return fail(problem?.code ?? 'port', problem?.message ?? 'The port could not be opened.', problem?.remedy);
      for await (const { number, answer, seen } of session.scan?.(numbers, timeoutMs, this.#context(signal)) ?? [])
        if (answer === 'value' || answer === 'refusal') return ok({ number, seen });
      return ok(null);
    } finally {
      session.close();
      await this.#rest(60, signal);
    }
  }

  #context(signal: AbortSignal): CallContext {
    return { signal, deadline: this.#engine.clock.now() + DEADLINE_MS };
  }

  #rest(ms: number, signal: AbortSignal): Promise<void> {
    return new Promise((resolve) => {
      const end = (): void => {
        cancel();
        signal.removeEventListener('abort', end);
        resolve();
      };
      const cancel = this.#engine.clock.after(ms, end);
      signal.addEventListener('abort', end);
    });
  }
}
