/**
 * The two-way rule between a raw number and its engineering value: a chain of steps. What stands around it asks the chain,
 * and never looks into its steps.
 */
import { isDecimal, toDecimal, type Decimal } from '../value/decimal.ts';
import { asNumber, type EngValue } from '../value/engineering.ts';
import { fail, ok, type Problem, type Result } from '../result.ts';
import { parseNames, type ValueNames } from '../value/valueNames.ts';
import { signed } from './steps/signed.ts';
import { after, along, decimalsOf, inverted, numberAlong, wholeBefore, type Line } from './line.ts';
import { checkStep, ruleOf, type Step } from './step.ts';
import type { Curve, HealthMark, SignalHealth } from './steps/stepRule.ts';

/** A chain of no step, of one, or of several. Each has this one form, so that equal scales are equal as JSON. */
export type Scale = { readonly kind: 'none' } | Step | { readonly kind: 'chain'; readonly steps: readonly Step[] };

export const AS_IS: Scale = { kind: 'none' };
export const MOST_STEPS = 8;

export function stepsOf(scale: Scale): readonly Step[] {
  return scale.kind === 'none' ? [] : scale.kind === 'chain' ? scale.steps : [scale];
}

export function scaleOf(steps: readonly Step[]): Scale {
  const [first] = steps;
  return first === undefined ? AS_IS : steps.length === 1 ? first : { kind: 'chain', steps };
}

/** Says what is wrong with a scale, with the step (counted from 1) where there are several. */
export function checkScale(scale: Scale): Result<Scale> {
  if (scale.kind === 'chain' && scale.steps.length < 2) return fail('scale-chain', 'A chain has two steps at least.', 'Write the step alone.');
  if (stepsOf(scale).length > MOST_STEPS) return fail('scale-chain', `A scale has at most ${MOST_STEPS} steps.`);
  for (const [i, step] of stepsOf(scale).entries()) {
    const checked = checkStep(step);
    if (checked.ok) continue;
    const { message } = checked.problem;
    return { ok: false, problem: { ...checked.problem, message: scale.kind === 'chain' ? `Step ${i + 1}: ${message}` : message } };
  }
  if (
    stepsOf(scale)
      .slice(0, -1)
      .some(({ kind }) => kind === 'texts')
  )
    return fail('scale-texts', 'Texts stand for what all steps come to.', 'Make them the last step.');
  return ok(scale);
}

/** A scaled number, and whether digits were lost on the way (a 64-bit count beyond 53 bits on a curve, or on a line that does not end). */
export interface Scaled {
  /** NaN where the scale has none: {@link whyNone} says why. */
  readonly value: EngValue;
  readonly rounded: boolean;
  /** What the signal says of its health, where a step of it can tell. */
  readonly health?: SignalHealth;
}

/** What a scale says of itself. */
export interface ScaleTraits {
  /** Whether a wanted value leads to one raw value. */
  readonly inverse: 'unique' | 'chosen' | 'none';
  /** `exact`: no digit is lost. `rounded`: to the digits of a double. `approximate`: a curve between points, or of a sensor. */
  readonly exactness: 'exact' | 'rounded' | 'approximate';
  /** Where it has no value, or no way back, in words; empty where it always has both. */
  readonly limits: string;
}

/** A chain made ready: lines upon lines are one, and what can be counted in doubles without loss is. */
interface Chain extends ScaleTraits {
  /** Only a moved decimal point: its places are kept. */
  readonly exponent: number | null;
  /** The whole of it, where it is one straight line. */
  readonly line: ReadyLine | null;
  readonly parts: readonly (ReadyLine | Curve)[];
}

interface ReadyLine {
  readonly line: Line;
  /** As doubles; p is NaN where they are not exact. */
  readonly p: number;
  readonly q: number;
  readonly r: number;
  readonly back: Line;
}

const chains = new WeakMap<Scale, Chain>();

function chainOf(scale: Scale): Chain {
  let chain = chains.get(scale);
  if (!chain) chains.set(scale, (chain = made(stepsOf(scale))));
  return chain;
}

