/**
 * Values that were set at controllers from here and are to be taken back. Each is noted on the disk with what was there before it
 * is written. The old value goes back only where ours is still held; what nobody can or may take back is listed until a person
 * decides. After a crash nothing is put back by itself.
 */
import { v7 as uuid } from 'uuid';
import type { DrivenEntry, DrivenValue } from '@/core/check/driving/drivenValue.ts';
import type { StepContent } from '@/core/check/trailStep.ts';
import type { WriteOutcome } from '@/core/live/writeOutcome.ts';
import type { Tag } from '@/core/project/entities.ts';
import { deviceIdOf } from '@/core/project/tagSource.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import type { RawValue } from '@/core/value/codec.ts';
import { isDecimal } from '@/core/value/decimal.ts';
import { fromJson, toJson, type ValueJson } from '@/core/value/engineering.ts';
import { qualityInWords } from '@/core/value/quality.ts';
import type { Clock } from '@/drivers/contract.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import { isoTime } from '@/runtime/clock.ts';
import type { Engine } from '@/runtime/engine.ts';
import { Turns } from '@/runtime/turns.ts';
import type { PreparedWrite, Writer } from '@/runtime/writer.ts';
import type { WriteGuard } from '@/runtime/writeGuard.ts';
import type { EntryJournal, Journaled } from '@/store/entryJournal.ts';
import { placeInWords } from '../placeInWords.ts';
import type { WriteService } from '../writeService.ts';

export const DRIVEN_VALUES: Journaled<DrivenEntry> = { file: 'driven.jsonl', idOf: ({ id }) => id };

/** How often it is looked whether something has to be taken back. */
const LOOK_MS = 500;
/** So long before writing is locked by itself it is taken back: afterwards nobody may. */
const BEFORE_LOCK_MS = 3000;

/** What is set now, or was. */
interface Driven {
  entry: DrivenEntry;
  /** Why nobody keeps it; null while it is kept. */
  left: string | null;
  cancel: () => void;
}

export interface DrivingRuntime {
  readonly engine: Engine;
  readonly writer: Writer;
  readonly guard: WriteGuard;
  readonly writes: WriteService;
  readonly clock: Clock;
  readonly journal: EntryJournal<DrivenEntry>;
  /** What was set when the server before ended. */
  readonly left: readonly DrivenEntry[];
  /** Goes into the trail of checks. */
  readonly note: (entry: Pick<DrivenEntry, 'runId' | 'tagId'>, who: string, what: StepContent) => Promise<void>;
}

/** What is to be set, checked and prepared. */
export interface ToSet extends Pick<DrivenEntry, 'id' | 'writer' | 'moves' | 'who' | 'everyMs' | 'runId'> {
  readonly prepared: PreparedWrite;
  /** Whether it may still be sent; the guard is asked beside it. */
  readonly mayStill: () => boolean;
}

export interface TakenBack {
  /** Whether the old value was written: where something else was held by then, nothing was. */
  readonly isRestored: boolean;
  readonly sentence: string;
}

export class DrivenValues {
  readonly #model: ProjectModel;
  readonly #runtime: DrivingRuntime;
  readonly #driven = new Map<string, Driven>();
  /** A value is set, written again and taken back one after the other. */
  readonly #turns = new Turns();
  readonly #untilOf: (entry: DrivenEntry) => number;
  #stopLooking: (() => void) | null = null;

  /** @param untilOf until when an entry may stay beside what the guard says, by the server's clock */
  constructor(model: ProjectModel, runtime: DrivingRuntime, untilOf: (entry: DrivenEntry) => number) {
    this.#model = model;
    this.#runtime = runtime;
    this.#untilOf = untilOf;
    for (const entry of runtime.left) this.#driven.set(entry.id, { entry, left: 'The server ended while it was set.', cancel: () => undefined });
  }

