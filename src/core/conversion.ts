/** From a raw value that somebody writes to what a tag shows, and back: for calculators and forms. */
import { fail, ok, type Result } from './result.ts';
import { engineeringText, followWire, parseFor, parseRaw, planWrite, rawText, unjudged, type SignalDefinition, type WireValue } from './signal.ts';
import type { RawValue } from './value/codec.ts';
import type { Radix } from './value/radix.ts';

export interface Shown {
  readonly raw: RawValue;
  /** As the tag shows it. */
  readonly text: string;
  /** Every digit of it. */
  readonly whole: string;
  /** What is wrong with it, where it is a value all the same; empty for nothing. */
  readonly note: string;
}

/** Refuses what the controller cannot hold, and what has no value. */
export function shownOfRaw(def: SignalDefinition, text: string): Result<Shown> {
  const plain: SignalDefinition = { ...unjudged(def), scale: { kind: 'none' }, names: undefined, bit: null };
  const parsed = parseRaw(plain.type, text);
  if (!parsed.ok) return parsed;
  // Through the wire's own type: what the controller cannot hold is refused here too.
  const held = planWrite(plain, parsed.value);
  if (!held.ok && held.problem.code !== 'byte-alone') return held;
  const wire: WireValue = !held.ok
    ? { kind: 'text', text }
    : def.isTyped
      ? { kind: 'typed', value: held.value.raw }
      : { kind: 'bytes', bytes: held.value.bytes };
  const stages = followWire(def, wire);
  if (stages.eng === null || stages.raw === null) return fail('no-value', stages.broken?.problem.message ?? 'It has no value.');
  const whole = engineeringText({ ...def, decimals: null, names: undefined }, stages.eng);
  return ok({ raw: stages.raw, text: stages.text, whole, note: stages.broken?.problem.message ?? '' });
}

export interface Held {
  readonly raw: string;
  /** The value that the controller really holds then. */
  readonly achieved: string;
}

export function rawOfShown(def: SignalDefinition, text: string, radix: Radix = 10): Result<Held> {
  const parsed = parseFor(def, text);
  if (!parsed.ok) return parsed;
  const plan = planWrite(unjudged(def), parsed.value);
  if (!plan.ok) return plan;
  const achieved = engineeringText({ ...def, decimals: null }, plan.value.achieved);
  return ok({ raw: rawText(def.type, plan.value.raw, radix), achieved });
}