function made(steps: readonly Step[]): Chain {
  const parts: (ReadyLine | Curve)[] = [];
  let line: Line | null = null;
  for (const step of steps) {
    const rule = ruleOf(step.kind);
    const next = rule.line?.(step);
    if (next) line = line ? after(line, next) : next;
    else {
      if (line) parts.push(readyLine(line));
      line = null;
      const curve = rule.curve?.(step);
      if (curve) parts.push(curve);
    }
  }
  if (line) parts.push(readyLine(line));
  const curves = parts.filter(isCurve);
  const [first] = parts;
  return {
    exponent:
      steps.length > 0 && steps.every(({ kind }) => kind === 'power')
        ? steps.reduce((sum, step) => sum + (step as { exponent: number }).exponent, 0)
        : null,
    line: parts.length === 1 && first && !isCurve(first) ? first : null,
    parts,
    inverse: curves.some(({ inverse }) => inverse === 'none') ? 'none' : curves.some(({ inverse }) => inverse === 'chosen') ? 'chosen' : 'unique',
    exactness: curves.some(({ exactness }) => exactness === 'approximate')
      ? 'approximate'
      : parts.every((part) => isCurve(part) || decimalsOf(part.line) !== null)
        ? 'exact'
        : 'rounded',
    limits: curves.map(({ limits }) => limits).join('; '),
  };
}

function isCurve(part: ReadyLine | Curve): part is Curve {
  return 'forward' in part;
}

function readyLine(line: Line): ReadyLine {
  const [p, q, r] = [line.p, line.q, line.r].map(Number) as [number, number, number];
  const isExact = Number.isSafeInteger(p) && Number.isSafeInteger(q) && Number.isSafeInteger(r);
  return { line, p: isExact ? p : NaN, q, r, back: inverted(line) };
}

export function scaleTraits(scale: Scale): ScaleTraits {
  return chainOf(scale);
}

/** Raw number to engineering value. Booleans and texts are never scaled: the caller does not bring them here. */
export function toEngineering(scale: Scale, raw: number | bigint): Scaled {
  if (scale.kind === 'none') return { value: raw, rounded: false };
  const { exponent, line, parts } = chainOf(scale);
  if (exponent !== null)
    return typeof raw === 'bigint' || Number.isSafeInteger(raw)
      ? { value: { digits: BigInt(raw), exponent }, rounded: false }
      : { value: shiftedReal(raw, exponent), rounded: false };
  if (line && typeof raw === 'bigint') return wideAlong(line, raw);
  const rounded = typeof raw === 'bigint' && BigInt(Number(raw)) !== raw;
  let x = Number(raw);
  let health: SignalHealth | null = null;
  for (const part of parts) {
    if (isCurve(part) && part.health && health === null) health = part.health(x);
    x = isCurve(part) ? part.forward(x) : onLine(part, x);
  }
  return health ? { value: x, rounded, health } : { value: x, rounded };
}

/** The nearest double: of whole numbers that are counted without loss the one division rounds, once (IEEE 754). */
function onLine({ line, p, q, r }: ReadyLine, x: number): number {
  const over = p * x + q;
  if (Number.isInteger(x) ? Math.abs(over) <= Number.MAX_SAFE_INTEGER && Math.abs(p * x) <= Number.MAX_SAFE_INTEGER : !Number.isNaN(over))
    return over / r;
  return Number.isFinite(x) ? numberAlong(line, x) : x;
}

/** A count of 64 bits stays exact where its decimals end. */
function wideAlong({ line }: ReadyLine, raw: bigint): Scaled {
  const exact = along(line, raw);
  if (exact) return { value: exact.exponent === 0 ? exact.digits : exact, rounded: false };
  return { value: numberAlong(line, raw), rounded: !Number.isSafeInteger(Number(raw)) };
}

/** Why a raw number has no engineering value. */
export function whyNone(scale: Scale): Problem {
  const { limits } = chainOf(scale);
  return limits === ''
    ? { code: 'scale-overflow', message: 'The scaled value is beyond any number.', remedy: 'Check the points of the scale.' }
    : { code: 'scale-limits', message: `The scale has no value for it: ${limits}.`, remedy: 'Check the wiring, and what the scale is meant for.' };
}

