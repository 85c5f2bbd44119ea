/**
 * Hold-to-run: a state is on only while a button is held. The page that holds it says so again and again; when that
 * stops, for whatever reason, the server writes the state off. Where it was written on is pinned by the press, so
 * letting go reaches that place whatever is edited meanwhile. This is no safety function: a controller that must stop
 * when the line is cut needs a watchdog of its own.
 */
import { v7 as uuid } from 'uuid';
import { nextTurn } from '@/core/inSlices.ts';
import { fail, ok, type Problem, type Result } from '@/core/result.ts';
import type { NotReleased } from '@/core/live/status.ts';
import type { WriteOutcome } from '@/core/live/writeOutcome.ts';
import { HOLD_SIGN_MS, HOLD_SILENCE_MS } from '@/core/live/messages.ts';
import type { Tag } from '@/core/project/entities.ts';
import { deviceIdOf } from '@/core/project/tagSource.ts';
import type { Clock, DriverFault } from '@/drivers/contract.ts';
import type { PlannedChange, ProjectModel } from '@/model/projectModel.ts';
import type { WriteGuard } from '@/runtime/writeGuard.ts';
import type { PreparedWrite, Writer } from '@/runtime/writer.ts';
import { isoTime } from '@/runtime/clock.ts';
import type { EntryJournal, Journaled } from '@/store/entryJournal.ts';
import { placeInWords } from './placeInWords.ts';
import { isOff, switchOff, TOLD_MS } from './switchingOff.ts';
import type { WriteService } from './writeService.ts';

/** Changes that are looked at in one turn. */
const SLICE = 2000;

/** What is held on: noted on the disk before it goes on. */
export interface HoldEntry {
  readonly holdId: string;
  readonly tagId: string;
  readonly tagName: string;
  readonly deviceName: string;
  /** Of the signal path: it is switched off only where it was switched on. */
  readonly digest: string;
  /** Where that is, for the person who has to go there. */
  readonly place: string;
  /** ISO time. */
  readonly at: string;
}
export const HELD_BUTTONS: Journaled<HoldEntry> = { file: 'held.jsonl', idOf: ({ holdId }) => holdId };

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
  /** It was pressed again, or a person has said that it is off: nobody needs to switch it off any more. */
  isOver: boolean;
}

/** Letting go has two ends as well. */
interface Ending {
  readonly answered: Promise<void>;
  /** It is off, or it was told that it is not. */
  readonly ended: Promise<Result<WriteOutcome>>;
}

/** What the service needs beside its colleagues. */
interface HoldLinks {
  readonly isConnected: (linkId: string) => boolean;
  readonly journal: EntryJournal<HoldEntry>;
  /** What was on when the server before ended. */
  readonly left: readonly HoldEntry[];
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
  #onReleased: (holdId: string, why: string) => void = () => undefined;
  readonly #links: HoldLinks;
  /** What was switched on here and is not known to be off. */
  readonly #notReleased = new Map<string, NotReleased>();
  /** Of those the ones from before the last start: where they were switched on. */
  readonly #left = new Map<string, HoldEntry>();

