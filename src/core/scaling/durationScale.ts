/** What a unit of time makes of a duration: TIME counts milliseconds, LTIME nanoseconds (IEC 61131-3, table 10). */
import { fail, ok, type Result } from '../result.ts';
import type { DataType } from '../value/dataType.ts';
import { AS_IS, type Scale } from './scale.ts';

/** Units of time as people write them: a power of ten of seconds, or a number of seconds. */
const UNITS: Readonly<Record<string, { readonly exponent: number } | { readonly seconds: number }>> = {
  ns: { exponent: -9 },
  us: { exponent: -6 },
  µs: { exponent: -6 },
  μs: { exponent: -6 },
  ms: { exponent: -3 },
  s: { exponent: 0 },
  sec: { exponent: 0 },
  min: { seconds: 60 },
  h: { seconds: 3600 },
  d: { seconds: 86_400 },
};
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
  if (type.time !== 'duration-ms' && type.time !== 'duration-ns')
    return fail('unit', `A ${type.name} is shown as a date or a time, without a unit.`, 'Leave the unit empty.', 'unit');
  const known = UNITS[unit.toLowerCase()];
  if (!known)
    return fail(
      'unit',
      `“${unit}” is not a unit of time, and ${type.name} is a duration.`,
      `Choose ${KNOWN}, leave the unit empty, or choose a type that is no duration.`,
      'unit',
    );
  const counted = type.time === 'duration-ms' ? -3 : -9;
  if ('exponent' in known) return ok(known.exponent === counted ? AS_IS : { kind: 'power', exponent: counted - known.exponent });
  return ok({ kind: 'linear', rawA: 0, engA: 0, rawB: known.seconds * 10 ** -counted, engB: 1 });
}