/**
 * Engineering value to the raw number nearest to it.
 * @param whole true when the controller holds integers: the result is then a bigint, halves away from zero
 */
export function toRaw(scale: Scale, value: EngValue, whole: boolean): Result<number | bigint> {
  if (typeof value === 'boolean' || typeof value === 'string')
    return fail('unfit-value', 'A number is needed here.', 'Enter a number with a decimal point.');
  if (!Number.isFinite(asNumber(value))) return tooLarge();
  if (scale.kind === 'none') return whole ? ok(toWhole(value)) : ok(asNumber(value) ?? 0);
  const { exponent, line, parts, inverse, limits } = chainOf(scale);
  if (exponent !== null && !whole) return ok(shiftedReal(asNumber(value) ?? 0, -exponent));
  if (line) {
    if (whole) return ok(wholeBefore(line.line, value));
    if (Object.is(value, -0) && line.line.q === 0n) return ok(line.line.p < 0n ? 0 : -0);
    const raw = numberAlong(line.back, value);
    return Number.isFinite(raw) ? ok(raw) : tooLarge();
  }
  if (inverse === 'none')
    return fail('scale-inverse', `A value cannot be written back: ${limits}.`, 'Give the scale a way back, or only read the tag.');
  let x = asNumber(value) ?? 0;
  for (const part of [...parts].reverse()) x = isCurve(part) ? (part.back?.(x) ?? NaN) : onLine(readyLine(part.back), x);
  if (Number.isNaN(x)) return fail('scale-inverse', `No raw value gives that: ${limits}.`, 'Enter a value that the scale has.');
  if (!Number.isFinite(x)) return tooLarge();
  return ok(whole ? toWhole(x) : x);
}

/** How much one count is worth in engineering units, near a raw value; 0 where nothing changes there. */
export function countWorth(scale: Scale, raw: number): number {
  const at = (x: number): number => asNumber(toEngineering(scale, x).value) ?? NaN;
  const { line } = chainOf(scale);
  if (scale.kind === 'none') return 1;
  if (line) return Math.abs(numberAlong({ ...line.line, q: 0n }, 1));
  const here = at(raw);
  const [up, down] = [Math.abs(at(raw + 1) - here), Math.abs(here - at(raw - 1))];
  return Number.isNaN(up) ? (Number.isNaN(down) ? 0 : down) : Number.isNaN(down) ? up : Math.max(up, down);
}

/** Names that its last step gives to what it comes to; none for most. */
export function textsOf(scale: Scale): ValueNames {
  const last = stepsOf(scale).at(-1);
  const names = last?.kind === 'texts' ? parseNames(last.names) : null;
  return names?.ok ? names.value : [];
}

/** The unit that its steps lead to; null where they do not say. What only cuts or names a value leaves its unit. */
export function unitGiven(scale: Scale): string | null {
  const last = stepsOf(scale).findLast(({ kind }) => kind !== 'clamp' && kind !== 'modulus' && kind !== 'texts');
  return last ? (ruleOf(last.kind).gives?.(last) ?? null) : null;
}

/** What a raw value comes to, step by step, each with its formula in the numbers at hand. */
export function workedOut(scale: Scale, raw: number): readonly { readonly formula: string; readonly value: number }[] {
  let x = raw;
  return stepsOf(scale).map((step) => {
    const formula = ruleOf(step.kind).worked(step, signed(short(x)));
    x = asNumber(toEngineering(step, x).value) ?? NaN;
    return { formula, value: short(x) };
  });
}

/** Without what a double leaves behind its 12th digit. */
function short(value: number): number {
  return Number.isInteger(value) ? value : Number(value.toPrecision(12));
}

/** Raw values at which the signal begins to tell of its own health, where a step of it can tell. */
export function healthMarks(scale: Scale): readonly (Omit<HealthMark, 'x'> & { readonly raw: number })[] {
  const { parts } = chainOf(scale);
  const at = parts.findIndex((part) => isCurve(part) && part.marks);
  const teller = parts[at];
  if (!teller || !isCurve(teller)) return [];
  const back = (x: number): number =>
    parts.slice(0, at).reduceRight((y, part) => (isCurve(part) ? (part.back?.(y) ?? NaN) : onLine(readyLine(part.back), y)), x);
  return (teller.marks ?? []).flatMap(({ x, what, isFault }) => (Number.isFinite(back(x)) ? [{ raw: back(x), what, isFault }] : []));
}