  /** The oldest first. */
  get all(): readonly DrivenValue[] {
    return [...this.#driven.values()].map(({ entry, left }) => {
      const { id, tagId, tagName, deviceName, place, who, at, everyMs, runId, oldText, ourText } = entry;
      const isLocked = left === null && !this.#mayWrite(entry);
      const until = this.#endOf(entry);
      return {
        ...{ id, tagId, tagName, deviceName, place, who, at, everyMs, runId, oldText, ourText },
        until: left === null && Number.isFinite(until) ? until : null,
        left: isLocked ? LOCKED : left,
      };
    });
  }

  /** What is kept now; what was left is not. */
  get kept(): readonly DrivenEntry[] {
    return [...this.#driven.values()].flatMap(({ entry, left }) => (left === null ? [entry] : []));
  }

  get entries(): readonly DrivenEntry[] {
    return [...this.#driven.values()].map(({ entry }) => entry);
  }

  /** Sets a value; where its tag is set already, another one, and what was there before the first is what will go back. */
  set(what: ToSet): Promise<Result<WriteOutcome>> {
    const { tag } = what.prepared.target;
    return this.#turns.run(tag.id, () => this.#set(tag, what));
  }

  async #set(tag: Tag, what: ToSet): Promise<Result<WriteOutcome>> {
    const known = [...this.#driven.values()].find(({ entry }) => entry.tagId === tag.id);
    if (known && known.left !== null)
      return fail('driven', `${tag.name} was set before and may still be: ${known.left}`, 'Take that back first, or say that it may stay.');
    const before = known?.entry ?? (await this.#newEntry(tag, what));
    if ('ok' in before) return before;
    const { who, everyMs, prepared } = what;
    const ours = [...before.ours.slice(-1), toJson(prepared.plan.raw)];
    const entry: DrivenEntry = { ...before, ours, ourText: prepared.plan.text, who, everyMs };
    const driven = known ?? { entry, left: null, cancel: () => undefined };
    driven.cancel();
    try {
      await this.#runtime.journal.begin(entry);
    } catch (error) {
      // What is held goes on as it was.
      if (known) this.#again(known);
      return fail(
        'not-logged',
        `Nothing was set: what was there before could not be noted (${error instanceof Error ? error.message : String(error)}).`,
        'Check the room and the permissions of the data folder.',
      );
    }
    driven.entry = entry;
    this.#driven.set(entry.id, driven);
    this.#look();
    const done = await this.#send(entry, prepared, `${everyMs === null ? 'Set for a check' : 'Held'} by ${who}.`, what.mayStill);
    const isThere = done.ok && (done.value.state === 'done' || done.value.state === 'differs');
    if (!isThere && !isUnknown(done)) await this.#notSent(driven, known ? before : null);
    else await this.#note(entry, who, { step: 'driven', words: `${entry.ourText}, before ${entry.oldText}` });
    if (done.ok && done.value.state === 'differs' && everyMs === null) await this.#noteHeld(driven);
    if (!isThere && isUnknown(done)) this.#leave(driven, `${done.ok ? done.value.sentence : ''} Nobody knows whether it is there.`);
    else if (this.#driven.has(entry.id) && driven.entry.everyMs !== null) this.#again(driven);
    return done;
  }

  /** What was refused was never set: what was there before it counts. */
  async #notSent(driven: Driven, before: DrivenEntry | null): Promise<void> {
    if (before === null) await this.#over(driven);
    else await this.#amend(driven, before);
  }

  /** A controller that cut a value to its own limit holds it because of us: that is to be taken back too. */
  async #noteHeld(driven: Driven): Promise<void> {
    const sample = await this.#runtime.engine.readNow(driven.entry.tagId);
    const held = sample && sample.raw !== null && sample.quality.level !== 'bad' ? toJson(sample.raw) : null;
    if (!sample || held === null || isSame(held, driven.entry.old)) return;
    await this.#amend(driven, { ...driven.entry, ours: [...driven.entry.ours.slice(-1), held], ourText: sample.text });
  }

  /** What is on the disk already is enough to take it back, where that cannot be written. */
  async #amend(driven: Driven, entry: DrivenEntry): Promise<void> {
    driven.entry = entry;
    await this.#runtime.journal.begin(entry).catch((error: unknown) => console.error('The journal of set values could not be written:', error));
  }

  async #newEntry(tag: Tag, { id, writer, moves, who, everyMs, runId, prepared }: ToSet): Promise<DrivenEntry | Result<never>> {
    const { signal } = prepared.target;
    const sample = await this.#runtime.engine.readNow(tag.id);
    if (!sample || sample.raw === null || sample.quality.level !== 'good')
      return fail(
        'no-value',
        `What ${tag.name} holds now is not known: ${sample ? qualityInWords(sample.quality) : 'it could not be read'}.`,
        'Nothing is set that could not be taken back. Bring the device back first.',
      );
    if (sample.signal?.digest !== signal.digest) return fail('changed', `The signal path of ${tag.name} was changed meanwhile.`, 'Try again.');
    const deviceId = deviceIdOf(tag) ?? '';
    return {
      ...{ id, tagId: tag.id, tagName: tag.name, deviceId, writer, moves, who, everyMs, runId },
      deviceName: this.#model.get('device', deviceId)?.name ?? '',
      digest: signal.digest,
      place: placeInWords(this.#model, tag, signal),
      at: isoTime(this.#runtime.clock),
      old: toJson(sample.raw),
      oldText: sample.text,
      ours: [],
      ourText: '',
    };
  }

  /** Puts the old value back where ours is still held. What cannot be taken back now stays listed. */
  takeBack(id: string, who: string, why: string): Promise<Result<TakenBack>> {
    const driven = this.#driven.get(id);
    if (!driven) return Promise.resolve(GONE);
    driven.cancel();
    return this.#turns.run(driven.entry.tagId, async () => {
      if (this.#driven.get(id) !== driven) return GONE;
      const done = await this.#takeBack(driven, who, why);
      if (!done.ok) this.#leave(driven, done.problem.message);
      return done;
    });
  }

  async #takeBack(driven: Driven, who: string, why: string): Promise<Result<TakenBack>> {
    const { entry } = driven;
    const old = rawIn(entry.old);
    const back = old === null ? NO_OLD : this.#runtime.writer.prepareRaw(entry.tagId, old, entry.writer);
    if (!back.ok) return back;
    const { tag, signal } = back.value.target;
    if (signal.digest !== entry.digest || placeInWords(this.#model, tag, signal) !== entry.place)
      return fail('changed', `${entry.tagName} is set up otherwise than when it was set.`, `Look at the machine: ${entry.place}.`);
    const sample = await this.#runtime.engine.readNow(entry.tagId);
    // What is doubted as a measurement is held all the same; what is torn was never there as a whole.
    if (!sample || sample.raw === null || sample.quality.level === 'bad' || sample.quality.reason === 'torn')
      return fail(
        'no-value',
        `What it holds now is not known: ${sample ? qualityInWords(sample.quality) : 'it could not be read'}.`,
        'Try again later.',
      );
    const held = toJson(sample.raw);
    if (isSame(held, entry.old)) return this.#isOver(driven, who, true, `It holds ${entry.oldText} again.`);
    if (!entry.ours.some((ours) => isSame(held, ours)))
      return this.#isOver(driven, who, false, `It holds ${sample.text}, which was not set from here: it was left as it is.`);
    const done = await this.#send(entry, back.value, why, () => true);
    if (!done.ok) return done;
    if (done.value.state !== 'done') return fail('not-restored', done.value.sentence, 'Try again, or look at the machine.');
    return this.#isOver(driven, who, true, `${entry.oldText} was put back.`);
  }

  /** A person says that it may stay as it is. */
  async letStay(id: string, who: string): Promise<Result<DrivenEntry>> {
    const driven = this.#driven.get(id);
    if (!driven) return GONE;
    driven.cancel();
    return this.#turns.run(driven.entry.tagId, async () => {
      if (this.#driven.get(id) !== driven) return GONE;
      await this.#over(driven);
      await this.#note(driven.entry, who, { step: 'left', words: `${driven.entry.ourText} may stay; before it was ${driven.entry.oldText}` });
      return ok(driven.entry);
    });
  }

  /** Takes back what it can. What cannot be taken back is told at the next start. */
  async close(): Promise<void> {
    await Promise.allSettled(this.kept.map(({ id, who }) => this.takeBack(id, who, 'Put back: the server ends.')));
    this.#stopLooking?.();
    for (const { cancel } of this.#driven.values()) cancel();
    await this.#runtime.journal.close();
  }

  async #isOver(driven: Driven, who: string, isRestored: boolean, sentence: string): Promise<Result<TakenBack>> {
    await this.#over(driven);
    await this.#note(driven.entry, who, { step: isRestored ? 'restored' : 'left', words: sentence });
    return ok({ isRestored, sentence });
  }

  async #over(driven: Driven): Promise<void> {
    driven.cancel();
    this.#driven.delete(driven.entry.id);
    await this.#runtime.journal
      .end(driven.entry.id)
      .catch((error: unknown) => console.error('The journal of set values could not be written:', error));
  }

  async #note(entry: DrivenEntry, who: string, what: StepContent): Promise<void> {
    await this.#runtime.note(entry, who, what).catch((error: unknown) => console.error('A set value could not be noted in the trail:', error));
  }

  #send(entry: DrivenEntry, prepared: PreparedWrite, note: string, mayStill: () => boolean): Promise<Result<WriteOutcome>> {
    return this.#runtime.writes.send(prepared, {
      id: uuid(),
      origin: entry.writer,
      by: entry.who,
      note,
      isWatched: false,
      mayStill: () => mayStill() && this.#mayWrite(entry),
    });
  }

  #again(driven: Driven): void {
    const { everyMs } = driven.entry;
    if (everyMs === null || driven.left !== null) return;
    driven.cancel = this.#runtime.clock.after(everyMs, () => {
      void this.#turns.run(driven.entry.tagId, () => this.#writeAgain(driven));
    });
  }

  /** Stops by itself at the first one that did not arrive: what comes back later is not written to unasked. */
  async #writeAgain(driven: Driven): Promise<void> {
    const { entry } = driven;
    if (this.#driven.get(entry.id) !== driven || driven.left !== null) return;
    const ours = rawIn(entry.ours.at(-1));
    const again = ours === null ? NO_OLD : this.#runtime.writer.prepareRaw(entry.tagId, ours, entry.writer);
    if (!again.ok) return this.#leave(driven, again.problem.message);
    if (again.value.target.signal.digest !== entry.digest) return this.#leave(driven, 'Its settings were changed.');
    const done = await this.#send(entry, again.value, `Held by ${entry.who}.`, () => driven.left === null);
    if (done.ok && (done.value.state === 'done' || done.value.state === 'differs')) this.#again(driven);
    else this.#leave(driven, `It is no longer written: ${done.ok ? done.value.sentence : done.problem.message}`);
  }

  #leave(driven: Driven, why: string): void {
    driven.cancel();
    driven.left = why;
    const { tagName, deviceName, ourText } = driven.entry;
    console.error(`LEFT SET: ${tagName} of ${deviceName} was set to ${ourText} and may still be. ${why}`);
  }

  #mayWrite({ deviceId, writer }: DrivenEntry): boolean {
    return this.#runtime.guard.permits(deviceId, writer) !== null;
  }

  #endOf(entry: DrivenEntry): number {
    const lockedAt = this.#runtime.guard.unlockedBy(entry.deviceId)?.until ?? -Infinity;
    return Math.min(lockedAt - BEFORE_LOCK_MS, this.#untilOf(entry));
  }

  /** What may not stay any longer is taken back while that may still be done. */
  #look(): void {
    if (this.#stopLooking) return;
    const { clock } = this.#runtime;
    this.#stopLooking = clock.after(LOOK_MS, () => {
      this.#stopLooking = null;
      for (const { entry } of [...this.#driven.values()].filter(({ left }) => left === null)) {
        if (clock.now() >= this.#endOf(entry)) void this.takeBack(entry.id, entry.who, 'Put back: its time has ended.');
      }
      if (this.kept.length > 0) this.#look();
    });
  }
}

const LOCKED = 'Writing was locked while it was set.';
const GONE = fail('gone', 'It was taken back by now, or was said to be.', 'Reload, and look again.');
const NO_OLD = fail('no-value', 'What was there before can no longer be read from the journal.', 'Look at the machine.');

/** Nobody knows whether it was done. */
function isUnknown(done: Result<WriteOutcome>): boolean {
  return done.ok && done.value.state === 'unknown';
}

function rawIn(json: ValueJson | undefined): RawValue | null {
  const value = json && fromJson(json);
  return value?.ok && !isDecimal(value.value) ? value.value : null;
}

function isSame(a: ValueJson, b: ValueJson): boolean {
  return a.kind === b.kind && a.value === b.value;
}
