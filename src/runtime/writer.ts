/** Writes one value: checked, sent once, confirmed the way the tag says, and told what is held. */
import type { Writer as Permitted } from '@/core/live/status.ts';
import type { WriteOutcome } from '@/core/live/writeOutcome.ts';
import { FOLLOW_MS } from '@/core/project/confirm.ts';
import type { Tag } from '@/core/project/entities.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import { followWire, planWrite, type Stages, type WritePlan } from '@/core/signal.ts';
import { asNumber, toJson, type EngValue } from '@/core/value/engineering.ts';
import type { Arrival, CallContext, DeviceSession, PointSpec } from '@/drivers/contract.ts';
import type { EffectiveSignal } from '@/drivers/effective.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import type { Engine } from './engine.ts';
import type { WriteGuard } from './writeGuard.ts';

/** How long a write may take in all; later it is no longer what the person asked for. */
const WRITE_DEADLINE_MS = 5000;
const FOLLOW_EVERY_MS = 200;

const WRITER_WORDS: Readonly<Record<Permitted, string>> = {
  engineer: 'the bench',
  panel: 'panels',
  rule: 'automatic rules',
  check: 'driven checks',
};

export interface PreparedWrite {
  readonly tagId: string;
  readonly plan: WritePlan;
  /** Of the signal path that the bytes were made for. */
  readonly digest: string;
  /** Who unlocked the device. */
  readonly who: string;
}

interface Target {
  readonly tag: Tag;
  readonly signal: EffectiveSignal;
}

export class Writer {
  readonly #engine: Engine;
  readonly #model: ProjectModel;
  readonly #guard: WriteGuard;

  constructor(engine: Engine, model: ProjectModel, guard: WriteGuard) {
    this.#engine = engine;
    this.#model = model;
    this.#guard = guard;
  }

  /** All that can be said before anything is sent. */
  prepare(tagId: string, wanted: EngValue, writer: Permitted): Result<PreparedWrite> {
    const planned = this.plan(tagId, wanted);
    if (!planned.ok) return planned;
    const { target, plan } = planned.value;
    const { deviceId } = target.tag;
    const permitted = this.#guard.permits(deviceId, writer);
    if (permitted) return ok({ tagId, plan, digest: target.signal.digest, who: permitted.who });
    const device = this.#model.get('device', deviceId)?.name ?? 'the device';
    return this.#guard.unlockedBy(deviceId)
      ? fail('locked', `Writing to ${device} is not open for ${WRITER_WORDS[writer]}.`, `Unlock it again, for ${WRITER_WORDS[writer]} too.`)
      : fail('locked', `Writing to ${device} is locked.`, 'Unlock writing for the device first.');
  }

  /** What a write would send, whether the device is open or not: a release must be possible after the lock has closed. */
  plan(tagId: string, wanted: EngValue): Result<{ readonly target: Target; readonly plan: WritePlan }> {
    const tag = this.#model.get('tag', tagId);
    const signal = this.#model.effective(tagId);
    if (!tag || !signal.ok) return signal.ok ? fail('gone', 'The tag is no longer there.') : signal;
    if (tag.access !== 'readWrite')
      return fail('read-only', `${tag.name} is set to be read only.`, 'Change its access in Map, if the controller takes writes to it.');
    if (!signal.value.writable)
      return fail('read-only', `${tag.name} lies where nothing can be written alone.`, 'Choose a holding register or a coil.');
    const plan = planWrite(signal.value.def, wanted);
    return plan.ok ? ok({ target: { tag, signal: signal.value }, plan: plan.value }) : plan;
  }

