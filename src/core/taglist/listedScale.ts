/** The scale that a row tells: by raw and engineering ends, or by factor, divisor and offset. */
import { fail, ok, type Result } from '../result.ts';
import { checkScale, toEngineering, type Scale } from '../scaling/scale.ts';
import type { DataType } from '../value/dataType.ts';
import { decimalNumber, toDecimal } from '../value/decimal.ts';
import { asNumber } from '../value/engineering.ts';

export interface ToldScale {
  readonly rawLow: number | null;
  readonly rawHigh: number | null;
  readonly low: number | null;
  readonly high: number | null;
  /** Engineering value = raw · factor + offset. */
  readonly factor: number | null;
  /** Engineering value = raw / divisor + offset. */
  readonly divisor: number | null;
  readonly offset: number | null;
}

/** What cannot be made a scale of is told: as a problem whose place is the column, or as a note. */
export function listedScale(told: ToldScale, type: DataType | null, notes: string[]): Result<Scale | null> {
  const { rawLow, rawHigh, low, high, factor, divisor, offset } = told;
  const hasRaw = rawLow !== null && rawHigh !== null;
  const hasFactor = factor !== null || divisor !== null || offset !== null;
  if (!hasRaw && !hasFactor) return ok(null);
  if (type && (type.kind === 'boolean' || type.kind === 'text')) {
    notes.push(`A ${type.name} has no scale: what the list says of one is excluded.`);
    return ok(null);
  }
  const byFactor = hasFactor ? scaleByFactor(factor, divisor, offset) : ok(null);
  if (!byFactor.ok) return byFactor;
  if (!hasRaw) return byFactor;
  if (rawLow === rawHigh) return fail('scale-raw', `Both raw ends are ${rawLow}, so no line goes through them.`, 'Give two raw values.', 'rawHigh');
  if (low === null || high === null) {
    if (!hasFactor) notes.push('Raw ends without engineering ends make no scale: they are excluded.');
    return byFactor;
  }
  if (low === high) return ok(null);
  const ends = checkScale({ kind: 'linear', rawA: rawLow, engA: low, rawB: rawHigh, engB: high });
  if (ends.ok && byFactor.value !== null && !agree(ends.value, byFactor.value, [rawLow, rawHigh]))
    return fail('scale-twice', 'The ends say another scale than factor and offset do.', 'Exclude one of the columns.', 'rawHigh');
  return ends;
}

function scaleByFactor(factor: number | null, divisor: number | null, offset: number | null): Result<Scale | null> {
  if (factor === 0) return fail('scale-factor', 'A factor of 0 makes every value the same.', 'Correct it, or exclude the column.', 'factor');
  if (divisor === 0) return fail('scale-factor', 'Nothing is divided by 0.', 'Correct it, or exclude the column.', 'divisor');
  if (factor !== null && divisor !== null && Math.abs(factor * divisor - 1) > 1e-9 && factor !== 1 && divisor !== 1)
    return fail('scale-twice', 'Factor and divisor say two different things.', 'Exclude one of the columns.', 'divisor');
  const slope = factor !== null && factor !== 1 ? factor : divisor === null ? (factor ?? 1) : 1 / divisor;
  const shift = offset ?? 0;
  const power = Math.round(Math.log10(Math.abs(slope)));
  if (shift === 0 && slope > 0 && Math.abs(slope / 10 ** power - 1) < 1e-12) return ok(power === 0 ? null : { kind: 'power', exponent: power });
  // Two points whose engineering values are whole where the factor allows it, so that no digit is lost between them.
  const { exponent } = toDecimal(slope);
  const raw = divisor !== null && (factor === null || factor === 1) ? divisor : 10 ** Math.min(6, Math.max(0, -exponent));
  const rise = divisor !== null && raw === divisor ? 1 : decimalNumber({ ...toDecimal(slope), exponent: exponent + Math.round(Math.log10(raw)) });
  return checkScale({ kind: 'linear', rawA: 0, engA: shift, rawB: raw, engB: shift + rise });
}

function agree(a: Scale, b: Scale, raws: readonly number[]): boolean {
  return raws.every((raw) => {
    const [one, other] = [asNumber(toEngineering(a, raw).value) ?? NaN, asNumber(toEngineering(b, raw).value) ?? NaN];
    return Math.abs(one - other) <= 1e-6 * Math.max(1, Math.abs(one), Math.abs(other));
  });
}
