/** Writes values: checked, sent once, confirmed the way the tag says, and told what is held. */
import type { Writer as Permitted } from '@/core/live/status.ts';
import type { WriteOutcome } from '@/core/live/writeOutcome.ts';
import { heldInstead } from '@/core/nearestHeld.ts';
import { EQUAL, FOLLOW_MS } from '@/core/project/confirm.ts';
import type { Tag } from '@/core/project/entities.ts';
import { deviceIdOf } from '@/core/project/tagSource.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import {
  engineeringOf,
  followWire,
  planRaw,
  planWrite,
  textOf,
  unjudged,
  type SignalDefinition,
  type Stages,
  type WritePlan,
} from '@/core/signal.ts';
import { inOwnUnit, shownIn } from '@/core/units/shownIn.ts';
import { isWithin, toDecimal, isDecimal, type Decimal } from '@/core/value/decimal.ts';
import type { RawValue } from '@/core/value/codec.ts';
import { formatValue, toJson, type EngValue } from '@/core/value/engineering.ts';
import type { Confirming } from '@/core/manifest/driverManifest.ts';
import type { DeviceSession, DriverFault, PointWrite } from '@/drivers/contract.ts';
import { pointOf, type EffectiveSignal } from '@/mapping/effective.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import type { Engine } from './engine.ts';
import { LOCAL } from './localValues.ts';
import { Telling } from './telling.ts';
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
  /** How its driver learns what is held. */
  readonly confirms: Confirming;
}

