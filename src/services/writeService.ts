/**
 * Writes with their log: an entry stands before the write is sent, and is completed when its outcome is known. What
 * was confirmed is watched for a while: a controller that changes it back is reported.
 */
import { group } from 'd3-array';
import type { Writer as Permitted } from '@/core/live/status.ts';
import type { WriteOutcome, WriteRecord } from '@/core/live/writeOutcome.ts';
import type { Tag } from '@/core/project/entities.ts';
import { deviceIdOf } from '@/core/project/tagSource.ts';
import { sameJson } from '@/core/project/sameJson.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import { parseFor } from '@/core/signal.ts';
import { shownIn } from '@/core/units/shownIn.ts';
import { formatValue, fromJson, toJson, type EngValue } from '@/core/value/engineering.ts';
import type { EffectiveSignal } from '@/mapping/effective.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import type { Engine } from '@/runtime/engine.ts';
import type { WriteGuard } from '@/runtime/writeGuard.ts';
import { isoTime } from '@/runtime/clock.ts';
import { isNear, type PreparedWrite, type Rounding, type Sending, type Writer } from '@/runtime/writer.ts';
import type { RecordStore, WriteFilter } from '@/store/recordStore.ts';
import { liveSample } from './liveSample.ts';

/** How long a confirmed value is watched, at the least; three periods of a tag that is read less often. */
const WATCH_MS = 5000;

/** Writes that are remembered with their answer, so that the same request gets the same answer; older ones are in the log. */
const REMEMBERED = 1000;

export interface WriteRequest {
  /** Made by the sender, one for each write: a request that comes twice is carried out once. */
  readonly id: string;
  readonly tagId: string;
  /** As a person entered it. */
  readonly value: string;
  /** The unit that it was entered in; absent for the tag's own. */
  readonly unit?: string | undefined;
  readonly writer: Permitted;
  /** Who is signed in at the panel; absent for nobody. */
  readonly by?: string | undefined;
  readonly rounding?: Rounding | undefined;
}

/** Values that go together: to each device in as few requests as its protocol has. */
export interface WritesRequest {
  readonly writes: readonly Pick<WriteRequest, 'id' | 'tagId' | 'value' | 'unit'>[];
  readonly writer: Permitted;
  readonly by?: string | undefined;
  readonly rounding?: Rounding | undefined;
}

export interface LoggedSending extends Sending {
  /** Whether a controller that changes it back is reported; a value that is written again and again is not asked for it. */
  readonly isWatched?: boolean;
  /** Of the log entry. */
  readonly id: string;
  readonly origin: Permitted;
  readonly by?: string | undefined;
  readonly note?: string;
}

type WriteRecords = Pick<RecordStore, 'addWrite' | 'write' | 'completeWrite' | 'writes'>;

export class WriteService {
  readonly #model: ProjectModel;
  readonly #engine: Engine;
  readonly #writer: Writer;
  readonly #guard: WriteGuard;
  readonly #records: WriteRecords;
  readonly #listeners = new Set<(write: WriteRecord) => void>();
  readonly #underWay = new Set<Promise<unknown>>();
  readonly #answered = new Map<string, { readonly content: string; readonly answer: Promise<Result<WriteOutcome>> }>();
  readonly #ending = new AbortController();
  /** Ends the watch over the last write of a tag. */
  readonly #watched = new Map<string, () => void>();

  constructor(model: ProjectModel, engine: Engine, writer: Writer, guard: WriteGuard, records: WriteRecords) {
    this.#model = model;
    this.#engine = engine;
    this.#writer = writer;
    this.#guard = guard;
    this.#records = records;
  }

  /** Hears of every write when its outcome is known, and again when the controller changed it back. */
  onWrite(listener: (write: WriteRecord) => void): () => void {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  }

  /**
   * Writes what a person entered, once for each id however often it is asked. Refusals before sending are not log
   * entries: nothing went to the machine.
   */
  async write({ id, tagId, value, unit, ...how }: WriteRequest): Promise<Result<WriteOutcome>> {
    const done = await this.writeAll({ writes: [{ id, tagId, value, unit }], ...how });
    if (!done.ok) return { ok: false, problem: done.problem };
    const [outcome] = done.value;
    return outcome ? outcome : fail('gone', 'Nothing was written.');
  }

