/** Writes one value: checked, sent once, confirmed the way the tag says, and told what is held. */
import type { Writer as Permitted } from '@/core/live/status.ts';
import type { WriteOutcome } from '@/core/live/writeOutcome.ts';
import { heldInstead } from '@/core/nearestHeld.ts';
import { EQUAL, FOLLOW_MS } from '@/core/project/confirm.ts';
import type { Tag } from '@/core/project/entities.ts';
import { deviceIdOf } from '@/core/project/tagSource.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import { followWire, planWrite, type Stages, type WritePlan } from '@/core/signal.ts';
import { isWithin, toDecimal, isDecimal, type Decimal } from '@/core/value/decimal.ts';
import { toJson, type EngValue } from '@/core/value/engineering.ts';
import type { Arrival, DeviceSession, DriverFault, PointSpec } from '@/drivers/contract.ts';
import { pointOf, type EffectiveSignal } from '@/drivers/effective.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import type { Engine } from './engine.ts';
import { LOCAL } from './localValues.ts';
import { Turns } from './turns.ts';
import type { WriteGuard } from './writeGuard.ts';

/** How long a write may wait to be sent; later it is no longer what the person asked for. */
const WRITE_DEADLINE_MS = 5000;
/** How long letting go may wait for the line: two of the longest time-outs that a device can have. */
const RELEASE_DEADLINE_MS = 130_000;
const FOLLOW_EVERY_MS = 200;
/** How long letting go waits for a line that is down to come back, and how often it looks. */
const COME_BACK_MS = 10_000;
const COME_BACK_EVERY_MS = 100;

const WRITER_WORDS: Readonly<Record<Permitted, string>> = {
  engineer: 'the bench',
  panel: 'panels',
  rule: 'automatic rules',
  check: 'driven checks',
};

/** What becomes of a value that the controller cannot hold exactly: it is refused, or the nearest one is taken. */
export type Rounding = 'refuse' | 'nearest';

/** Where a write goes: pinned when it is prepared, whatever is edited afterwards. */
export interface WriteTarget {
  readonly tag: Tag;
  readonly signal: EffectiveSignal;
  readonly session: DeviceSession;
}

export interface PreparedWrite {
  readonly target: WriteTarget;
  readonly asked: EngValue;
  readonly plan: WritePlan;
  /** Who unlocked the device. */
  readonly who: string;
}

export interface Sending {
  /**
   * Asked right before the write is sent: the lock may have closed while it waited. `must`: it is sent at once and in
   * any case, to the target as it was prepared: a state that was held on is let go.
   */
  readonly mayStill: (() => boolean) | 'must';
  /** Hears that the device has answered, at the latest when all is over; the value itself may be confirmed later. */
  readonly onAnswered?: ((fault: DriverFault | null) => void) | undefined;
  /** Ends the confirming, never the write itself. @see {@link NOT_CONFIRMED} */
  readonly confirming?: AbortSignal | undefined;
}

export class Writer {
  readonly #engine: Engine;
  readonly #model: ProjectModel;
  readonly #guard: WriteGuard;
  /** A value is written and read back before the next one goes to the same device. */
  readonly #turns = new Turns();

  constructor(engine: Engine, model: ProjectModel, guard: WriteGuard) {
    this.#engine = engine;
    this.#model = model;
    this.#guard = guard;
  }

  /** All that can be said before anything is sent. */
  prepare(tagId: string, asked: EngValue, writer: Permitted, rounding: Rounding = 'refuse'): Result<PreparedWrite> {
    const tag = this.#model.get('tag', tagId);
    const signal = this.#model.effective(tagId);
    if (!tag || !signal.ok) return signal.ok ? fail('gone', 'The tag is no longer there.') : signal;
    const { def } = signal.value;
    if (signal.value.access !== 'readWrite')
      return fail('read-only', `${tag.name} is set to be read only.`, 'Change its access in Map, if the controller takes writes to it.');
    if (!signal.value.writable)
      return fail('read-only', `${tag.name} lies where nothing can be written alone.`, 'Choose an address that the device lets be written.');
    const plan = planWrite(def, asked);
    if (!plan.ok) return plan;
    const instead = rounding === 'refuse' ? heldInstead(def, asked, plan.value) : null;
    if (instead) return notHeld(tag, instead);
    const permitted = this.#permitted(tag, writer);
    if (!permitted.ok) return permitted;
    const session = this.#engine.sessionOf(tag);
    if (!session) return fail('offline', 'The device is not online.', 'Bring it online, and try again.');
    return ok({ target: { tag, signal: signal.value, session }, asked, plan: plan.value, who: permitted.value });
  }

