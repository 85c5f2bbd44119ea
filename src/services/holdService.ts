/**
 * Hold-to-run: a state is on only while a button is held. The page that holds it says so again and again; when that
 * stops, for whatever reason, the server writes the state off. This is no safety function: a controller that must
 * stop when the line is cut needs a watchdog of its own.
 */
import { fail, type Result } from '@/core/result.ts';
import type { WriteOutcome } from '@/core/live/writeOutcome.ts';
import { HOLD_SILENCE_MS } from '@/core/live/messages.ts';
import type { Clock } from '@/drivers/contract.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import type { Writer } from '@/runtime/writer.ts';
import type { WriteService } from './writeService.ts';

interface Held {
  readonly tagId: string;
  readonly who: string;
  lastSign: number;
  cancel: () => void;
  /** Settles when the state was written on, so that it is never written off before. */
  readonly begun: Promise<unknown>;
  isEnding: Promise<Result<WriteOutcome>> | null;
}

export class HoldService {
  readonly #model: ProjectModel;
  readonly #writer: Writer;
  readonly #writes: WriteService;
  readonly #clock: Clock;
  readonly #held = new Map<string, Held>();

  constructor(model: ProjectModel, writer: Writer, writes: WriteService, clock: Clock) {
    this.#model = model;
    this.#writer = writer;
    this.#writes = writes;
    this.#clock = clock;
  }

  /** Tags that are held on now. */
  get active(): readonly string[] {
    return [...this.#held.values()].map((h) => h.tagId);
  }

  /** Writes the state on. @param holdId made by the page, one for each press */
  async begin(holdId: string, tagId: string): Promise<Result<WriteOutcome>> {
    const tag = this.#model.get('tag', tagId);
    if (!tag) return fail('gone', 'The tag is not there (any more).', 'Reload, and try again.');
    if (this.#held.has(holdId)) return fail('held', 'This press is being held already.');
    if (this.active.includes(tagId)) return fail('held', `${tag.name} is being held already.`, 'Let go at the other panel first.');
    const prepared = this.#writer.prepare(tagId, true, 'panel');
    if (!prepared.ok) return prepared;
    const sent = this.#writes.send(tag, prepared.value, 'panel', () => this.#held.get(holdId)?.isEnding === null, 'Held.');
    const held: Held = {
      tagId,
      who: prepared.value.who,
      lastSign: this.#clock.now(),
      cancel: () => undefined,
      begun: sent.catch(() => undefined),
      isEnding: null,
    };
    this.#held.set(holdId, held);
    this.#watch(holdId, held);
    const done = await sent;
    if (!done.ok && held.isEnding === null) this.#forget(holdId, held);
    return done;
  }

  /** The button is still held. */
  sign(holdId: string): void {
    const held = this.#held.get(holdId);
    if (held) held.lastSign = this.#clock.now();
  }

  /** Writes the state off, whether the device is still unlocked or not. */
  release(holdId: string, why = 'Released.'): Promise<Result<WriteOutcome>> {
    const held = this.#held.get(holdId);
    if (!held) return Promise.resolve(fail('gone', 'Nothing is held (any more).'));
    held.isEnding ??= this.#writeOff(holdId, held, why);
    return held.isEnding;
  }

  /** Before the server ends. */
  async releaseAll(why: string): Promise<void> {
    await Promise.all([...this.#held.keys()].map((id) => this.release(id, why)));
  }

  async #writeOff(holdId: string, held: Held, why: string): Promise<Result<WriteOutcome>> {
    held.cancel();
    await held.begun;
    this.#forget(holdId, held);
    const tag = this.#model.get('tag', held.tagId);
    const planned = this.#writer.plan(held.tagId, false);
    if (!tag || !planned.ok) return planned.ok ? fail('gone', 'The tag is not there (any more).') : planned;
    const { plan, target } = planned.value;
    return this.#writes.send(tag, { tagId: tag.id, plan, digest: target.signal.digest, who: held.who }, 'panel', 'must', why);
  }

  #watch(holdId: string, held: Held): void {
    const left = held.lastSign + HOLD_SILENCE_MS - this.#clock.now();
    if (left <= 0) void this.release(holdId, `Released by the server: no sign of the panel for ${HOLD_SILENCE_MS} ms.`);
    else if (!this.#writer.prepare(held.tagId, true, 'panel').ok) void this.release(holdId, 'Released by the server: writing was locked.');
    else held.cancel = this.#clock.after(Math.min(left, HOLD_SILENCE_MS / 3), () => this.#watch(holdId, held));
  }

  #forget(holdId: string, held: Held): void {
    held.cancel();
    this.#held.delete(holdId);
  }
}
