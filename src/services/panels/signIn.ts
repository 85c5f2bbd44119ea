/**
 * People sign in at panels with a PIN. A session is of one glass, ends by itself, and gives a level; wrong PINs hold up the next try
 * longer and longer (OWASP ASVS 4.0.3, 2.2.1: no more than 100 failed tries an hour on an account).
 */
import { randomBytes } from 'node:crypto';
import { pinOf, type SignedIn } from '@/core/panel/levels.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import type { Clock } from '@/drivers/contract.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import type { PinStore } from '@/store/pinStore.ts';
import type { RecordAudit } from '../auditTrail.ts';

const MINUTE_MS = 60_000;
/** A shift: nobody is signed in for longer without a PIN (ASVS 3.3.2). */
const LONGEST_MS = 12 * 60 * MINUTE_MS;
/** Wrong PINs before one has to wait, and how long then; each further one twice as long. */
const FREE_TRIES = 4;
const FIRST_WAIT_MS = 30_000;
const LONGEST_WAIT_MS = 15 * MINUTE_MS;
/** Tries at one time of all: each costs memory and time. */
const MOST_AT_ONCE = 4;
const MOST_SESSIONS = 200;

interface Session extends SignedIn {
  readonly operatorId: string;
  readonly panelId: string;
  readonly since: number;
  touchedAt: number;
  cancel: () => void;
}

export interface SignedInAs extends SignedIn {
  readonly token: string;
}

export class SignIn {
  readonly #model: Pick<ProjectModel, 'get'>;
  readonly #pins: Pick<PinStore, 'known' | 'keep' | 'isRight'>;
  readonly #clock: Clock;
  readonly #audit: RecordAudit;
  readonly #sessions = new Map<string, Session>();
  readonly #wrong = new Map<string, { count: number; until: number }>();
  readonly #listeners = new Set<(token: string) => void>();
  #trying = 0;
  #withPin: ReadonlySet<string> = new Set();

  constructor(model: Pick<ProjectModel, 'get'>, pins: Pick<PinStore, 'known' | 'keep' | 'isRight'>, clock: Clock, audit: RecordAudit) {
    this.#model = model;
    this.#pins = pins;
    this.#clock = clock;
    this.#audit = audit;
  }

  async load(): Promise<void> {
    this.#withPin = new Set(await this.#pins.known());
  }

  /** Hears of sessions that have ended. */
  onEnded(listener: (token: string) => void): void {
    this.#listeners.add(listener);
  }

  /** People who can sign in. */
  get withPin(): ReadonlySet<string> {
    return this.#withPin;
  }

  async setPin(operatorId: string, pin: string): Promise<Result<null>> {
    const operator = this.#model.get('operator', operatorId);
    if (!operator) return fail('gone', 'The person is not there (any more).', 'Look at the list again.');
    const good = pinOf(pin);
    if (!good.ok) return good;
    await this.#pins.keep(operatorId, good.value);
    this.#withPin = new Set([...this.#withPin, operatorId]);
    this.#wrong.delete(operatorId);
    for (const [token, session] of this.#sessions) if (session.operatorId === operatorId) this.#end(token);
    this.#audit('pin', operator.name, `PIN of ${operator.name} set`);
    return ok(null);
  }

  async signIn(panelId: string, operatorId: string, pin: string): Promise<Result<SignedInAs>> {
    const panel = this.#model.get('panel', panelId);
    if (!panel) return fail('gone', 'There is no such panel (any more).', 'Look at the panel again.');
    const now = this.#clock.now();
    const before = this.#wrong.get(operatorId);
    if (before && now < before.until)
      return fail(
        'too-many',
        `Too many wrong PINs. The next try is in ${Math.ceil((before.until - now) / 1000)} s.`,
        'Wait, and enter it again.',
        'pin',
      );
    const known = this.#model.get('operator', operatorId);
    if (known && !this.#withPin.has(operatorId)) return fail('no-pin', `${known.name} has no PIN yet.`, 'Set one in Panels, under “People”.', 'pin');
    if (this.#trying >= MOST_AT_ONCE) return fail('too-many', 'Others are signing in.', 'Try again.', 'pin');
    // Counted before it is known: tries that come together are tries all the same.
    const count = (before?.count ?? 0) + 1;
    const wait = count <= FREE_TRIES ? 0 : Math.min(LONGEST_WAIT_MS, FIRST_WAIT_MS * 2 ** (count - FREE_TRIES - 1));
    this.#wrong.set(operatorId, { count, until: now + wait });
    if (this.#wrong.size > 1000) this.#wrong.clear();
    this.#trying++;
    const isRight = await this.#pins.isRight(operatorId, pin).finally(() => this.#trying--);
    const operator = this.#model.get('operator', operatorId);
    if (!isRight || !operator) {
      this.#audit('not-signed-in', operator?.name ?? '', `wrong PIN at ${panel.name}`);
      return fail('wrong-code', 'That is not the PIN of this person.', wait > 0 ? `The next try is in ${wait / 1000} s.` : 'Enter it again.', 'pin');
    }
    this.#wrong.delete(operatorId);
    const token = randomBytes(32).toString('base64url');
    const { name, level } = operator;
    this.#sessions.set(token, { operatorId, panelId, name, level, since: now, touchedAt: now, cancel: () => undefined });
    const [oldest] = this.#sessions.keys();
    if (this.#sessions.size > MOST_SESSIONS && oldest !== undefined) this.#end(oldest);
    this.#watch(token);
    this.#audit('signed-in', name, `level ${level} at ${panel.name}`);
    return ok({ token, name, level });
  }

  signOut(token: string): void {
    this.#end(token);
  }

  /** Who a session is of; null for one that has ended or is of another panel. It lasts from now on. */
  who(token: string | undefined, panelId: string): SignedIn | null {
    const session = token === undefined ? undefined : this.#sessions.get(token);
    if (token === undefined || session?.panelId !== panelId) return null;
    session.touchedAt = this.#clock.now();
    this.#watch(token);
    return session;
  }

  /** Without lasting for it. */
  levelOf(token: string | null, panelId: string): number {
    const session = token === null ? undefined : this.#sessions.get(token);
    return session?.panelId === panelId ? session.level : 0;
  }

  /** After a change of the project: who is gone is signed out, and a level is what it is now. */
  follow(): void {
    for (const [token, session] of this.#sessions) {
      const operator = this.#model.get('operator', session.operatorId);
      if (operator?.level !== session.level || operator.name !== session.name || !this.#model.get('panel', session.panelId)) this.#end(token);
      else this.#watch(token);
    }
  }

  close(): void {
    for (const { cancel } of this.#sessions.values()) cancel();
    this.#sessions.clear();
  }

  #watch(token: string): void {
    const session = this.#sessions.get(token);
    if (!session) return;
    session.cancel();
    const idle = (this.#model.get('panel', session.panelId)?.signOutMinutes ?? 1) * MINUTE_MS;
    const until = Math.min(session.touchedAt + idle, session.since + LONGEST_MS);
    session.cancel = this.#clock.after(Math.max(0, until - this.#clock.now()), () => this.#end(token));
  }

  #end(token: string): void {
    const session = this.#sessions.get(token);
    if (!session) return;
    session.cancel();
    this.#sessions.delete(token);
    this.#audit('signed-out', session.name, `at ${this.#model.get('panel', session.panelId)?.name ?? 'a panel that is gone'}`);
    for (const listener of this.#listeners) listener(token);
  }
}