  /**
   * The same for several at once. Where one of them cannot be written, none is sent.
   * @returns what became of each, in the same order
   */
  async writeAll({ writes, writer, rounding, by }: WritesRequest): Promise<Result<readonly Result<WriteOutcome>[]>> {
    const contents = writes.map(({ tagId, value, unit }) => JSON.stringify([tagId, value, unit, writer, rounding]));
    if (new Set(writes.map(({ id }) => id)).size < writes.length) return ID_USED;
    if (new Set(writes.map(({ tagId }) => tagId)).size < writes.length)
      return fail('twice', 'One tag is written twice: which value it should hold is not said.', 'Write each tag once.', 'writes');
    const known = writes.map(({ id }) => this.#answered.get(id));
    if (known.some((answer, at) => answer && answer.content !== contents[at])) return ID_USED;
    const answers = known.flatMap((answer) => answer ?? []);
    if (answers.length === writes.length) return ok(await Promise.all(answers.map(({ answer }) => answer)));
    if (answers.length > 0) return ID_USED;
    const done = this.#following(this.#writeOnce({ writes, writer, rounding, by }));
    for (const [at, { id }] of writes.entries()) {
      const answer = done.then((all) => (all.ok ? (all.value[at] ?? ID_USED) : all));
      // Whoever asked hears of a failure; nobody may ask again.
      answer.catch(() => undefined);
      this.#answered.set(id, { content: contents[at] ?? '', answer });
      const oldest = this.#answered.keys().next().value;
      if (this.#answered.size > REMEMBERED && oldest !== undefined) this.#answered.delete(oldest);
    }
    return done;
  }

  async #writeOnce({ writes, writer, rounding, by }: WritesRequest): Promise<Result<readonly Result<WriteOutcome>[]>> {
    const all: { readonly id: string; readonly prepared: PreparedWrite }[] = [];
    for (const [at, { id, tagId, value, unit }] of writes.entries()) {
      const place = writes.length > 1 ? `writes[${at}].value` : 'value';
      const prepared = this.#prepared({ tagId, value, unit, writer, rounding });
      if (!prepared.ok) return { ok: false, problem: { place, ...prepared.problem } };
      all.push({ id, prepared: prepared.value });
    }
    const outcomes = new Map<string, Result<WriteOutcome>>();
    const devices = group(all, ({ prepared }) => deviceIdOf(prepared.target.tag));
    await Promise.all(
      [...devices].map(async ([deviceId, ofDevice]) => {
        const mayStill = (): boolean => !this.#ending.signal.aborted && this.#guard.permits(deviceId, writer) !== null;
        const sent = await this.#send(ofDevice, { origin: writer, by, mayStill });
        for (const [at, { id, prepared }] of ofDevice.entries()) {
          const done = sent[at] ?? ID_USED;
          const sample = this.#engine.live.get(prepared.target.tag.id);
          outcomes.set(id, done.ok ? ok({ ...done.value, sample: sample ? liveSample(sample) : null }) : done);
        }
      }),
    );
    return ok(writes.map(({ id }) => outcomes.get(id) ?? ID_USED));
  }

  #prepared({ tagId, value, unit, writer, rounding }: Omit<WriteRequest, 'id'>): Result<PreparedWrite> {
    const signal = this.#model.effective(tagId);
    if (!this.#model.get('tag', tagId)) return fail('gone', 'The tag is not there (any more).', 'Reload, and try again.');
    if (!signal.ok) return signal;
    const shown = shownIn(signal.value.def, unit ?? signal.value.def.unit);
    if (!shown.ok) return { ok: false, problem: { ...shown.problem, place: 'unit' } };
    const wanted = parseFor(shown.value, value);
    return wanted.ok ? this.#writer.prepare(tagId, wanted.value, { writer, rounding, unit }) : wanted;
  }

  /** Logs and sends a prepared write. What cannot be logged is not sent, but a state that was held on is let go all the same. */
  async send(prepared: PreparedWrite, { id, ...sending }: LoggedSending): Promise<Result<WriteOutcome>> {
    const [done = ID_USED] = await this.#following(this.#send([{ id, prepared }], sending));
    return done;
  }

  /** The same for several of one device, in their order. @returns what became of each */
  sendAll(all: readonly { readonly id: string; readonly prepared: PreparedWrite }[], sending: Omit<LoggedSending, 'id'>) {
    return this.#following(this.#send(all, sending));
  }

  /** Confirms nothing more, ends all watches, and waits until every write that is under way has its entry completed. */
  async close(): Promise<void> {
    this.#ending.abort();
    for (const end of this.#watched.values()) end();
    while (this.#underWay.size > 0) await Promise.allSettled(this.#underWay);
    for (const end of this.#watched.values()) end();
  }

  /** All to one device. */
  async #send(
    all: readonly { readonly id: string; readonly prepared: PreparedWrite }[],
    { origin, by = '', note = '', isWatched = true, ...sending }: Omit<LoggedSending, 'id'>,
  ): Promise<readonly Result<WriteOutcome>[]> {
    const records = all.map(({ id, prepared }) => this.#recordOf(id, prepared, { origin, by, note }));
    for (const { tagId } of records) this.#watched.get(tagId)?.();
    const logged = Promise.all(records.map((record) => this.#begin(record)));
    if (sending.mayStill !== 'must') {
      const begun = await logged;
      if (begun.some((how) => how !== 'logged')) return Promise.all(records.map((record, at) => this.#notSent(record, begun, at)));
    }
    const confirming = sending.confirming ? AbortSignal.any([sending.confirming, this.#ending.signal]) : this.#ending.signal;
    const outcomes = await this.#writer.sendAll(
      all.map(({ prepared }) => prepared),
      { ...sending, confirming },
    );
    await logged;
    return Promise.all(
      all.map(async ({ prepared }, at): Promise<Result<WriteOutcome>> => {
        const record = records[at] ?? this.#recordOf('', prepared, { origin, by, note });
        const outcome = outcomes[at] ?? null;
        if (outcome === null) {
          await this.#complete({ ...record, state: 'refused', note: 'Writing was locked before it was sent.' });
          return fail('locked', 'Writing was locked before it was sent.', 'Unlock writing for the device first.', 'value');
        }
        const { tag, signal } = prepared.target;
        const sentence = [record.note, outcome.sentence].filter(Boolean).join(' ');
        const done = await this.#complete({ ...record, state: outcome.state, held: outcome.held, note: sentence });
        if (isWatched && outcome.state === 'done' && outcome.held !== null && (tag.confirm.kind === 'equal' || tag.confirm.kind === 'tolerance'))
          this.#watch(tag, done, signal);
        return ok(outcome);
      }),
    );
  }

  #recordOf(
    id: string,
    { target: { tag }, asked, entered, plan, who }: PreparedWrite,
    { origin, by, note }: Pick<WriteRecord, 'origin' | 'by' | 'note'>,
  ): WriteRecord {
    const last = this.#engine.live.get(tag.id);
    return {
      id,
      at: isoTime(this.#engine.clock),
      tagId: tag.id,
      tagName: tag.name,
      deviceName: this.#model.get('device', deviceIdOf(tag) ?? '')?.name ?? '',
      origin,
      who,
      by,
      host: '',
      old: last?.eng !== undefined && last.eng !== null ? toJson(last.eng) : null,
      asked: toJson(asked),
      sent: toJson(plan.achieved),
      held: null,
      state: 'sent',
      note: [note, entered].filter(Boolean).join(' '),
    };
  }

  /** Nothing goes to the machine: one of those that go together is in the log from before, or cannot be logged. */
  async #notSent(record: WriteRecord, begun: readonly Begun[], at: number): Promise<Result<WriteOutcome>> {
    const own = begun[at];
    if (own === 'known' && begun.every((how) => how === 'known')) return this.#answerOf(record);
    if (own === 'logged')
      await this.#complete({ ...record, state: 'refused', note: 'It was not sent: another one of those that go with it cannot be.' });
    const broken = begun.find((how): how is Exclude<Begun, string> => typeof how === 'object');
    if (!broken) return ID_USED;
    return fail(
      'not-logged',
      `Nothing was sent: the log of writes cannot be kept (${broken.why}).`,
      'Check the room and the permissions of the data folder.',
      'value',
    );
  }

  /** A write with this id is in the log from before: it is told what came of it, and not done again. */
  async #answerOf(asked: WriteRecord): Promise<Result<WriteOutcome>> {
    const known = await this.#records.write(asked.id);
    if (!known || known.tagId !== asked.tagId || !sameJson(known.asked, asked.asked)) return ID_USED;
    const held = known.held === null ? null : fromJson(known.held);
    const state = known.state === 'sent' ? 'unknown' : known.state === 'changedBack' ? 'done' : known.state;
    const note = known.note === '' ? 'It was sent before; unknown whether it was done.' : known.note;
    return ok({ state, sentence: note, held: known.held, heldText: held?.ok ? formatValue(held.value, null) : null });
  }

  log(filter: WriteFilter): Promise<readonly WriteRecord[]> {
    return this.#records.writes(filter);
  }

  /** Reports when the value that was confirmed is another one soon after, and nobody here has written it. */
  #watch(tag: Tag, record: WriteRecord, { digest, periodMs }: EffectiveSignal): void {
    const { live, clock } = this.#engine;
    const held = record.held === null ? null : fromJson(record.held);
    if (!held?.ok) return;
    const by = tag.confirm.kind === 'tolerance' ? tag.confirm.by : 0;
    const begun = clock.now();
    const isChanged = (value: EngValue): boolean => !isNear(value, held.value, by);
    const release = this.#engine.want([tag.id]);
    const stop = live.onSample((tagId) => {
      const sample = tagId === tag.id ? live.get(tagId) : null;
      if (!sample) return;
      if (sample.signal?.digest !== digest) end();
      if (sample.signal?.digest !== digest || sample.eng === null || sample.quality.level === 'bad' || sample.at - sample.roundTripMs < begun) return;
      if (!isChanged(sample.eng)) return;
      end();
      const note = `The controller changed it back: ${sample.text}${tag.unit ? ` ${tag.unit}` : ''} after ${((sample.at - begun) / 1000).toFixed(1)} s.`;
      void this.#following(this.#complete({ ...record, state: 'changedBack', held: toJson(sample.eng), note }));
    });
    const cancel = clock.after(Math.max(WATCH_MS, 3 * periodMs), () => end());
    const end = (): void => {
      stop();
      cancel();
      release();
      if (this.#watched.get(tag.id) === end) this.#watched.delete(tag.id);
    };
    this.#watched.set(tag.id, end);
  }

  #following<T>(work: Promise<T>): Promise<T> {
    const watched = work.finally(() => this.#underWay.delete(watched));
    this.#underWay.add(watched);
    return watched;
  }

  async #begin(record: WriteRecord): Promise<Begun> {
    try {
      return (await this.#records.addWrite(record)) ? 'logged' : 'known';
    } catch (error) {
      const why = error instanceof Error ? error.message : String(error);
      console.error(`A write to ${record.tagName} could not be logged: ${why}`);
      return { why };
    }
  }

  async #complete(record: WriteRecord): Promise<WriteRecord> {
    try {
      await this.#records.completeWrite(record.id, record.state, record.held, record.note);
    } catch (error) {
      // The write has happened; its entry stays one of which nobody knows, and is said to be so at the next start.
      console.error(`The entry of a write to ${record.tagName} could not be completed:`, error);
    }
    for (const listener of this.#listeners) listener(record);
    return record;
  }
}

/** Whether an entry stands in the log; known from before, its write may have been sent. */
type Begun = 'logged' | 'known' | { readonly why: string };

const ID_USED = fail('id-used', 'Another write was made with this id before.', 'Make a new id for each write.', 'id');
