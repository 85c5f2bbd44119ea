/** Between the texts of the scale form and the scale, unit, decimals, ranges and limits that they mean. */
import type { SharedScale, Tag, TagScale } from '@/core/project/entities.ts';
import { checkLimits, LIMIT_KEYS, type LimitKey, type Limits } from '@/core/ranges/limits.ts';
import type { Range } from '@/core/ranges/range.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import { checkScale, scaleOf, stepsOf, unitGiven, type Scale } from '@/core/scaling/scale.ts';
import { checkStep, type Step, type StepKind } from '@/core/scaling/step.ts';
import { unitRelation } from '@/core/units/unitLine.ts';
import { decimalNumber, parseDecimal } from '@/core/value/decimal.ts';
import { STEP_FIELDS, type StepField } from './stepFields.ts';

/** One step as it is typed. */
export interface StepForm {
  readonly kind: StepKind;
  readonly fields: Readonly<Record<string, string>>;
}

/** What is typed of a scale, whoever has it. */
export interface RuleForm {
  readonly steps: readonly StepForm[];
  readonly unit: string;
  readonly decimals: string;
}

/** Texts of ranges and limits. `low` and `high` are the expected ends, `delay` is in seconds. */
export type RangeField =
  | ('rawLow' | 'rawHigh' | 'displayLow' | 'displayHigh' | 'low' | 'high')
  | ('lowLow' | 'limitLow' | 'limitHigh' | 'highHigh' | 'hysteresis' | 'delay');
export type RangesForm = Readonly<Record<RangeField, string>>;

export interface ScaleForm extends RuleForm {
  /** The shared scale that it goes by; null for one of its own. */
  readonly sharedId: string | null;
  readonly ranges: RangesForm;
}

export interface RuleSettings {
  readonly scale: Scale;
  readonly unit: string;
  readonly decimals: number | null;
}

export interface RangeSettings {
  readonly range: Range | null;
  readonly rawRange: Range | null;
  readonly display: Range | null;
  readonly limits: Limits | null;
}

export type ScaleSettings = RuleSettings & RangeSettings;

/** What the field of each limit is called in the form. */
export const LIMIT_FIELDS: Readonly<Record<LimitKey, RangeField>> = {
  lowLow: 'lowLow',
  low: 'limitLow',
  high: 'limitHigh',
  highHigh: 'highHigh',
};

export function formOf(tag: Tag, scale: TagScale | null): ScaleForm {
  const { rawRange, displayRange, limits } = tag;
  return {
    ...ruleForm(scale?.scale ?? null, tag),
    sharedId: scale?.sharedId ?? null,
    ranges: {
      rawLow: maybe(rawRange?.low),
      rawHigh: maybe(rawRange?.high),
      displayLow: maybe(displayRange?.low),
      displayHigh: maybe(displayRange?.high),
      low: maybe(tag.rangeLow),
      high: maybe(tag.rangeHigh),
      lowLow: maybe(limits?.lowLow),
      limitLow: maybe(limits?.low),
      limitHigh: maybe(limits?.high),
      highHigh: maybe(limits?.highHigh),
      hysteresis: maybe(limits?.hysteresis || null),
      delay: maybe(limits && limits.delayMs > 0 ? limits.delayMs / 1000 : null),
    },
  };
}

export function ruleForm(scale: Scale | null, { unit, decimals }: Pick<SharedScale, 'unit' | 'decimals'>): RuleForm {
  return { steps: scale === null ? [] : stepsOf(scale).map(stepForm), unit, decimals: maybe(decimals) };
}

function maybe(value: number | null | undefined): string {
  return value === null || value === undefined ? '' : String(value);
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
  if (value === undefined) return '';
  if (form === 'pairs') return (value as readonly (readonly number[])[]).map((pair) => pair.join('\t')).join('\n');
  return form === 'numbers' ? (value as readonly number[]).join(' ') : typeof value === 'string' ? value : String(Number(value));
}

