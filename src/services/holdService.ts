/**
 * Hold-to-run: a state is on only while a button is held. The page that holds it says so again and again; when that
 * stops, for whatever reason, the server writes the state off. Where it was written on is pinned by the press, so
 * letting go reaches that place whatever is edited meanwhile. This is no safety function: a controller that must stop
 * when the line is cut needs a watchdog of its own.
 */
import { v7 as uuid } from 'uuid';
import { nextTurn } from '@/core/inSlices.ts';
import { fail, type Result } from '@/core/result.ts';
import type { WriteOutcome } from '@/core/live/writeOutcome.ts';
import { HOLD_SIGN_MS, HOLD_SILENCE_MS } from '@/core/live/messages.ts';
import type { Tag } from '@/core/project/entities.ts';
import type { Clock, DriverFault } from '@/drivers/contract.ts';
import type { PlannedChange, ProjectModel } from '@/model/projectModel.ts';
import type { WriteGuard } from '@/runtime/writeGuard.ts';
import type { PreparedWrite, Writer } from '@/runtime/writer.ts';
import type { WriteService } from './writeService.ts';

/** Changes that are looked at in one turn. */
const SLICE = 2000;

interface Held {
  readonly tag: Tag;
  readonly linkId: string;
  /** What letting go writes, made when the press was. */
  readonly off: PreparedWrite;
  lastSign: number;
  /** When it is looked at next, and whether the server itself was late for that once already since the last sign. */
  lookAt: number;
  isSpared: boolean;
  cancel: () => void;
  /** Settles when the press was answered, or never went: nothing of it can come after what is written then. */
  answered: Promise<unknown>;
  /** Ends the confirming of the press: nobody needs it once the button is let go. */
  readonly confirming: AbortController;
  ending: Ending | null;
}

/** Letting go has two ends as well. */
interface Ending {
  readonly answered: Promise<void>;
  readonly confirmed: Promise<Result<WriteOutcome>>;
}

/** Presses that have ended are remembered, so that a message that comes again does not press anew. */
const REMEMBERED = 1000;
/** Later than this a timer shows that the server itself was held up. */
const LATE_MS = 50;

export class HoldService {
  readonly #model: ProjectModel;
  readonly #writer: Writer;
  readonly #guard: WriteGuard;
  readonly #writes: WriteService;
  readonly #clock: Clock;
  readonly #held = new Map<string, Held>();
  readonly #ended = new Set<string>();
  /** Changes that are being made of what a press may stand on, and why no press may begin meanwhile. */
  readonly #changing = new Set<ReadonlySet<string>>();
  #isClosing = false;

  constructor(model: ProjectModel, writer: Writer, guard: WriteGuard, writes: WriteService, clock: Clock) {
    this.#model = model;
    this.#writer = writer;
    this.#guard = guard;
    this.#writes = writes;
    this.#clock = clock;
  }