  /** Sends a prepared write. Never repeats it, never keeps it for later; refuses when the tag means something else by now. */
  async send({ tagId, plan, digest }: PreparedWrite): Promise<WriteOutcome> {
    const tag = this.#model.get('tag', tagId);
    const signal = this.#model.effective(tagId);
    const session = tag && this.#engine.session(tag.deviceId);
    if (!tag || !signal.ok || !session) return { state: 'refused', sentence: 'The device is not online.', held: null, heldText: null };
    const { canonical, def } = signal.value;
    if (signal.value.digest !== digest)
      return { state: 'refused', sentence: `The settings of ${tag.name} were changed before the value was sent.`, held: null, heldText: null };
    const point = { key: tagId, canonical, type: def.type };
    const context = { signal: new AbortController().signal, deadline: this.#engine.clock.now() + WRITE_DEADLINE_MS };
    const fault = await session.write(point, { raw: plan.raw, bytes: plan.bytes, mask: plan.mask }, context);
    if (!fault && tag.confirm.kind === 'none')
      return { state: 'done', sentence: 'The controller took it; this tag is not read back.', held: null, heldText: null };
    const stages = fault?.kind === 'link-down' ? null : await readBack(session, point, signal.value, context);
    const eng = stages?.eng ?? null;
    const held = { held: eng === null ? null : toJson(eng), heldText: eng === null ? null : (stages?.text ?? null) };
    const unit = def.unit ? ` ${def.unit}` : '';
    if (fault) {
      const now = held.heldText === null ? '' : ` The controller holds ${held.heldText}${unit}.`;
      return { state: fault.kind === 'unknown' ? 'unknown' : 'refused', sentence: `${fault.problem.message}${now}`, ...held };
    }
    if (tag.confirm.kind === 'follows') return this.#follow(tag.confirm.tagId, tag.confirm.by, plan, held);
    if (stages === null || stages.raw === null || eng === null)
      return { state: 'unknown', sentence: 'The controller took it, but it could not be read back.', ...held };
    const isHeld = tag.confirm.kind === 'tolerance' ? isNear(eng, plan.achieved, tag.confirm.by) : stages.raw === plan.raw;
    return isHeld
      ? { state: 'done', sentence: `The controller holds ${held.heldText ?? '–'}${unit}.`, ...held }
      : { state: 'differs', sentence: `The controller took ${plan.text}${unit} and holds ${held.heldText ?? '–'}${unit}.`, ...held };
  }

  /** Another tag must come to the value that was written. */
  async #follow(followerId: string, by: number, plan: WritePlan, held: Pick<WriteOutcome, 'held' | 'heldText'>): Promise<WriteOutcome> {
    const { clock } = this.#engine;
    const end = clock.now() + FOLLOW_MS;
    const name = this.#model.get('tag', followerId)?.name ?? 'the tag that follows';
    for (;;) {
      const sample = await this.#engine.readNow(followerId);
      const value = sample?.quality.level === 'bad' ? null : (sample?.eng ?? null);
      if (value !== null && isNear(value, plan.achieved, by)) return { state: 'done', sentence: `${name} follows: ${sample?.text ?? ''}.`, ...held };
      if (clock.now() >= end) {
        const now = value === null ? 'it could not be read' : `it says ${sample?.text ?? '–'}`;
        return { state: 'differs', sentence: `${name} did not follow within ${FOLLOW_MS / 1000} s: ${now}.`, ...held };
      }
      await new Promise<void>((resolve) => clock.after(FOLLOW_EVERY_MS, resolve));
    }
  }
}

/** Whether two values are the same, or numbers no further apart than the tolerance. */
export function isNear(a: EngValue, b: EngValue, by: number): boolean {
  if (typeof a === 'string' || typeof b === 'string') return a === b;
  const [x, y] = [asNumber(a), asNumber(b)];
  return x !== null && y !== null && Math.abs(x - y) <= by * (1 + 1e-9);
}

async function readBack(session: DeviceSession, point: PointSpec, { def }: EffectiveSignal, context: CallContext): Promise<Stages | null> {
  const arrivals: Arrival[] = [];
  await session.prepare([point]).read((_key, arrival) => arrivals.push(arrival), context);
  const arrival = arrivals[0];
  return arrival && 'wire' in arrival ? followWire({ ...def, range: null }, arrival.wire) : null;
}
