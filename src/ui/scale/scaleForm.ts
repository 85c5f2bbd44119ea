/** Between the texts of the scale form and the scale, unit, decimals and range that they mean. */
import type { Tag } from '@/core/project/entities.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import { checkScale, type Scale } from '@/core/scaling/scale.ts';
import { decimalNumber, parseDecimal } from '@/core/value/decimal.ts';

export interface ScaleForm {
  readonly kind: Scale['kind'];
  readonly rawA: string;
  readonly engA: string;
  readonly rawB: string;
  readonly engB: string;
  readonly exponent: string;
  readonly unit: string;
  readonly decimals: string;
  readonly low: string;
  readonly high: string;
}

export interface ScaleSettings {
  readonly scale: Scale;
  readonly unit: string;
  readonly decimals: number | null;
  readonly range: { readonly low: number; readonly high: number } | null;
}

export function formOf(tag: Tag, scale: Scale | null): ScaleForm {
  const line = scale?.kind === 'linear' ? scale : { rawA: 0, engA: 0, rawB: 27648, engB: 100 };
  const maybe = (value: number | null): string => (value === null ? '' : String(value));
  return {
    kind: scale?.kind ?? 'none',
    rawA: String(line.rawA),
    engA: String(line.engA),
    rawB: String(line.rawB),
    engB: String(line.engB),
    exponent: String(scale?.kind === 'power' ? scale.exponent : -1),
    unit: tag.unit,
    decimals: maybe(tag.decimals),
    low: maybe(tag.rangeLow),
    high: maybe(tag.rangeHigh),
  };
}

/** Refuses at the field that is wrong; its name is the place. */
export function readForm(form: ScaleForm): Result<ScaleSettings> {
  const scale = readScale(form);
  if (!scale.ok) return scale;
  const decimals = form.decimals.trim() === '' ? ok(null) : number(form.decimals, 'decimals');
  if (!decimals.ok) return decimals;
  if (decimals.value !== null && (!Number.isInteger(decimals.value) || decimals.value < 0 || decimals.value > 12))
    return fail('decimals', 'Decimals are 0 to 12.', undefined, 'decimals');
  const [hasLow, hasHigh] = [form.low.trim() !== '', form.high.trim() !== ''];
  if (hasLow !== hasHigh) return fail('range', 'A range needs both ends, or neither.', undefined, hasLow ? 'high' : 'low');
  if (!hasLow) return ok({ scale: scale.value, unit: form.unit.trim(), decimals: decimals.value, range: null });
  const low = number(form.low, 'low');
  const high = number(form.high, 'high');
  if (!low.ok) return low;
  if (!high.ok) return high;
  if (low.value >= high.value) return fail('range', 'The range must end above its beginning.', undefined, 'high');
  return ok({ scale: scale.value, unit: form.unit.trim(), decimals: decimals.value, range: { low: low.value, high: high.value } });
}

function readScale(form: ScaleForm): Result<Scale> {
  if (form.kind === 'none') return ok({ kind: 'none' });
  if (form.kind === 'power') {
    const exponent = number(form.exponent, 'exponent');
    return exponent.ok ? checkScale({ kind: 'power', exponent: exponent.value }) : exponent;
  }
  const points: number[] = [];
  for (const key of ['rawA', 'engA', 'rawB', 'engB'] as const) {
    const point = number(form[key], key);
    if (!point.ok) return point;
    points.push(point.value);
  }
  const [rawA = 0, engA = 0, rawB = 0, engB = 0] = points;
  return checkScale({ kind: 'linear', rawA, engA, rawB, engB });
}

function number(text: string, place: string): Result<number> {
  const decimal = parseDecimal(text);
  const value = decimal ? decimalNumber(decimal) : NaN;
  if (Number.isFinite(value)) return ok(value);
  return fail(
    'number',
    text.trim() === '' ? 'A number is missing.' : `“${text.slice(0, 20)}” is ${decimal ? 'beyond any number' : 'not a number'}.`,
    'Write it with a decimal point.',
    place,
  );
}