/** Which faults of a loop the counts between two ends can show; null for a scale that tells none. */
export function faultsShown(scale: Scale, least: number, most: number): { readonly broken: boolean; readonly short: boolean } | null {
  if (!chainOf(scale).parts.some((part) => isCurve(part) && part.health)) return null;
  const told = [least, most].map((raw) => toEngineering(scale, raw).health?.reason);
  return { broken: told.includes('broken-wire'), short: told.includes('short-circuit') };
}

/** Only a decimal point is moved, by so many places; null for any other scale. 0 for none. */
export function pointMoved(scale: Scale): number | null {
  return scale.kind === 'none' ? 0 : chainOf(scale).exponent;
}

/** A scale whose engineering values are a power of ten larger or smaller. */
export function timesTen(scale: Scale, exponent: number): Scale {
  const moved = pointMoved(scale);
  if (moved !== null) return moved + exponent === 0 ? AS_IS : { kind: 'power', exponent: moved + exponent };
  const steps = stepsOf(scale);
  const last = steps.at(-1);
  if (last?.kind === 'linear')
    return scaleOf([...steps.slice(0, -1), { ...last, engA: shiftedReal(last.engA, exponent), engB: shiftedReal(last.engB, exponent) }]);
  if (last?.kind === 'power') return timesTen(scaleOf(steps.slice(0, -1)), last.exponent + exponent);
  return scaleOf(exponent === 0 ? steps : [...steps, { kind: 'power', exponent }]);
}

/** Raw values between which it is drawn: those of its first step, where that says some. */
export function drawnSpan(scale: Scale): readonly [low: number, high: number] | null {
  const [first] = stepsOf(scale);
  switch (first?.kind) {
    case 'linear':
      return [Math.min(first.rawA, first.rawB), Math.max(first.rawA, first.rawB)];
    case 'table':
      return [first.points[0]?.[0] ?? 0, first.points.at(-1)?.[0] ?? 0];
    case 'root':
      return [Math.min(first.zero, first.span), Math.max(first.zero, first.span)];
    case 'polynomial':
    case 'formula':
      return [first.from, first.to];
    default:
      return null;
  }
}

/** In a phrase, step by step. */
export function scalePhrase(scale: Scale): string {
  const steps = stepsOf(scale);
  return steps.length === 0 ? 'no scale' : steps.map((step) => ruleOf(step.kind).inWords(step)).join(', then ');
}

/** The numbers of a scale as they are part of a digest; those of one step are what they always were. */
export function scaleParts(scale: Scale): readonly unknown[] {
  if (scale.kind === 'linear') return [scale.rawA, scale.engA, scale.rawB, scale.engB];
  if (scale.kind === 'power') return [scale.exponent];
  return stepsOf(scale).map((step) => Object.entries(step).sort(([a], [b]) => (a < b ? -1 : 1)));
}

/** By its decimal text, so that tenths are counted in tenths: 0.7 in tenths is 0.07. */
function shiftedReal(value: number, by: number): number {
  const [digits = '', exponent = '0'] = value.toExponential().split('e');
  return Object.is(value, -0) ? value : Number(`${digits}e${Number(exponent) + by}`);
}

function tooLarge(): Result<never> {
  return fail('unfit-value', 'The number is beyond what can be counted with here.', 'Enter a smaller number.');
}

/** To a whole number, halves away from zero. */
function toWhole(value: number | bigint | Decimal): bigint {
  if (typeof value === 'bigint') return value;
  const { digits, exponent } = isDecimal(value) ? value : toDecimal(value);
  if (exponent >= 0) return digits * 10n ** BigInt(exponent);
  const unit = 10n ** BigInt(-exponent);
  return digits < 0n ? -((-digits + unit / 2n) / unit) : (digits + unit / 2n) / unit;
}
