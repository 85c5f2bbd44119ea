/** What a witness said, as what the value can be compared with. */
import { parseFor, type SignalDefinition } from '../signal.ts';
import { asNumber, type EngValue } from '../value/engineering.ts';
import { seenNumber, type Seen } from './mistakes/observation.ts';

/** What displays show where they have no value. */
const NO_VALUE = /^(?:[-–—?*#_.\s]+|n\/?a|nan)$/i;

export function showsNoValue(text: string): boolean {
  return NO_VALUE.test(text.trim());
}

/** A process moves between one look and the next: near enough to be explained, not to be proven. */
const MOVING = 0.02;

/** What a person read. Null where it is no value of the tag's type. @param isMoving the value was another one just before; tolerance in engineering units */
export function seenTyped(def: SignalDefinition, text: string, isMoving = false, tolerance = 0): Seen | null {
  if (def.type.kind !== 'text' && showsNoValue(text)) return { kind: 'nothing' };
  const parsed = parseFor(def, text);
  if (!parsed.ok) return null;
  const value = parsed.value;
  if (typeof value === 'boolean' || typeof value === 'string') return { kind: 'state', value };
  // A name of an enumeration, or a time, is one number and no other.
  return seenNumber(text, tolerance + (isMoving ? MOVING * Math.abs(asNumber(value) ?? 0) : 0)) ?? exactly(value);
}

/** What a control channel told just before and just after the value was read. */
export function seenTold(first: EngValue, last: EngValue): Seen {
  if (typeof last === 'boolean' || typeof last === 'string') return { kind: 'state', value: last };
  const ends = [asNumber(first) ?? NaN, asNumber(last) ?? NaN];
  const room = MOVING * Math.max(...ends.map(Math.abs));
  return { kind: 'number', value: last, low: Math.min(...ends) - room, high: Math.max(...ends) + room, text: null };
}

function exactly(value: Exclude<EngValue, boolean | string>): Seen {
  const number = asNumber(value) ?? NaN;
  return { kind: 'number', value, low: number, high: number, text: null };
}
