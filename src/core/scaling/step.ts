/** All kinds of steps. Adding one is a rule and a line here. */
import { CONTROL_CHARACTER } from '../patterns.ts';
import { fail, ok, type Result } from '../result.ts';
import {
  clamp,
  modulus,
  polynomial,
  root,
  table,
  type ClampStep,
  type ModulusStep,
  type PolynomialStep,
  type RootStep,
  type TableStep,
} from './steps/curves.ts';
import { formula, type FormulaStep } from './steps/formula.ts';
import {
  duration,
  gain,
  linear,
  power,
  texts,
  unit,
  type DurationStep,
  type GainStep,
  type LinearStep,
  type PowerStep,
  type TextsStep,
  type UnitStep,
} from './steps/lines.ts';
import { current, platinum, thermocouple, type CurrentStep, type PlatinumStep, type ThermocoupleStep } from './steps/sensors.ts';
import type { StepRule } from './steps/stepRule.ts';

export type Step =
  | LinearStep
  | GainStep
  | PowerStep
  | DurationStep
  | UnitStep
  | TableStep
  | RootStep
  | CurrentStep
  | PolynomialStep
  | FormulaStep
  | ThermocoupleStep
  | PlatinumStep
  | ModulusStep
  | ClampStep
  | TextsStep;
export type StepKind = Step['kind'];

type Rules = { readonly [K in StepKind]: StepRule<Extract<Step, { readonly kind: K }>> };
const RULES: Rules = {
  ...{ linear, gain, power, duration, unit, table, current, root, polynomial },
  ...{ formula, thermocouple, platinum, modulus, clamp, texts },
};

/** In the order in which they are offered. */
export const STEP_KINDS = Object.keys(RULES) as readonly StepKind[];

export function ruleOf(kind: StepKind): StepRule<Step> {
  return RULES[kind];
}

/** With a question mark: it may be left away. */
type Shape = Readonly<Record<string, 'number' | 'number?' | 'text' | 'longText' | 'numbers' | 'pairs'>>;

/** The fields of each kind, for what comes from outside. */
const SHAPES: Readonly<Record<StepKind, Shape>> = {
  linear: { rawA: 'number', engA: 'number', rawB: 'number', engB: 'number' },
  gain: { gain: 'number', offset: 'number' },
  power: { exponent: 'number' },
  duration: { from: 'text', to: 'text' },
  unit: { from: 'text', to: 'text' },
  table: { points: 'pairs', ends: 'text' },
  current: {},
  root: { zero: 'number', span: 'number', full: 'number', cut: 'number' },
  polynomial: { terms: 'numbers', from: 'number', to: 'number' },
  formula: { expression: 'text', back: 'text', from: 'number', to: 'number' },
  thermocouple: { type: 'text', reference: 'number' },
  platinum: { r0: 'number' },
  modulus: { by: 'number', from: 'number?' },
  clamp: { low: 'number', high: 'number' },
  texts: { names: 'longText' },
};

/** Whether something from outside has the form of a step. What its settings mean is looked at by {@link checkStep}. */
export function isStep(value: unknown): value is Step {
  if (typeof value !== 'object' || value === null || !('kind' in value) || typeof value.kind !== 'string' || !Object.hasOwn(SHAPES, value.kind))
    return false;
  const shape = SHAPES[value.kind as StepKind];
  const fields = value as Readonly<Record<string, unknown>>;
  return (
    Object.keys(fields).every((name) => name === 'kind' || Object.hasOwn(shape, name)) &&
    Object.entries(shape).every(([name, form]) => (Object.hasOwn(fields, name) ? hasForm(fields[name], form) : form === 'number?'))
  );
}

const MOST_NUMBERS = 1000;
const MOST_CHARACTERS = 400;
/** Two hundred names of sixty characters. */
const MOST_OF_NAMES = 16_000;

function hasForm(value: unknown, form: Shape[string]): boolean {
  switch (form) {
    case 'number':
    case 'number?':
      return typeof value === 'number';
    case 'longText':
      return typeof value === 'string' && value.length <= MOST_OF_NAMES && !CONTROL_CHARACTER.test(value);
    case 'text':
      return typeof value === 'string' && value.length <= MOST_CHARACTERS && !CONTROL_CHARACTER.test(value);
    case 'numbers':
      return Array.isArray(value) && value.length <= MOST_NUMBERS && value.every((n) => typeof n === 'number');
    case 'pairs':
      return (
        Array.isArray(value) &&
        value.length <= MOST_NUMBERS &&
        value.every((pair) => Array.isArray(pair) && pair.length === 2 && pair.every((n) => typeof n === 'number'))
      );
  }
}

export function checkStep(step: Step): Result<Step> {
  if (step.kind === 'table' && !['none', 'hold', 'extend'].includes(step.ends))
    return fail('scale-table', 'What lies outside a table has no value, is held, or goes on.', undefined, 'ends');
  const checked = ruleOf(step.kind).check(step);
  return checked.ok ? ok(step) : checked;
}
