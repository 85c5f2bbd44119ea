/** What a unit of time makes of a duration: TIME counts milliseconds, LTIME nanoseconds (IEC 61131-3, table 10), others what they say. */
import { fail, ok, type Result } from '../result.ts';
import type { DataType } from '../value/dataType.ts';
import { gcd } from './line.ts';
import { AS_IS, type Scale } from './scale.ts';
import { UNITS_OF_TIME } from './timeUnits.ts';

const KNOWN = 'ns, µs, ms, s, min, h or d';

/** The scale that a tag has: its own, or what its unit makes of a duration. */
export function scaleFor(type: DataType, own: Scale | null, unit: string): Result<Scale> {
  return own && own.kind !== 'none' ? ok(own) : durationScale(type, unit);
}

/**
 * The scale that turns the count of a time type into its unit. Without a unit a time is shown as one.
 * Refuses a unit that is none of time, and any unit for dates and times of day, with the field as the place.
 */
export function durationScale(type: DataType, unit: string): Result<Scale> {
  if (type.kind !== 'integer' || type.time === null || unit === '') return ok(AS_IS);
  if (type.time.shows !== 'duration')
    return fail('unit', `A ${type.name} is shown as a date or a time, without a unit.`, 'Leave the unit empty.', 'unit');
  const known = UNITS_OF_TIME.get(unit.toLowerCase());
  if (!known)
    return fail(
      'unit',
      `“${unit}” is not a unit of time, and ${type.name} is a duration.`,
      `Choose ${KNOWN}, leave the unit empty, or choose a type that is no duration.`,
      'unit',
    );
  const { countNs } = type.time;
  if (known === countNs) return ok(AS_IS);
  const exponent = exponentOf(countNs) - exponentOf(known);
  return Number.isNaN(exponent)
    ? ok({ kind: 'linear', rawA: 0, engA: 0, rawB: Number(known / gcd(known, countNs)), engB: Number(countNs / gcd(known, countNs)) })
    : ok({ kind: 'power', exponent });
}

/** Of a power of ten; NaN of any other number. */
function exponentOf(value: bigint): number {
  const digits = value.toString();
  return /^10*$/.test(digits) ? digits.length - 1 : NaN;
}
