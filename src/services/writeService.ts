/**
 * Writes with their log: an entry stands before the write is sent, and is completed when its outcome is known. What
 * was confirmed is watched for a while: a controller that changes it back is reported.
 */
import { v7 as uuid } from 'uuid';
import type { Writer as Permitted } from '@/core/live/status.ts';
import type { WriteOutcome, WriteRecord } from '@/core/live/writeOutcome.ts';
import type { Tag } from '@/core/project/entities.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import { parseFor } from '@/core/signal.ts';
import { fromJson, toJson, type EngValue } from '@/core/value/engineering.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import type { Engine } from '@/runtime/engine.ts';
import type { WriteGuard } from '@/runtime/writeGuard.ts';
import { isNear, type PreparedWrite, type Writer } from '@/runtime/writer.ts';
import type { RecordStore, WriteFilter } from '@/store/recordStore.ts';

/** How long a confirmed value is watched, at the least; three periods of a tag that is read less often. */
const WATCH_MS = 5000;

export class WriteService {
  readonly #model: ProjectModel;
  readonly #engine: Engine;
  readonly #writer: Writer;
  readonly #guard: WriteGuard;
  readonly #records: RecordStore;
  readonly #listeners = new Set<(write: WriteRecord) => void>();
  readonly #underWay = new Set<Promise<unknown>>();
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

  /** Writes what a person entered. Refusals before sending are not log entries: nothing went to the machine. */
  async write(tagId: string, input: string, writer: Permitted): Promise<Result<WriteOutcome>> {
    const tag = this.#model.get('tag', tagId);
    const signal = this.#model.effective(tagId);
    if (!tag) return fail('gone', 'The tag is not there (any more).', 'Reload, and try again.');
    if (!signal.ok) return signal;
    const wanted = parseFor(signal.value.def, input);
    if (!wanted.ok) return { ok: false, problem: { ...wanted.problem, place: 'value' } };
    const prepared = this.#writer.prepare(tagId, wanted.value, writer);
    if (!prepared.ok) return { ok: false, problem: { place: 'value', ...prepared.problem } };
    return this.send(tag, prepared.value, writer, () => this.#guard.permits(tag.deviceId, writer) !== null);
  }

  /**
   * Logs and sends a prepared write. What cannot be logged is not sent.
   * @param mayStill asked again after the log has taken its time: the lock may have closed meanwhile; 'must' sends
   *   at once and in any case, log or no log: a state that was held on is let go
   */
  send(tag: Tag, prepared: PreparedWrite, origin: Permitted, mayStill: (() => boolean) | 'must', note = ''): Promise<Result<WriteOutcome>> {
    return this.#following(this.#send(tag, prepared, origin, mayStill, note));
  }

  /** Ends all watches, and waits until every write that is under way has its entry completed. */
  async close(): Promise<void> {
    for (const end of this.#watched.values()) end();
    while (this.#underWay.size > 0) await Promise.allSettled(this.#underWay);
    for (const end of this.#watched.values()) end();
  }

  async #send(tag: Tag, prepared: PreparedWrite, origin: Permitted, mayStill: (() => boolean) | 'must', note: string): Promise<Result<WriteOutcome>> {
    this.#watched.get(tag.id)?.();
    const last = this.#engine.live.get(tag.id);
    const record: WriteRecord = {
      id: uuid(),
      at: new Date().toISOString(),
      tagId: tag.id,
      tagName: tag.name,
      deviceName: this.#model.get('device', tag.deviceId)?.name ?? '',
      origin,
      who: prepared.who,
      old: last?.eng !== undefined && last.eng !== null ? toJson(last.eng) : null,
      asked: toJson(prepared.plan.achieved),
      held: null,
      state: 'sent',
      note,
    };
    const logged = this.#begin(record);
    if (mayStill !== 'must') {
      const why = await logged;
      if (why !== null)
        return fail(
          'not-logged',
          `Nothing was sent: the log of writes cannot be kept (${why}).`,
          'Check the room and the permissions of the data folder.',
          'value',
        );
      if (!mayStill()) {
        await this.#complete({ ...record, state: 'refused', note: 'Writing was locked before it was sent.' });
        return fail('locked', 'Writing was locked before it was sent.', 'Unlock writing for the device first.', 'value');
      }
    }
    const outcome = await this.#writer.send(prepared);
    await logged;
    const sentence = note ? `${note} ${outcome.sentence}` : outcome.sentence;
    const done = await this.#complete({ ...record, state: outcome.state, held: outcome.held, note: sentence });
    if (outcome.state === 'done' && (tag.confirm.kind === 'equal' || tag.confirm.kind === 'tolerance')) this.#watch(tag, done, prepared.digest);
    return ok(outcome);
  }

  log(filter: WriteFilter): Promise<readonly WriteRecord[]> {
    return this.#records.writes(filter);
  }

  /** Reports when the value that was confirmed is another one soon after, and nobody here has written it. */
  #watch(tag: Tag, record: WriteRecord, digest: string): void {
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
    const cancel = clock.after(Math.max(WATCH_MS, 3 * tag.periodMs), () => end());
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

  /** @returns why the entry could not be made; null when it stands */
  async #begin(record: WriteRecord): Promise<string | null> {
    try {
      await this.#records.addWrite(record);
      return null;
    } catch (error) {
      const why = error instanceof Error ? error.message : String(error);
      console.error(`A write to ${record.tagName} could not be logged: ${why}`);
      return why;
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
