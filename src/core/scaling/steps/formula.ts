/** A step that is an expression of x, in the language of calculated tags, without tags and without memory. */
import { checkExpression } from '../../expression/check.ts';
import { compile, Evaluation } from '../../expression/evaluate.ts';
import { FUNCTION_NAMED } from '../../expression/functions.ts';
import { parseExpression } from '../../expression/parse.ts';
import { partsOf } from '../../expression/tree.ts';
import { fail, ok, type Result } from '../../result.ts';
import { boundedCurve } from './curves.ts';
import type { Curve, StepRule } from './stepRule.ts';

export interface FormulaStep {
  readonly kind: 'formula';
  /** Of x. */
  readonly expression: string;
  /** Its inverse, of y; empty where it is found numerically. */
  readonly back: string;
  /** For which x it is meant. */
  readonly from: number;
  readonly to: number;
}

/** Points at which the way back is tried, and how far off it may lead, of the span. */
const TRIED = 64;
const OFF = 1e-6;

type Call = (x: number) => number;

/** The only name in an expression. */
function functionOf(expression: string, name: 'x' | 'y', place: 'expression' | 'back'): Result<Call> {
  const tree = parseExpression(expression, (parts) => (parts.length === 1 && parts[0]?.toLowerCase() === name ? name : null));
  if (!tree.ok)
    return fail(
      'scale-formula',
      tree.problem.message.replace(/There is no tag/, `Only ${name} stands for a value here, and there is no`),
      tree.problem.remedy,
      place,
    );
  for (const part of partsOf(tree.value)) {
    const spec = part.kind === 'call' ? FUNCTION_NAMED.get(part.name) : undefined;
    if (spec && (spec.remembers || spec.usesTime))
      return fail('scale-formula', `${spec.name} goes by what was before, and a scale by the value alone.`, 'Make a calculated tag of it.', place);
  }
  const checked = checkExpression(tree.value, () => ({ kind: 'number', unit: '', name }));
  if (!checked.ok) return { ok: false, problem: { ...checked.problem, place } };
  if (checked.value.kind !== 'number') return fail('scale-formula', 'The formula gives no number.', undefined, place);
  const evaluation = new Evaluation(compile(tree.value, { kind: 'number' }));
  const input = { value: 0, isDoubted: false };
  return ok((x) => {
    input.value = x;
    const outcome = evaluation.next([input], 0);
    return outcome.kind === 'value' && typeof outcome.value !== 'string' ? Number(outcome.value) : NaN;
  });
}

export const formula: StepRule<FormulaStep> = {
  title: 'Formula',
  formula: 'y = an expression of x',
  source: 'the language of calculated tags; the inverse is given, or found numerically where it only rises or only falls',
  check(step) {
    if (!Number.isFinite(step.from) || !Number.isFinite(step.to) || step.from >= step.to)
      return fail('scale-formula', 'It is meant for values from a smaller number to a larger one.', undefined, 'to');
    const forward = functionOf(step.expression, 'x', 'expression');
    if (!forward.ok) return forward;
    for (let i = 0; i <= TRIED; i++) {
      const x = step.from + ((step.to - step.from) * i) / TRIED;
      if (!Number.isFinite(forward.value(x)))
        return fail('scale-formula', `At ${x} the formula has no value.`, 'Choose values for which it is meant.', 'expression');
    }
    const back = step.back === '' ? null : functionOf(step.back, 'y', 'back');
    if (back === null) return ok(step);
    if (!back.ok) return back;
    for (let i = 0; i <= TRIED; i++) {
      const x = step.from + ((step.to - step.from) * i) / TRIED;
      const found = back.value(forward.value(x));
      if (!(Math.abs(found - x) <= OFF * (step.to - step.from)))
        return fail(
          'scale-formula',
          `The way back does not lead back: ${x} gives ${forward.value(x)}, and that leads to ${found}.`,
          'Correct it, or leave it empty.',
          'back',
        );
    }
    return ok(step);
  },
  worked: ({ expression }, x) => expression.replace(/(?<![\w.])x(?![\w.(])/gi, x),
  inWords: ({ expression }) => `y = ${expression.length > 40 ? `${expression.slice(0, 39)}…` : expression}`,
  curve({ expression, back, from, to }): Curve {
    const forward = functionOf(expression, 'x', 'expression');
    const value: Call = forward.ok ? forward.value : () => NaN;
    const curve = boundedCurve(value, from, to, 'the formula');
    const given = back === '' ? null : functionOf(back, 'y', 'back');
    return given?.ok ? { ...curve, back: given.value, inverse: 'unique', limits: `the formula is meant for ${from} to ${to}` } : curve;
  },
};
