/**
 * Writes with their log: an entry stands before the write is sent, and is completed when its outcome is known. What
 * was confirmed is watched for a while: a controller that changes it back is reported.
 */
import type { Writer as Permitted } from '@/core/live/status.ts';
import type { WriteOutcome, WriteRecord } from '@/core/live/writeOutcome.ts';
import type { Tag } from '@/core/project/entities.ts';
import { deviceIdOf } from '@/core/project/tagSource.ts';
import { sameJson } from '@/core/project/sameJson.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import { parseFor } from '@/core/signal.ts';
import { formatValue, fromJson, toJson, type EngValue } from '@/core/value/engineering.ts';
import type { EffectiveSignal } from '@/drivers/effective.ts';
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
  readonly writer: Permitted;
  readonly rounding?: Rounding | undefined;
}

export interface LoggedSending extends Sending {
  /** Of the log entry. */
  readonly id: string;
  readonly origin: Permitted;
  readonly note?: string;
}

export class WriteService {
  readonly #model: ProjectModel;
  readonly #engine: Engine;
  readonly #writer: Writer;
  readonly #guard: WriteGuard;
  readonly #records: RecordStore;
  readonly #listeners = new Set<(write: WriteRecord) => void>();
  readonly #underWay = new Set<Promise<unknown>>();
  readonly #answered = new Map<string, { readonly content: string; readonly answer: Promise<Result<WriteOutcome>> }>();
  readonly #ending = new AbortController();
  /** Ends the watch over the last write of a tag. */
  readonly #watched = new Map<string, () => void>();

  constructor(model: ProjectModel, engine: Engine, writer: Writer, guard: WriteGuard, records: RecordStore) {
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
  write(request: WriteRequest): Promise<Result<WriteOutcome>> {
    const { id, tagId, value, writer } = request;
    const content = JSON.stringify([tagId, value, writer, request.rounding]);
    const known = this.#answered.get(id);
    if (known) return known.content === content ? known.answer : Promise.resolve(ID_USED);
    const answer = this.#following(this.#writeOnce(request));
    this.#answered.set(id, { content, answer });
    const oldest = this.#answered.keys().next().value;
    if (this.#answered.size > REMEMBERED && oldest !== undefined) this.#answered.delete(oldest);
    return answer;
  }

  async #writeOnce({ id, tagId, value, writer, rounding }: WriteRequest): Promise<Result<WriteOutcome>> {
    const tag = this.#model.get('tag', tagId);
    const signal = this.#model.effective(tagId);
    if (!tag) return fail('gone', 'The tag is not there (any more).', 'Reload, and try again.');
    if (!signal.ok) return signal;
    const wanted = parseFor(signal.value.def, value);
    if (!wanted.ok) return { ok: false, problem: { ...wanted.problem, place: 'value' } };
    const prepared = this.#writer.prepare(tagId, wanted.value, writer, rounding);
    if (!prepared.ok) return { ok: false, problem: { place: 'value', ...prepared.problem } };
    const deviceId = deviceIdOf(tag);
    const mayStill = (): boolean => !this.#ending.signal.aborted && this.#guard.permits(deviceId, writer) !== null;
    const done = await this.send(prepared.value, { id, origin: writer, mayStill });
    const sample = this.#engine.live.get(tagId);
    return done.ok ? ok({ ...done.value, sample: sample ? liveSample(sample) : null }) : done;
  }

  /** Logs and sends a prepared write. What cannot be logged is not sent, but a state that was held on is let go all the same. */
  send(prepared: PreparedWrite, sending: LoggedSending): Promise<Result<WriteOutcome>> {
    return this.#following(this.#send(prepared, sending));
  }

  /** Confirms nothing more, ends all watches, and waits until every write that is under way has its entry completed. */
  async close(): Promise<void> {
    this.#ending.abort();
    for (const end of this.#watched.values()) end();
    while (this.#underWay.size > 0) await Promise.allSettled(this.#underWay);
    for (const end of this.#watched.values()) end();
  }

  async #send(prepared: PreparedWrite, { id, origin, note = '', ...sending }: LoggedSending): Promise<Result<WriteOutcome>> {
    const { tag, signal } = prepared.target;
    this.#watched.get(tag.id)?.();
    const last = this.#engine.live.get(tag.id);
    const record: WriteRecord = {
      id,
      at: isoTime(this.#engine.clock),
      tagId: tag.id,
      tagName: tag.name,
      deviceName: this.#model.get('device', deviceIdOf(tag) ?? '')?.name ?? '',
      origin,
      who: prepared.who,
      old: last?.eng !== undefined && last.eng !== null ? toJson(last.eng) : null,
      asked: toJson(prepared.asked),
      sent: toJson(prepared.plan.achieved),
      held: null,
      state: 'sent',
      note,
    };
    const logged = this.#begin(record);
    if (sending.mayStill !== 'must') {
      const begun = await logged;
      if (begun === 'known') return this.#answerOf(record);
      if (begun !== 'logged')
        return fail(
          'not-logged',
          `Nothing was sent: the log of writes cannot be kept (${begun.why}).`,
          'Check the room and the permissions of the data folder.',
          'value',
        );
    }
    const confirming = sending.confirming ? AbortSignal.any([sending.confirming, this.#ending.signal]) : this.#ending.signal;
    const outcome = await this.#writer.send(prepared, { ...sending, confirming });
    if (outcome === null) {
      await this.#complete({ ...record, state: 'refused', note: 'Writing was locked before it was sent.' });
      return fail('locked', 'Writing was locked before it was sent.', 'Unlock writing for the device first.', 'value');
    }
    await logged;
    const sentence = note ? `${note} ${outcome.sentence}` : outcome.sentence;
    const done = await this.#complete({ ...record, state: outcome.state, held: outcome.held, note: sentence });
    if (outcome.state === 'done' && outcome.held !== null && (tag.confirm.kind === 'equal' || tag.confirm.kind === 'tolerance'))
      this.#watch(tag, done, signal);
    return ok(outcome);
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
      if (this.#watched.get(tag.id) === end) this.#watched.delete(tag.id);
    };
    this.#watched.set(tag.id, end);
  }

  #following<T>(work: Promise<T>): Promise<T> {
    const watched = work.finally(() => this.#underWay.delete(watched));
    this.#underWay.add(watched);
    return watched;
  }

  async #begin(record: WriteRecord): Promise<'logged' | 'known' | { readonly why: string }> {
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

const ID_USED = fail('id-used', 'Another write was made with this id before.', 'Make a new id for each write.', 'id');