  constructor(model: ProjectModel, writer: Writer, guard: WriteGuard, writes: WriteService, clock: Clock, links: HoldLinks) {
    this.#links = links;
    for (const entry of links.left) {
      this.#left.set(entry.holdId, entry);
      this.#notReleased.set(entry.holdId, {
        holdId: entry.holdId,
        tagName: entry.tagName,
        deviceName: entry.deviceName,
        since: entry.at,
        why: `The server ended while it was held on (${entry.place}).`,
        isTried: false,
      });
    }
    this.#model = model;
    this.#writer = writer;
    this.#guard = guard;
    this.#writes = writes;
    this.#clock = clock;
  }

  /** Hears of presses that are let go though their page still holds, and why. */
  set onReleased(listener: (holdId: string, why: string) => void) {
    this.#onReleased = listener;
  }

  /** What was switched on here and is not known to be off, the oldest first. */
  get notReleased(): readonly NotReleased[] {
    return [...this.#notReleased.values()];
  }

  /** Tags that are held on now. */
  get active(): readonly string[] {
    return [...this.#held.values()].map((h) => h.tag.id);
  }

  /**
   * Writes the state on.
   * @param holdId     made by the page, one for each press
   * @param onAnswered hears that the device has answered; that it holds the state is confirmed later
   * @param by         who is signed in at the panel; empty for nobody
   */
  async begin(
    holdId: string,
    tagId: string,
    onAnswered: (fault: DriverFault | null) => void = () => undefined,
    by = '',
  ): Promise<Result<WriteOutcome>> {
    const tag = this.#model.get('tag', tagId);
    const linkId = this.#linkOf(tag);
    if (!tag) return fail('gone', 'The tag is not there (any more).', 'Reload, and try again.');
    if (this.#held.has(holdId) || this.#ended.has(holdId)) return fail('held', 'This press is known already.');
    if (this.#isClosing) return fail('closing', 'The server is about to end.');
    if ([...this.#changing].some((ids) => [tagId, deviceIdOf(tag) ?? '', linkId].some((id) => ids.has(id))))
      return fail('changing', `${tag.name} is being changed.`, 'Press again.');
    const other = [...this.#held.values()].find((h) => h.tag.id === tagId);
    if (other && other.ending === null) return fail('held', `${tag.name} is being held already.`, 'Let go at the other panel first.');
    const on = this.#writer.prepare(tagId, true, { writer: 'panel' });
    if (!on.ok) return on;
    const off = this.#writer.prepare(tagId, false, { writer: 'panel' });
    if (!off.ok) return off;
    const held = this.#newHeld(tag, linkId, off.value);
    // What is on again need not go off for the press before.
    if (other) other.isOver = true;
    this.#held.set(holdId, held);
    this.#watch(holdId, held);
    const { promise: answered, resolve } = open<DriverFault | null>();
    const mayStill = (): boolean => held.ending === null && this.#guard.permits(deviceIdOf(tag), 'panel') !== null;
    const logged = this.#links.journal.begin(this.#entryOf(holdId, held)).then(
      () => null,
      (error: unknown) => notKept(error),
    );
    const sent = (other?.ending?.answered ?? Promise.resolve()).then(async () => {
      const refused = await logged;
      if (refused) return refused;
      return this.#writes.send(on.value, {
        id: uuid(),
        origin: 'panel',
        by,
        note: 'Held.',
        mayStill,
        onAnswered: resolve,
        confirming: held.confirming.signal,
      });
    });
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
    return held ? this.#end(holdId, held, why).ended : Promise.resolve(fail('gone', 'Nothing is held (any more).'));
  }

  /** Tries again to switch off what is not known to be off; what was on before the last start, where it is as it was then. */
  async releaseAgain(holdId: string): Promise<Result<WriteOutcome>> {
    const told = this.#notReleased.get(holdId);
    if (!told) return fail('gone', 'It is off by now, or was said to be.', 'Reload, and look again.');
    const held = this.#held.get(holdId);
    if (held?.ending && told.isTried) return held.ending.ended;
    if (held) {
      held.ending = null;
      return this.#end(holdId, held, 'Released again.').ended;
    }
    const entry = this.#left.get(holdId);
    if (!entry) return fail('gone', 'It is off by now, or was said to be.');
    const off = this.#writer.prepareOff(entry.tagId);
    if (!off.ok) return off;
    const { tag, signal } = off.value.target;
    if (signal.digest !== entry.digest)
      return fail('changed', `${entry.tagName} is set up otherwise than when it was switched on.`, `Switch it off at the machine: ${entry.place}.`);
    const linkId = this.#linkOf(tag);
    const again = this.#newHeld(tag, linkId, off.value);
    if (this.#entryOf(holdId, again).place !== entry.place)
      return fail(
        'changed',
        `The index of ${entry.tagName} leads to another place than when it was switched on.`,
        `Switch it off at the machine: ${entry.place}.`,
      );
    this.#held.set(holdId, again);
    return this.#end(holdId, again, 'Released: the server had ended while it was held on.').ended;
  }

  /** A person has seen that it is off, or has switched it off at the machine. */
  async saidOff(holdId: string, who: string): Promise<Result<null>> {
    const told = this.#notReleased.get(holdId);
    if (!told) return fail('gone', 'It is off by now, or was said to be.', 'Reload, and look again.');
    console.error(`${who} says that ${told.tagName} of ${told.deviceName} is off.`);
    const held = this.#held.get(holdId);
    if (held) {
      held.isOver = true;
      this.#forget(holdId, held);
    } else this.#isOver(holdId);
    return ok(null);
  }

  /** Before the server ends: settles when all is off, or was told as not. Nothing is pressed any more. */
  async releaseAll(why: string): Promise<void> {
    this.#isClosing = true;
    await this.#releasing(() => true, why);
    await this.#links.journal.close();
  }

  /** Before a link is taken away from the devices on it. @returns why it cannot be taken */
  releaseLink(linkId: string, why: string): Promise<Problem | null> {
    return this.#releasing((held) => held.linkId === linkId, why);
  }

  /**
   * Before a change is made: lets go of what would be taken away by it, and waits until it is off.
   * @returns what is called when the change is made, or was not made; refused while something is not known to be off
   */
  async beforeChange(changes: readonly PlannedChange[]): Promise<Result<() => void>> {
    // Of thousands of changes only those matter that change what there is; nothing new is held yet.
    const ids = new Set<string>();
    for (const [at, { kind, id, before }] of changes.entries()) {
      if (kind === 'scale' || (before !== null && (kind === 'tag' || kind === 'device' || kind === 'link'))) ids.add(id);
      if (at % SLICE === SLICE - 1) await nextTurn();
    }
    if (ids.size === 0) return ok(() => undefined);
    this.#changing.add(ids);
    const made = (): void => void this.#changing.delete(ids);
    const problem = await this.#releasing(
      ({ tag, linkId }) => ids.has(tag.id) || ids.has(deviceIdOf(tag) ?? '') || ids.has(linkId),
      'Released by the server: its settings are changed.',
    );
    if (!problem) return ok(made);
    made();
    return { ok: false, problem };
  }

  /** @returns what is still not known to be off */
  async #releasing(isMeant: (held: Held) => boolean, why: string): Promise<Problem | null> {
    const released = [...this.#held].flatMap(([id, held]) => {
      if (!isMeant(held)) return [];
      return this.#endUnasked(id, held, why).ended.then((done) => (isOff(done) || held.isOver ? null : notOff(held, done)));
    });
    return (await Promise.all(released)).find((problem) => problem !== null) ?? null;
  }

  #newHeld(tag: Tag, linkId: string, off: PreparedWrite): Held {
    return {
      tag,
      linkId,
      off,
      lastSign: this.#clock.now(),
      lookAt: Infinity,
      isSpared: false,
      cancel: () => undefined,
      answered: Promise.resolve(),
      confirming: new AbortController(),
      ending: null,
      isOver: false,
    };
  }

  /** Empty for a tag that is no point of a device. */
  #linkOf(tag: Tag | null): string {
    const device = this.#model.get('device', (tag && deviceIdOf(tag)) ?? '');
    // What is simulated goes over no link.
    return device && !device.isSimulated ? device.linkId : '';
  }

  #entryOf(holdId: string, { tag, off }: Held): HoldEntry {
    const { signal } = off.target;
    return {
      holdId,
      tagId: tag.id,
      tagName: tag.name,
      deviceName: this.#model.get('device', deviceIdOf(tag) ?? '')?.name ?? '',
      digest: signal.digest,
      place: placeInWords(this.#model, tag, signal),
      at: isoTime(this.#clock),
    };
  }

  /** Lets go by itself, and tells the page that still holds. */
  #endUnasked(holdId: string, held: Held, why: string): Ending {
    if (!held.ending) this.#onReleased(holdId, why);
    return this.#end(holdId, held, why);
  }

  #end(holdId: string, held: Held, why: string): Ending {
    if (held.ending) return held.ending;
    held.cancel();
    held.confirming.abort();
    const { promise: first, resolve: onAnswered } = open<void>();
    const { promise: told, resolve: tell } = open<Result<WriteOutcome>>();
    let last: Result<WriteOutcome> = fail('not-released', 'The line has not answered.');
    const late = this.#clock.after(TOLD_MS, () => {
      if (held.isOver || !this.#held.has(holdId)) return;
      this.#tell(holdId, held, last, true);
      tell(last);
    });
    const off = held.answered.then(() =>
      switchOff(why, {
        clock: this.#clock,
        isConnected: () => held.linkId === '' || this.#links.isConnected(held.linkId),
        isOver: () => held.isOver || (this.#isClosing && this.#notReleased.has(holdId)),
        send: async (note) => {
          last = await this.#writes.send(held.off, { id: uuid(), origin: 'panel', note, mayStill: 'must', onAnswered: () => onAnswered() });
          return last;
        },
      }),
    );
    const done = off.then((outcome) => {
      late();
      if (isOff(outcome) || held.isOver) this.#forget(holdId, held);
      else this.#tell(holdId, held, outcome, false);
      return outcome;
    });
    held.ending = { answered: Promise.race([first, done.then(() => undefined)]), ended: Promise.race([done, told]) };
    return held.ending;
  }

  /** On every page, and on standard error: somebody has to look. */
  #tell(holdId: string, { tag }: Held, done: Result<WriteOutcome>, isTried: boolean): void {
    const known = this.#notReleased.get(holdId);
    const why = done.ok ? done.value.sentence : done.problem.message;
    const deviceName = this.#model.get('device', deviceIdOf(tag) ?? '')?.name ?? '';
    if (!known) console.error(`NOT RELEASED: ${tag.name} of ${deviceName} was switched on and is not known to be off. ${why}`);
    this.#notReleased.set(holdId, { holdId, tagName: tag.name, deviceName, since: known?.since ?? isoTime(this.#clock), why, isTried });
  }

  /** It is off, or said to be. */
  #isOver(holdId: string): void {
    this.#notReleased.delete(holdId);
    this.#left.delete(holdId);
    this.#links.journal.end(holdId).catch((error: unknown) => console.error('The journal of held buttons could not be written:', error));
  }

  #watch(holdId: string, held: Held): void {
    const now = this.#clock.now();
    const left = held.lastSign + HOLD_SILENCE_MS - now;
    // A server that was held up itself has not heard the signs that wait in its sockets: it hears them first, once.
    const isLate = now - held.lookAt > LATE_MS && !held.isSpared;
    const end = (why: string): void => void this.#endUnasked(holdId, held, why);
    const look = (ms: number): void => {
      held.lookAt = now + ms;
      held.cancel = this.#clock.after(ms, () => this.#watch(holdId, held));
    };
    if (left <= 0 && isLate) {
      held.isSpared = true;
      look(HOLD_SIGN_MS);
    } else if (left <= 0) end(`Released by the server: no sign of the panel for ${HOLD_SILENCE_MS} ms.`);
    else if (!this.#guard.permits(deviceIdOf(held.tag), 'panel')) end('Released by the server: writing was locked.');
    else look(Math.min(left, HOLD_SILENCE_MS / 3));
  }

  #forget(holdId: string, held: Held): void {
    held.cancel();
    // One that was from before the last start may be there by the same id.
    if (this.#held.get(holdId) !== held) return;
    this.#held.delete(holdId);
    this.#isOver(holdId);
    this.#ended.add(holdId);
    const oldest = this.#ended.values().next().value;
    if (this.#ended.size > REMEMBERED && oldest !== undefined) this.#ended.delete(oldest);
  }
}

function notOff({ tag }: Held, done: Result<WriteOutcome>): Problem {
  return {
    code: 'not-released',
    message: `${tag.name} was switched on and is not known to be off: ${done.ok ? done.value.sentence : done.problem.message}`,
    remedy: 'Bring its link back or switch it off at the machine, and say so in the alarm.',
  };
}

function notKept(error: unknown): Result<never> {
  return fail(
    'not-logged',
    `Nothing was sent: what is held on could not be noted (${error instanceof Error ? error.message : String(error)}).`,
    'Check the room and the permissions of the data folder.',
  );
}

/** A promise and what settles it. */
function open<T>(): { readonly promise: Promise<T>; readonly resolve: (value: T) => void } {
  let resolve: (value: T) => void = () => undefined;
  const promise = new Promise<T>((r) => (resolve = r));
  return { promise, resolve };
}
