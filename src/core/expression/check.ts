/** What kind of value an expression gives, before it runs; what in it cannot be, and what is doubtful about its units. */
import { ok, type Result } from '../result.ts';
import { FUNCTION_NAMED } from './functions.ts';
import { conversionText, unitRelation } from '../units/unitLine.ts';
import { unitOfSum } from '../units/temperatures.ts';
import { mistake, type ExpressionProblem } from './tokens.ts';
import { KIND_WORDS, partsOf, type Node, type ValueKind } from './tree.ts';

/** What is known of a tag that an expression uses; `kind` is null where its own settings do not fit together. */
export interface InputFacts {
  readonly kind: ValueKind | null;
  readonly unit: string;
  readonly name: string;
}

export interface Checked {
  /** Null where a tag whose kind is unknown decides it. */
  readonly kind: ValueKind | null;
  /** The unit of its result; null where that is not known, such as of a product. */
  readonly unit: string | null;
  readonly doubts: readonly ExpressionProblem[];
}

/** Values of many tags beside each other are still read by a person. */
export const MOST_PARTS = 500;

interface Seen {
  readonly kind: ValueKind | null;
  /** Null: any, as of a plain number. */
  readonly unit: string | null;
  readonly isPlain: boolean;
}

class Stop extends Error {
  readonly stopped: ReturnType<typeof mistake>;
  constructor(stopped: ReturnType<typeof mistake>) {
    super(stopped.problem.message);
    this.stopped = stopped;
  }
}