  /** Switches off what was switched on here before the server's last start, whether the device is unlocked or not. */
  prepareOff(tagId: string): Result<PreparedWrite> {
    const tag = this.#model.get('tag', tagId);
    const signal = this.#model.effective(tagId);
    if (!tag || !signal.ok) return signal.ok ? fail('gone', 'The tag is no longer there.') : signal;
    const plan = planWrite(signal.value.def, false);
    if (!plan.ok) return plan;
    const session = this.#engine.sessionOf(tag);
    if (!session) return fail('offline', 'The device is not online.', 'Bring it online, and try again.');
    return ok({ target: { tag, signal: signal.value, session }, asked: false, plan: plan.value, who: '' });
  }

  #permitted(tag: Tag, writer: Permitted): Result<string> {
    const deviceId = deviceIdOf(tag);
    const permitted = this.#guard.permits(deviceId, writer);
    if (permitted) return ok(permitted.who);
    const device = this.#model.get('device', deviceId ?? '')?.name ?? 'the device';
    return this.#guard.unlockedBy(deviceId ?? '')
      ? fail('locked', `Writing to ${device} is not open for ${WRITER_WORDS[writer]}.`, `Unlock it again, for ${WRITER_WORDS[writer]} too.`)
      : fail('locked', `Writing to ${device} is locked.`, 'Unlock writing for the device first.');
  }

  /**
   * Sends a prepared write. Never repeats it, never keeps it for later; refuses when the tag means something else by now.
   * @returns null when it was not sent because it may not be any more
   */
  async send(prepared: PreparedWrite, sending: Sending): Promise<WriteOutcome | null> {
    const { clock } = this.#engine;
    const isRelease = sending.mayStill === 'must';
    const deadline = clock.now() + (isRelease ? RELEASE_DEADLINE_MS : WRITE_DEADLINE_MS);
    const write = (): Promise<WriteOutcome | Follow | null> => this.#write(prepared, sending, deadline);
    try {
      const sent = await (isRelease ? write() : this.#turns.run(deviceIdOf(prepared.target.tag) ?? LOCAL, write));
      return sent instanceof Follow ? await this.#follow(sent, prepared.plan, sending) : sent;
    } finally {
      sending.onAnswered?.(NOT_SENT);
    }
  }

  async #write(prepared: PreparedWrite, sending: Sending, deadline: number): Promise<WriteOutcome | Follow | null> {
    const { target, plan } = prepared;
    const isRelease = sending.mayStill === 'must';
    const { tag, signal, session } = target;
    if (sending.mayStill !== 'must') {
      if (!sending.mayStill()) return null;
      const now = this.#model.effective(tag.id);
      if (!now.ok || now.value.digest !== signal.digest || this.#engine.sessionOf(tag) !== session)
        return outcomeOf('refused', `The settings of ${tag.name} were changed before the value was sent.`);
    }
    const point = pointOf(tag.id, signal);
    const value = { raw: plan.raw, bytes: plan.bytes, mask: plan.mask };
    const context = { signal: new AbortController().signal, deadline, goesFirst: isRelease };
    let fault = await session.write(point, value, context);
    // What was never sent is not sent twice: a state that is to be let go waits for its line to come back.
    const { clock } = this.#engine;
    const giveUpAt = clock.now() + (sending.mayStill === 'must' ? COME_BACK_MS : 0);
    while (fault?.kind === 'link-down' && clock.now() < giveUpAt) {
      await this.#rest(COME_BACK_EVERY_MS, undefined);
      fault = await session.write(point, value, context);
    }
    sending.onAnswered?.(fault);
    // What is let go must be seen to be off itself.
    const confirm = isRelease && tag.confirm.kind === 'follows' ? EQUAL : tag.confirm;
    if (!fault && confirm.kind === 'none') return outcomeOf('done', 'The controller took it; this tag is not read back.');
    if (!fault && sending.confirming?.aborted) return outcomeOf(...NOT_CONFIRMED);
    const stages = fault?.kind === 'link-down' ? null : await this.#readBack(target, point, sending.confirming);
    if (!fault && sending.confirming?.aborted) return outcomeOf(...NOT_CONFIRMED);
    const unit = signal.def.unit ? ` ${signal.def.unit}` : '';
    if (fault) {
      const now = stages?.eng === null || !stages ? '' : ` The controller holds ${stages.text}${unit}.`;
      return outcomeOf(fault.kind === 'unknown' ? 'unknown' : 'refused', `${fault.problem.message}${now}`, stages);
    }
    if (confirm.kind === 'follows') return new Follow(confirm.tagId, confirm.by);
    if (stages === null || stages.raw === null || stages.eng === null)
      return outcomeOf('unknown', 'The controller took it, but it could not be read back.', stages);
    const isHeld = confirm.kind === 'tolerance' ? isNear(stages.eng, plan.achieved, confirm.by) : stages.raw === plan.raw;
    return isHeld
      ? outcomeOf('done', `The controller holds ${stages.text}${unit}.`, stages)
      : outcomeOf('differs', `The controller took ${plan.text}${unit} and holds ${stages.text}${unit}.`, stages);
  }

  /** What the device holds now, asked after its answer. It is the newest sample of the tag from here on. */
  async #readBack({ tag, signal, session }: WriteTarget, point: PointSpec, stop: AbortSignal | undefined): Promise<Stages | null> {
    const arrivals: Arrival[] = [];
    const context = { signal: stop ?? new AbortController().signal, deadline: this.#engine.clock.now() + WRITE_DEADLINE_MS };
    await session.prepare([point]).read((_key, arrival) => arrivals.push(arrival), context);
    const arrival = arrivals[0];
    if (!arrival || !('wire' in arrival)) return null;
    this.#engine.take(tag, session, { tagId: tag.id, signal }, arrival);
    return followWire({ ...signal.def, range: null }, arrival.wire);
  }

  /** Another tag must come to the value that was written. */
  async #follow({ tagId, by }: Follow, plan: WritePlan, { confirming }: Sending): Promise<WriteOutcome> {
    const { clock } = this.#engine;
    const end = clock.now() + FOLLOW_MS;
    const name = this.#model.get('tag', tagId)?.name ?? 'the tag that follows';
    for (;;) {
      if (confirming?.aborted) return outcomeOf(...NOT_CONFIRMED);
      const sample = await this.#engine.readNow(tagId);
      const value = sample?.quality.level === 'bad' ? null : (sample?.eng ?? null);
      if (value !== null && isNear(value, plan.achieved, by)) return outcomeOf('done', `${name} follows: ${sample?.text ?? ''}.`);
      if (clock.now() >= end) {
        const now = value === null ? 'it could not be read' : `it says ${sample?.text ?? '–'}`;
        return outcomeOf('differs', `${name} did not follow within ${FOLLOW_MS / 1000} s: ${now}.`);
      }
      await this.#rest(FOLLOW_EVERY_MS, confirming);
    }
  }

  #rest(ms: number, stop: AbortSignal | undefined): Promise<void> {
    return new Promise((resolve) => {
      const end = (): void => {
        cancel();
        stop?.removeEventListener('abort', end);
        resolve();
      };
      const cancel = this.#engine.clock.after(ms, end);
      stop?.addEventListener('abort', end);
    });
  }
}