/** Refuses at the field that is wrong; its name is the place, with the number of the step before it: `0.rawA`. */
export function readForm(form: ScaleForm): Result<ScaleSettings> {
  const rule = readRule(form);
  if (!rule.ok) return rule;
  const ranges = readRanges(form.ranges);
  return ranges.ok ? ok({ ...rule.value, ...ranges.value }) : ranges;
}

export function readRule(form: RuleForm): Result<RuleSettings> {
  const scale = readScale(form);
  if (!scale.ok) return scale;
  const decimals = form.decimals.trim() === '' ? ok(null) : number(form.decimals, 'decimals');
  if (!decimals.ok) return decimals;
  if (decimals.value !== null && (!Number.isInteger(decimals.value) || decimals.value < 0 || decimals.value > 12))
    return fail('decimals', 'Decimals are 0 to 12.', undefined, 'decimals');
  const unit = form.unit.trim();
  const given = unitGiven(scale.value);
  if (given !== null && unit !== '' && ['converts', 'clash'].includes(unitRelation(given, unit)))
    return fail('scale-unit', `The scale comes to ${given}, so its numbers are no ${unit}.`, `Write ${given}, or add the step to ${unit}.`, 'unit');
  return ok({ scale: scale.value, unit, decimals: decimals.value });
}

export function readRanges(form: RangesForm): Result<RangeSettings> {
  const range = readRange(form, 'low', 'high');
  if (!range.ok) return range;
  const rawRange = readRange(form, 'rawLow', 'rawHigh');
  if (!rawRange.ok) return rawRange;
  const display = readRange(form, 'displayLow', 'displayHigh');
  if (!display.ok) return display;
  const limits = readLimits(form);
  return limits.ok ? ok({ range: range.value, rawRange: rawRange.value, display: display.value, limits: limits.value }) : limits;
}

function readRange(form: RangesForm, from: RangeField, to: RangeField): Result<Range | null> {
  const [hasLow, hasHigh] = [form[from].trim() !== '', form[to].trim() !== ''];
  if (!hasLow && !hasHigh) return ok(null);
  if (hasLow !== hasHigh) return fail('range', 'A range needs both ends, or neither.', undefined, hasLow ? to : from);
  const [low, high] = [number(form[from], from), number(form[to], to)];
  if (!low.ok) return low;
  if (!high.ok) return high;
  return low.value < high.value ? ok({ low: low.value, high: high.value }) : fail('range', 'The range must end above its beginning.', undefined, to);
}

function readLimits(form: RangesForm): Result<Limits | null> {
  const limits: Record<LimitKey, number | null> = { lowLow: null, low: null, high: null, highHigh: null };
  for (const key of LIMIT_KEYS) {
    const field = LIMIT_FIELDS[key];
    if (form[field].trim() === '') continue;
    const value = number(form[field], field);
    if (!value.ok) return value;
    limits[key] = value.value;
  }
  const hysteresis = form.hysteresis.trim() === '' ? ok(0) : number(form.hysteresis, 'hysteresis');
  if (!hysteresis.ok) return hysteresis;
  const delay = form.delay.trim() === '' ? ok(0) : number(form.delay, 'delay');
  if (!delay.ok) return delay;
  if (LIMIT_KEYS.every((key) => limits[key] === null)) {
    const alone = form.hysteresis.trim() !== '' ? 'hysteresis' : form.delay.trim() !== '' ? 'delay' : null;
    return alone === null ? ok(null) : fail('limits', 'There is no limit that it could belong to.', 'Give a limit, or leave it empty.', alone);
  }
  const checked = checkLimits({ ...limits, hysteresis: hysteresis.value, delayMs: Math.round(delay.value * 1000) });
  if (checked.ok) return checked;
  const { place = '' } = checked.problem;
  const field = place === 'delayMs' ? 'delay' : (LIMIT_FIELDS[place as LimitKey] ?? place);
  return { ok: false, problem: { ...checked.problem, place: field } };
}

function readScale({ steps }: RuleForm): Result<Scale> {
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
    if (field.isOptional && (fields[field.key] ?? '').trim() === '') continue;
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
