/** Between the texts of the scale form and the scale, unit, decimals and range that they mean. */
import type { Tag } from '@/core/project/entities.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import { checkScale, scaleOf, stepsOf, type Scale } from '@/core/scaling/scale.ts';
import { checkStep, type Step, type StepKind } from '@/core/scaling/step.ts';
import { decimalNumber, parseDecimal } from '@/core/value/decimal.ts';
import { STEP_FIELDS, type StepField } from './stepFields.ts';

/** One step as it is typed. */
export interface StepForm {
  readonly kind: StepKind;
  readonly fields: Readonly<Record<string, string>>;
}

export interface ScaleForm {
  readonly steps: readonly StepForm[];
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
  const maybe = (value: number | null): string => (value === null ? '' : String(value));
  return {
    steps: scale === null ? [] : stepsOf(scale).map(stepForm),
    unit: tag.unit,
    decimals: maybe(tag.decimals),
    low: maybe(tag.rangeLow),
    high: maybe(tag.rangeHigh),
  };
}

/** A step that nothing was said of yet. */
export function newStep(kind: StepKind): StepForm {
  return { kind, fields: Object.fromEntries(STEP_FIELDS[kind].map(({ key, first }) => [key, first])) };
}

/** A step as its form shows it. */
export function stepForm(step: Step): StepForm {
  const values = step as unknown as Readonly<Record<string, unknown>>;
  return { kind: step.kind, fields: Object.fromEntries(STEP_FIELDS[step.kind].map((field) => [field.key, textOf(field, values[field.key])])) };
}

function textOf({ form }: StepField, value: unknown): string {
  if (form === 'pairs') return (value as readonly (readonly number[])[]).map((pair) => pair.join('\t')).join('\n');
  return form === 'numbers' ? (value as readonly number[]).join(' ') : String(value);
}

/** Refuses at the field that is wrong; its name is the place, with the number of the step before it: `0.rawA`. */
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

function readScale({ steps }: ScaleForm): Result<Scale> {
  const read: Step[] = [];
  for (const [i, step] of steps.entries()) {
    const one = readStep(step, i);
    if (!one.ok) return one;
    read.push(one.value);
  }
  return checkScale(scaleOf(read));
}

function readStep({ kind, fields }: StepForm, index: number): Result<Step> {
  const values: Record<string, unknown> = { kind };
  for (const field of STEP_FIELDS[kind]) {
    const value = readField(field, fields[field.key] ?? '', `${index}.${field.key}`);
    if (!value.ok) return value;
    values[field.key] = value.value;
  }
  const checked = checkStep(values as unknown as Step);
  return checked.ok
    ? checked
    : { ok: false, problem: { ...checked.problem, ...(checked.problem.place ? { place: `${index}.${checked.problem.place}` } : {}) } };
}

function readField({ form }: StepField, text: string, place: string): Result<unknown> {
  if (form === 'text') return ok(text.trim());
  if (form === 'numbers') return all(partsOf(text), (part) => number(part, place));
  return form === 'pairs' ? readPairs(text, place) : number(text, place);
}

/** Two numbers a line, as they are copied from a spreadsheet. */
export function readPairs(text: string, place = ''): Result<readonly (readonly [number, number])[]> {
  const lines = text.split('\n').filter((line) => line.trim() !== '');
  return all(lines, (line, i) => {
    const parts = partsOf(line);
    if (parts.length !== 2)
      return fail('pair', `Line ${i + 1}: two numbers are needed, and there are ${parts.length}.`, 'Write a value and what it is.', place);
    const pair = all(parts, (part) => number(part, place));
    return pair.ok
      ? ok([pair.value[0] ?? 0, pair.value[1] ?? 0] as const)
      : { ok: false, problem: { ...pair.problem, message: `Line ${i + 1}: ${pair.problem.message}` } };
  });
}

/** Parted by spaces, tabs, semicolons, or commas that are followed by a space. */
function partsOf(text: string): readonly string[] {
  return text
    .trim()
    .split(/[\s;]+|,\s+/)
    .filter((part) => part !== '');
}

function all<T, V>(parts: readonly T[], read: (part: T, index: number) => Result<V>): Result<readonly V[]> {
  const values: V[] = [];
  for (const [i, part] of parts.entries()) {
    const value = read(part, i);
    if (!value.ok) return value;
    values.push(value.value);
  }
  return ok(values);
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