  /** Tags that are held on now. */
  get active(): readonly string[] {
    return [...this.#held.values()].map((h) => h.tag.id);
  }

  /**
   * Writes the state on.
   * @param holdId     made by the page, one for each press
   * @param onAnswered hears that the device has answered; that it holds the state is confirmed later
   */
  async begin(holdId: string, tagId: string, onAnswered: (fault: DriverFault | null) => void = () => undefined): Promise<Result<WriteOutcome>> {
    const tag = this.#model.get('tag', tagId);
    const linkId = this.#model.get('device', tag?.deviceId ?? '')?.linkId ?? '';
    if (!tag) return fail('gone', 'The tag is not there (any more).', 'Reload, and try again.');
    if (this.#held.has(holdId) || this.#ended.has(holdId)) return fail('held', 'This press is known already.');
    if (this.#isClosing) return fail('closing', 'The server is about to end.');
    if ([...this.#changing].some((ids) => [tagId, tag.deviceId, linkId].some((id) => ids.has(id))))
      return fail('changing', `${tag.name} is being changed.`, 'Press again.');
    const other = [...this.#held.values()].find((h) => h.tag.id === tagId);
    if (other && other.ending === null) return fail('held', `${tag.name} is being held already.`, 'Let go at the other panel first.');
    const on = this.#writer.prepare(tagId, true, 'panel');
    if (!on.ok) return on;
    const off = this.#writer.prepare(tagId, false, 'panel');
    if (!off.ok) return off;
    const held: Held = {
      tag,
      linkId,
      off: off.value,
      lastSign: this.#clock.now(),
      lookAt: Infinity,
      isSpared: false,
      cancel: () => undefined,
      answered: Promise.resolve(),
      confirming: new AbortController(),
      ending: null,
    };
    this.#held.set(holdId, held);
    this.#watch(holdId, held);
    const { promise: answered, resolve } = open<DriverFault | null>();
    const mayStill = (): boolean => held.ending === null && this.#guard.permits(tag.deviceId, 'panel') !== null;
    const sent = (other?.ending?.answered ?? Promise.resolve()).then(() =>
      this.#writes.send(on.value, {
        id: uuid(),
        origin: 'panel',
        note: 'Held.',
        mayStill,
        onAnswered: resolve,
        confirming: held.confirming.signal,
      }),
    );
    // What never went is over when the sending is.
    held.answered = Promise.race([answered, sent.catch(() => undefined)]);
    void answered.then((fault) => held.ending === null && onAnswered(fault));
    const done = await sent;
    if (!done.ok && held.ending === null) this.#forget(holdId, held);
    return done;
  }

  /** The button is still held. */
  sign(holdId: string): void {
    const held = this.#held.get(holdId);
    if (!held) return;
    held.lastSign = this.#clock.now();
    held.isSpared = false;
  }

  /** Writes the state off, whether the device is still unlocked or not. */
  release(holdId: string, why = 'Released.'): Promise<Result<WriteOutcome>> {
    const held = this.#held.get(holdId);
    return held ? this.#end(holdId, held, why).confirmed : Promise.resolve(fail('gone', 'Nothing is held (any more).'));
  }

  /** Before the server ends: settles when every release was answered, as late as the line allows. Nothing is pressed any more. */
  async releaseAll(why: string): Promise<void> {
    this.#isClosing = true;
    await this.#releasing(() => true, why);
  }

  /** Before a link is taken away from the devices on it. Settles when every release was answered. */
  releaseLink(linkId: string, why: string): Promise<void> {
    return this.#releasing((held) => held.linkId === linkId, why);
  }

  /**
   * Before a change is made: lets go of what would be taken away by it, and waits until that was answered.
   * @returns what is called when the change is made, or was not made
   */
  async beforeChange(changes: readonly PlannedChange[]): Promise<() => void> {
    // Of thousands of changes only those matter that change what there is; nothing new is held yet.
    const ids = new Set<string>();
    for (const [at, { kind, id, before }] of changes.entries()) {
      if (kind === 'scale' || (before !== null && (kind === 'tag' || kind === 'device' || kind === 'link'))) ids.add(id);
      if (at % SLICE === SLICE - 1) await nextTurn();
    }
    if (ids.size === 0) return () => undefined;
    this.#changing.add(ids);
    await this.#releasing(
      ({ tag, linkId }) => ids.has(tag.id) || ids.has(tag.deviceId) || ids.has(linkId),
      'Released by the server: its settings are changed.',
    );
    return () => void this.#changing.delete(ids);
  }

  async #releasing(isMeant: (held: Held) => boolean, why: string): Promise<void> {
    await Promise.all([...this.#held].flatMap(([id, held]) => (isMeant(held) ? this.#end(id, held, why).answered : [])));
  }

  #end(holdId: string, held: Held, why: string): Ending {
    if (held.ending) return held.ending;
    held.cancel();
    held.confirming.abort();
    const { promise, resolve } = open<void>();
    const confirmed = held.answered.then(() =>
      this.#writes.send(held.off, { id: uuid(), origin: 'panel', note: why, mayStill: 'must', onAnswered: () => resolve() }),
    );
    const answered = Promise.race([promise, confirmed.then(() => undefined)]).finally(() => this.#forget(holdId, held));
    held.ending = { answered, confirmed };
    return held.ending;
  }

  #watch(holdId: string, held: Held): void {
    const now = this.#clock.now();
    const left = held.lastSign + HOLD_SILENCE_MS - now;
    // A server that was held up itself has not heard the signs that wait in its sockets: it hears them first, once.
    const isLate = now - held.lookAt > LATE_MS && !held.isSpared;
    const end = (why: string): void => void this.#end(holdId, held, why).confirmed;
    const look = (ms: number): void => {
      held.lookAt = now + ms;
      held.cancel = this.#clock.after(ms, () => this.#watch(holdId, held));
    };
    if (left <= 0 && isLate) {
      held.isSpared = true;
      look(HOLD_SIGN_MS);
    } else if (left <= 0) end(`Released by the server: no sign of the panel for ${HOLD_SILENCE_MS} ms.`);
    else if (!this.#guard.permits(held.tag.deviceId, 'panel')) end('Released by the server: writing was locked.');
    else look(Math.min(left, HOLD_SILENCE_MS / 3));
  }

  #forget(holdId: string, held: Held): void {
    held.cancel();
    if (!this.#held.delete(holdId)) return;
    this.#ended.add(holdId);
    const oldest = this.#ended.values().next().value;
    if (this.#ended.size > REMEMBERED && oldest !== undefined) this.#ended.delete(oldest);
  }
}

/** A promise and what settles it. */
function open<T>(): { readonly promise: Promise<T>; readonly resolve: (value: T) => void } {
  let resolve: (value: T) => void = () => undefined;
  const promise = new Promise<T>((r) => (resolve = r));
  return { promise, resolve };
}