export interface PreparedWrite {
  readonly target: WriteTarget;
  readonly asked: EngValue;
  /** How it was entered where that was in another unit than the tag's; empty else. */
  readonly entered: string;
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

/** What a write is wanted with. */
export interface Wanting {
  readonly writer: Permitted;
  readonly rounding?: Rounding | undefined;
  /** The unit of the value; absent for the tag's own. */
  readonly unit?: string | undefined;
}

/** The same bytes, and what the controller will hold in the tag's own unit. */
function inOwnTerms(def: SignalDefinition, plan: WritePlan): WritePlan {
  const achieved = engineeringOf(def, plan.raw);
  return { ...plan, achieved, text: textOf(def, achieved) };
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
  prepare(tagId: string, wanted: EngValue, { writer, rounding = 'refuse', unit }: Wanting): Result<PreparedWrite> {
    const tag = this.#model.get('tag', tagId);
    const signal = this.#engine.signalOf(tagId);
    if (!tag || !signal.ok) return signal.ok ? fail('gone', 'The tag is no longer there.') : signal;
    const { def } = signal.value;
    if (signal.value.access !== 'readWrite')
      return fail('read-only', `${tag.name} is set to be read only.`, 'Change its access in Map, if the controller takes writes to it.');
    if (!signal.value.writable)
      return fail('read-only', `${tag.name} lies where nothing can be written alone.`, 'Choose an address that the device lets be written.');
    const shown = shownIn(def, unit ?? def.unit);
    if (!shown.ok) return shown;
    const plan = planWrite(shown.value, wanted);
    if (!plan.ok) return plan;
    const instead = rounding === 'refuse' ? heldInstead(shown.value, wanted, plan.value) : null;
    if (instead) return notHeld(tag, instead);
    const asked = inOwnUnit(def, shown.value.unit, wanted);
    if (!asked.ok) return asked;
    const permitted = this.#permitted(tag, writer);
    if (!permitted.ok) return permitted;
    const session = this.#engine.sessionOf(tag);
    if (!session) return fail('offline', 'The device is not online.', 'Bring it online, and try again.');
    const { value: own } = asked;
    return ok({
      target: this.#targetOf(tag, signal.value, session),
      asked: own,
      entered: shown.value === def ? '' : `Entered as ${formatValue(wanted, null)} ${shown.value.unit}.`,
      plan: shown.value === def ? plan.value : inOwnTerms(def, plan.value),
      who: permitted.value,
    });
  }

  /** Writes a raw value that the tag has held, or was given, before. */
  prepareRaw(tagId: string, raw: RawValue, writer: Permitted): Result<PreparedWrite> {
    const tag = this.#model.get('tag', tagId);
    const signal = this.#engine.signalOf(tagId);
    if (!tag || !signal.ok) return signal.ok ? fail('gone', 'The tag is no longer there.') : signal;
    const plan = planRaw(signal.value.def, raw);
    if (!plan.ok) return plan;
    const permitted = this.#permitted(tag, writer);
    if (!permitted.ok) return permitted;
    const session = this.#engine.sessionOf(tag);
    if (!session) return fail('offline', 'The device is not online.', 'Bring it online, and try again.');
    const { achieved } = plan.value;
    return ok({ target: this.#targetOf(tag, signal.value, session), asked: achieved, entered: '', plan: plan.value, who: permitted.value });
  }

  /** Switches off what was switched on here before the server's last start, whether the device is unlocked or not. */
  prepareOff(tagId: string): Result<PreparedWrite> {
    const tag = this.#model.get('tag', tagId);
    const signal = this.#engine.signalOf(tagId);
    if (!tag || !signal.ok) return signal.ok ? fail('gone', 'The tag is no longer there.') : signal;
    const plan = planWrite(signal.value.def, false);
    if (!plan.ok) return plan;
    const session = this.#engine.sessionOf(tag);
    if (!session) return fail('offline', 'The device is not online.', 'Bring it online, and try again.');
    return ok({ target: this.#targetOf(tag, signal.value, session), asked: false, entered: '', plan: plan.value, who: '' });
  }

  #targetOf(tag: Tag, signal: EffectiveSignal, session: DeviceSession): WriteTarget {
    return { tag, signal, session, confirms: this.#engine.confirmingOf(tag) };
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
    const [outcome = null] = await this.sendAll([prepared], sending);
    return outcome;
  }

  /**
   * The same for several of one device, in their order, in as few requests as its protocol has. They are confirmed together.
   * @returns what became of each, in the same order
   */
  async sendAll(all: readonly PreparedWrite[], sending: Sending): Promise<readonly (WriteOutcome | null)[]> {
    const { clock } = this.#engine;
    const [first] = all;
    if (!first) return [];
    const isRelease = sending.mayStill === 'must';
    const deadline = clock.now() + (isRelease ? RELEASE_DEADLINE_MS : WRITE_DEADLINE_MS);
    const write = (): Promise<readonly Written[]> => this.#write(all, sending, deadline);
    try {
      const written = await (isRelease ? write() : this.#turns.run(deviceIdOf(first.target.tag) ?? LOCAL, write));
      return await Promise.all(written.map(async (one) => (one instanceof Follow ? this.#follow(one, sending) : one)));
    } finally {
      sending.onAnswered?.(NOT_SENT);
    }
  }

  async #write(all: readonly PreparedWrite[], sending: Sending, deadline: number): Promise<readonly Written[]> {
    const { clock } = this.#engine;
    const kept = all.map((prepared) => this.#keptBack(prepared, sending));
    const going = all.filter((_prepared, at) => kept[at] === undefined);
    const [first] = going;
    if (!first) return kept.map((outcome) => outcome ?? null);
    const isRelease = sending.mayStill === 'must';
    const { session } = first.target;
    const writes = going.map(({ target: { tag, signal }, plan }) => ({
      point: pointOf(tag.id, signal),
      value: { raw: plan.raw, bytes: plan.bytes, mask: plan.mask },
    }));
    const context = { signal: new AbortController().signal, deadline, goesFirst: isRelease };
    const telling = new Telling(this.#engine, going);
    try {
      let faults = await sendOnce(session, writes, context);
      // What was never sent is not sent twice: a state that is to be let go waits for its line to come back.
      const giveUpAt = clock.now() + (isRelease ? COME_BACK_MS : 0);
      while (faults.every((fault) => fault?.kind === 'link-down') && clock.now() < giveUpAt) {
        await this.#rest(COME_BACK_EVERY_MS, undefined);
        faults = await sendOnce(session, writes, context);
      }
      sending.onAnswered?.(faults.find((fault) => fault !== null) ?? null);
      const asked = going.filter(({ target }, at) => {
        const fault = faults[at] ?? null;
        return fault === null ? confirmOf(target, isRelease).kind !== 'none' && !sending.confirming?.aborted : fault.kind !== 'link-down';
      });
      const held = await this.#held(asked, telling, sending.confirming);
      const outcomes = going.map((prepared, at) => outcomeOfWrite(prepared, faults[at] ?? null, held.get(prepared) ?? null, sending));
      return kept.map((outcome) => (outcome === undefined ? (outcomes.shift() ?? null) : outcome));
    } finally {
      telling.end();
    }
  }

  /** What keeps a write from being sent now; null where it may not be any more, undefined when nothing does. */
  #keptBack({ target }: PreparedWrite, { mayStill }: Sending): WriteOutcome | null | undefined {
    if (mayStill === 'must') return undefined;
    if (!mayStill()) return null;
    const { tag, signal, session } = target;
    const now = this.#engine.signalOf(tag.id);
    if (now.ok && now.value.digest === signal.digest && now.value.canonical !== signal.canonical)
      return outcomeOf('refused', `The index of ${tag.name} led to another place before the value was sent.`);
    const isChanged = !now.ok || now.value.digest !== signal.digest || this.#engine.sessionOf(tag) !== session;
    return isChanged ? outcomeOf('refused', `The settings of ${tag.name} were changed before the value was sent.`) : undefined;
  }

  /** What the device holds now, learnt as its driver does. It is the newest sample of the tags from here on. */
  async #held(asked: readonly PreparedWrite[], telling: Telling, stop: AbortSignal | undefined): Promise<ReadonlyMap<PreparedWrite, Stages>> {
    const held = new Map<PreparedWrite, Stages>();
    const [first] = asked;
    if (!first || first.target.confirms.by === 'answering') return held;
    if (first.target.confirms.by === 'telling') return telling.of(asked, first.target.confirms.withinMs, stop);
    const { session } = first.target;
    const context = { signal: stop ?? new AbortController().signal, deadline: this.#engine.clock.now() + WRITE_DEADLINE_MS };
    const byTag = new Map(asked.map((prepared) => [prepared.target.tag.id, prepared]));
    await session.prepare([...byTag.values()].map(({ target: { tag, signal } }) => pointOf(tag.id, signal))).read((tagId, arrival) => {
      const prepared = byTag.get(tagId);
      if (!prepared || !('wire' in arrival) || held.has(prepared)) return;
      const { tag, signal } = prepared.target;
      this.#engine.take(tag, session, { tagId, signal }, arrival);
      held.set(prepared, followWire(unjudged(signal.def), arrival.wire));
    }, context);
    return held;
  }

  /** Another tag must come to the value that was written. */
  async #follow({ tagId, by, plan }: Follow, { confirming }: Sending): Promise<WriteOutcome> {
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
    readonly plan: WritePlan,
  ) {}
}
type Written = WriteOutcome | Follow | null;

/** Together where the driver can, else one after the other; what does not answer is asked no further. */
async function sendOnce(
  session: DeviceSession,
  writes: readonly PointWrite[],
  context: Parameters<DeviceSession['write']>[2],
): Promise<readonly (DriverFault | null)[]> {
  if (writes.length > 1 && session.writeAll) return session.writeAll(writes, context);
  const faults: (DriverFault | null)[] = [];
  let gone: DriverFault | null = null;
  for (const { point, value } of writes) {
    const fault: DriverFault | null = gone ?? (await session.write(point, value, context));
    faults.push(fault);
    if (fault && NO_ANSWER.has(fault.kind))
      gone ??= { ...NOT_SENT, problem: { ...NOT_SENT.problem, message: `It was not sent: ${fault.problem.message}` } };
  }
  return faults;
}

const NO_ANSWER: ReadonlySet<DriverFault['kind']> = new Set(['link-down', 'silent', 'unknown', 'aborted']);

/** What is let go must be seen to be off itself. */
function confirmOf({ tag }: WriteTarget, isRelease: boolean): Tag['confirm'] {
  return isRelease && tag.confirm.kind === 'follows' ? EQUAL : tag.confirm;
}

/** @param stages what the device holds, null where that was not learnt */
function outcomeOfWrite({ target, plan }: PreparedWrite, fault: DriverFault | null, stages: Stages | null, sending: Sending): Written {
  const { signal, confirms } = target;
  const confirm = confirmOf(target, sending.mayStill === 'must');
  const unit = signal.def.unit ? ` ${signal.def.unit}` : '';
  if (fault) {
    const now = stages?.eng === null || !stages ? '' : ` The controller holds ${stages.text}${unit}.`;
    return outcomeOf(fault.kind === 'unknown' ? 'unknown' : 'refused', `${fault.problem.message}${now}`, stages);
  }
  if (confirm.kind === 'none') return outcomeOf('done', 'The controller took it; this tag is not read back.');
  if (sending.confirming?.aborted) return outcomeOf(...NOT_CONFIRMED);
  if (confirm.kind === 'follows') return new Follow(confirm.tagId, confirm.by, plan);
  if (confirms.by === 'answering') return outcomeOf('done', 'It was taken; its protocol tells no more than that.');
  if (stages === null || stages.raw === null || stages.eng === null) {
    const why = confirms.by === 'telling' ? `told nothing of it within ${confirms.withinMs / 1000} s` : 'could not be read back';
    return outcomeOf('unknown', `The controller took it, but it ${why}.`, stages);
  }
  const isHeld = confirm.kind === 'tolerance' ? isNear(stages.eng, plan.achieved, confirm.by) : stages.raw === plan.raw;
  return isHeld
    ? outcomeOf('done', `The controller holds ${stages.text}${unit}.`, stages)
    : outcomeOf('differs', `The controller took ${plan.text}${unit} and holds ${stages.text}${unit}.`, stages);
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
