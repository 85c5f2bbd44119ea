/** Expressions of elements: what they come to, with the values of tags at hand. */
import { checkExpression } from '../expression/check.ts';
import { compile, Evaluation, type Input, type Outcome, type Program } from '../expression/evaluate.ts';
import { parseExpression } from '../expression/parse.ts';
import { KIND_WORDS, type ValueKind } from '../expression/tree.ts';
import { fail, ok, type Result } from '../result.ts';
import type { DataType } from '../value/dataType.ts';
import type { SceneTag } from './scene.ts';

export interface Formula {
  readonly program: Program;
  readonly unit: string | null;
  readonly doubts: readonly string[];
}

/** @param wanted the kind of value that is asked for; null for any */
export function formulaOf(expression: string, wanted: ValueKind | null, tag: (id: string) => SceneTag | null): Result<Formula> {
  const tree = parseExpression(expression, () => null);
  if (!tree.ok) return tree;
  const checked = checkExpression(tree.value, (id) => {
    const found = tag(id);
    return found && { kind: found.def && kindOf(found.def.type), unit: found.def?.unit ?? '', name: found.name };
  });
  if (!checked.ok) return checked;
  const { kind, unit, doubts } = checked.value;
  if (wanted !== null && kind !== null && kind !== wanted)
    return fail(
      'expression-type',
      `The expression gives ${KIND_WORDS[kind]}, and ${KIND_WORDS[wanted]} is asked for.`,
      wanted === 'boolean' ? 'Compare it with something: level > 80.' : undefined,
    );
  return ok({ program: compile(tree.value, { kind }), unit, doubts: doubts.map(({ message }) => message) });
}

export function kindOf(type: DataType): ValueKind {
  return type.kind === 'boolean' ? 'boolean' : type.kind === 'text' ? 'text' : 'number';
}

/** A formula in use: it keeps what its functions remember. */
export class RunningFormula {
  readonly formula: Formula;
  readonly #evaluation: Evaluation;
  #last = 0;

  constructor(formula: Formula) {
    this.formula = formula;
    this.#evaluation = new Evaluation(formula.program);
  }

  /** @param inputOf the value of a tag in its own unit, null value where it is bad. @param now in milliseconds */
  next(inputOf: (tagId: string) => Input, now: number): Outcome {
    this.#last = Math.max(this.#last, now);
    return this.#evaluation.next(this.formula.program.inputs.map(inputOf), this.#last);
  }
}