/** @param factsOf what is known of a tag, null for one that is gone */
export function checkExpression(tree: Node, factsOf: (id: string) => InputFacts | null): Result<Checked> {
  const doubts: ExpressionProblem[] = [];
  let parts = 0;
  for (const _ of partsOf(tree)) parts++;
  if (parts > MOST_PARTS)
    return mistake(
      `The expression has ${parts} parts, and at most ${MOST_PARTS} are taken.`,
      'Make calculated tags of some of it.',
      tree.from,
      tree.to,
    );
  try {
    const { kind, unit, isPlain } = see(tree, false);
    return ok({ kind, unit: isPlain ? null : unit, doubts });
  } catch (error) {
    if (error instanceof Stop) return error.stopped;
    throw error;
  }

  function see(node: Node, isBranch: boolean): Seen {
    switch (node.kind) {
      case 'number':
        return { kind: 'number', unit: null, isPlain: true };
      case 'text':
        return { kind: 'text', unit: null, isPlain: true };
      case 'boolean':
        return { kind: 'boolean', unit: null, isPlain: true };
      case 'tag': {
        const facts = factsOf(node.id);
        if (!facts) return stop('A tag that it uses is no longer there.', 'Name another one, or undo its removal.', node);
        return { kind: facts.kind, unit: facts.unit, isPlain: false };
      }
      case 'negative': {
        const of = wanted(node.of, 'number', '−', isBranch);
        return { kind: 'number', unit: of.unit, isPlain: of.isPlain };
      }
      case 'not':
        wanted(node.of, 'boolean', 'not', isBranch);
        return { kind: 'boolean', unit: '', isPlain: false };
      case 'binary':
        return binary(node, isBranch);
      case 'call':
        return call(node, isBranch);
    }
  }

  function wanted(node: Node, kind: ValueKind, by: string, isBranch: boolean): Seen {
    const seen = see(node, isBranch);
    if (seen.kind !== null && seen.kind !== kind)
      stop(`“${by}” needs ${KIND_WORDS[kind]}, and this is ${KIND_WORDS[seen.kind]}.`, hintFor(kind, seen.kind), node);
    return seen;
  }

  function binary(node: Node & { readonly kind: 'binary' }, isBranch: boolean): Seen {
    const { operator, left, right } = node;
    switch (operator) {
      case 'and':
      case 'or':
      case 'xor': {
        const [a, b] = [see(left, isBranch), see(right, isBranch)];
        if (a.kind === 'text' || b.kind === 'text')
          stop(`“${operator}” joins conditions, or the bits of numbers; this is a text.`, undefined, a.kind === 'text' ? left : right);
        if (a.kind !== null && b.kind !== null && a.kind !== b.kind)
          stop(`“${operator}” has ${KIND_WORDS[a.kind]} before it and ${KIND_WORDS[b.kind]} behind it.`, 'Compare the number, as in x > 0.', node);
        return { kind: a.kind ?? b.kind, unit: '', isPlain: false };
      }
      case '=':
      case '<>':
      case '<':
      case '<=':
      case '>':
      case '>=': {
        const [a, b] = [see(left, isBranch), see(right, isBranch)];
        if (a.kind !== null && b.kind !== null && a.kind !== b.kind)
          stop(`${KIND_WORDS[a.kind]} cannot be compared with ${KIND_WORDS[b.kind]}.`, hintFor(a.kind, b.kind), node);
        if (operator !== '=' && operator !== '<>' && (a.kind === 'boolean' || b.kind === 'boolean'))
          stop('On and off have no order.', 'Use = or <>.', node);
        sameUnit(a, b, node, 'compares');
        return { kind: 'boolean', unit: '', isPlain: false };
      }
      case '+':
      case '-': {
        const [a, b] = [wanted(left, 'number', operator, isBranch), wanted(right, 'number', operator, isBranch)];
        const unit = unitOfSum(operator, a.unit, b.unit);
        if (unit === undefined) sameUnit(a, b, node, operator === '+' ? 'adds' : 'subtracts');
        return { kind: 'number', unit: unit === undefined ? (a.unit ?? b.unit) : unit, isPlain: a.isPlain && b.isPlain };
      }
      default: {
        const [a, b] = [wanted(left, 'number', operator, isBranch), wanted(right, 'number', operator, isBranch)];
        if (operator === '/' && right.kind === 'number' && Number(right.value) === 0) stop('Nothing can be divided by 0.', undefined, right);
        return { kind: 'number', unit: null, isPlain: a.isPlain && b.isPlain };
      }
    }
  }

  function call(node: Node & { readonly kind: 'call' }, isBranch: boolean): Seen {
    const spec = FUNCTION_NAMED.get(node.name);
    if (!spec) return stop(`There is no function “${node.name}”.`, undefined, node);
    if (spec.remembers && isBranch)
      stop(
        `${node.name} keeps what it has seen, so it must see every moment: it cannot stand where only one of several is calculated.`,
        'Make a calculated tag of it.',
        node,
      );
    const lazyFrom = spec.name === 'if' || spec.name === 'mux' ? 1 : Infinity;
    let same: Seen | null = null;
    node.args.forEach((arg, i) => {
      const kind = spec.args[Math.min(i, spec.args.length - 1)] ?? 'any';
      const inBranch = isBranch || i >= lazyFrom;
      if (kind === 'any') see(arg, inBranch);
      else if (kind !== 'same') wanted(arg, kind, node.name, inBranch);
      else {
        const seen = see(arg, inBranch);
        if (same?.kind && seen.kind && same.kind !== seen.kind)
          stop(`“${node.name}” gives ${KIND_WORDS[same.kind]} here and ${KIND_WORDS[seen.kind]} there.`, hintFor(same.kind, seen.kind), arg);
        if (same) sameUnit(same, seen, node, 'chooses between');
        same = { kind: same?.kind ?? seen.kind, unit: same?.unit ?? seen.unit, isPlain: (same?.isPlain ?? true) && seen.isPlain };
      }
    });
    if (spec.name === 'good' && node.args[0]?.kind !== 'tag') stop('good(x) asks for the quality of a tag.', 'Write good(KILN.temp).', node);
    const keeps = ['abs', 'min', 'max', 'limit', 'round', 'floor', 'ceil', 'trunc', 'average', 'previous'].includes(spec.name);
    const first = node.args[0] && keeps && same === null ? quiet(node.args[0]) : null;
    const unit = (same as Seen | null)?.unit ?? first?.unit ?? (spec.result === 'number' ? null : '');
    const kind = spec.result === 'same' ? ((same as Seen | null)?.kind ?? null) : spec.result;
    return { kind, unit: spec.unit ?? (keeps || same ? unit : spec.result === 'number' ? null : ''), isPlain: false };
  }

  /** The unit of a part that was seen already. */
  function quiet(node: Node): Seen {
    const { length } = doubts;
    const seen = see(node, false);
    doubts.length = length;
    return seen;
  }

  function sameUnit(a: Seen, b: Seen, node: Node, what: string): void {
    if (a.unit === null || b.unit === null || a.unit === '' || b.unit === '') return;
    const relation = unitRelation(a.unit, b.unit);
    if (relation === 'same') return;
    const remedy = relation === 'converts' ? `Convert one of them: ${conversionText(b.unit, a.unit)}.` : 'Convert one of them, if that is not meant.';
    const told = mistake(`It ${what} ${a.unit} and ${b.unit}.`, remedy, node.from, node.to);
    doubts.push({ ...told.problem, code: 'units' });
  }

  function stop(message: string, remedy: string | undefined, { from, to }: Node): never {
    throw new Stop(mistake(message.charAt(0).toUpperCase() + message.slice(1), remedy, from, to));
  }
}

function hintFor(one: ValueKind, other: ValueKind): string | undefined {
  const kinds = new Set([one, other]);
  if (kinds.has('text'))
    return kinds.has('number') ? 'text(x) makes a text of a number, number(t) a number of a text.' : 'text(x) makes a text of it.';
  return 'x > 0 makes a condition of a number, if(condition, 1, 0) a number of a condition.';
}