/** What is left to do once a value was taken: wait for another tag, while other writes have their turn. */
class Follow {
  constructor(
    readonly tagId: string,
    readonly by: number,
  ) {}
}

/** The device has said that it took the value; nobody waited to see it held. */
export const NOT_CONFIRMED = ['done', 'The controller took it; what it holds was not waited for.'] as const;
const NOT_SENT: DriverFault = { kind: 'aborted', problem: { code: 'not-sent', message: 'It was not sent.' } };

function outcomeOf(state: WriteOutcome['state'], sentence: string, stages: Stages | null = null): WriteOutcome {
  const eng = stages?.eng ?? null;
  return { state, sentence, held: eng === null ? null : toJson(eng), heldText: eng === null ? null : (stages?.text ?? null) };
}

function notHeld(tag: Tag, instead: readonly string[]): Result<never> {
  const unit = tag.unit ? ` ${tag.unit}` : '';
  return {
    ok: false,
    problem: {
      code: 'not-held',
      message: `${tag.name} cannot hold exactly that; the nearest it can hold ${instead.length > 1 ? 'are' : 'is'} ${instead.join(' and ')}${unit}.`,
      remedy: `Write ${instead.join(' or ')}, or say that the nearest is taken.`,
      instead,
    },
  };
}

/** Whether two values are the same, or numbers no further apart than the tolerance; 64 bits exactly. */
export function isNear(a: EngValue, b: EngValue, by: number): boolean {
  if (typeof a === 'string' || typeof b === 'string') return a === b;
  const [x, y] = [exact(a), exact(b)];
  // What a sloped line makes of a count is off by the last digits of a double.
  const slack = typeof a === 'number' && typeof b === 'number' ? Math.max(Math.abs(a), Math.abs(b)) * 1e-12 : 0;
  return isWithin(x, y, toDecimal(by + slack));
}

function exact(value: number | bigint | boolean | Decimal): Decimal {
  return isDecimal(value) ? value : toDecimal(typeof value === 'boolean' ? Number(value) : value);
}
