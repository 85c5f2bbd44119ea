/**
 * Runs expressions. An expression is compiled to functions once, and cannot loop or reach anything but its inputs. Numbers
 * are doubles; whole numbers beyond 2^53 stay exact through + − × and comparisons.
 */
import type { Checked } from './check.ts';
import { FUNCTION_NAMED, narrow } from './functions.ts';
import { slotFor, type Slot } from './memory.ts';
import { partsOf, type BinaryOperator, type Node, type Value } from './tree.ts';

export interface Program extends Pick<Checked, 'kind'> {
  /** Ids of the tags that it uses, each once. */
  readonly inputs: readonly string[];
  /** Its result changes with time alone. */
  readonly usesTime: boolean;
  /** What it looks like in a digest. */
  readonly tree: Node;
  readonly run: Run;
  readonly slots: () => Slot[];
}

/** An input at one moment: a bad one has no value. */
export interface Input {
  readonly value: Value | null;
  readonly isDoubted: boolean;
}

export type Outcome =
  | { readonly kind: 'value'; readonly value: Value; /** The first input that is uncertain. */ readonly doubted: number | null }
  /** An input that it needed is bad. */
  | { readonly kind: 'input'; readonly input: number }
  /** There is no result of these values. */
  | { readonly kind: 'none'; readonly message: string };

interface Moment {
  inputs: readonly Input[];
  now: number;
  doubted: number | null;
  slots: Slot[];
  /** The evaluation before had no result. */
  afterGap: boolean;
}
type Run = (moment: Moment) => Value;

/** Thrown while evaluating; made once, since a device that is silent makes thousands fail. */
class NoValue extends Error {
  input: number | null = null;
  what = '';
}
const NONE = new NoValue();

function without(what: string): never {
  NONE.input = null;
  NONE.what = what;
  throw NONE;
}

/** Where a part of it has no number, nothing that is made of it has: a comparison with none would look like an answer. */
function finite(value: Value): Value {
  return typeof value !== 'number' || Number.isFinite(value)
    ? value
    : without(Number.isNaN(value) ? 'a part of it is no number' : 'a part of it is beyond any number');
}

export function compile(tree: Node, { kind }: Pick<Checked, 'kind'>): Program {
  const inputs: string[] = [];
  const makers: (() => Slot)[] = [];
  let usesTime = false;
  for (const part of partsOf(tree)) {
    if (part.kind === 'tag' && !inputs.includes(part.id)) inputs.push(part.id);
    if (part.kind === 'call' && FUNCTION_NAMED.get(part.name)?.usesTime) usesTime = true;
  }
  return { kind, inputs, usesTime, tree, run: compiled(tree), slots: () => makers.map((make) => make()) };

  function compiled(node: Node): Run {
    switch (node.kind) {
      case 'number':
      case 'text':
      case 'boolean': {
        const { value } = node;
        return () => value;
      }
      case 'tag':
        return inputAt(inputs.indexOf(node.id));
      case 'negative': {
        const of = compiled(node.of);
        return (moment) => {
          const value = of(moment);
          return typeof value === 'bigint' ? narrow(-value) : -Number(value);
        };
      }
      case 'not': {
        const of = compiled(node.of);
        return (moment) => of(moment) !== true;
      }
      case 'binary':
        return operation(node.operator, compiled(node.left), compiled(node.right));
      case 'call':
        return call(node);
    }
  }

  function call({ name, args }: Node & { readonly kind: 'call' }): Run {
    const spec = FUNCTION_NAMED.get(name);
    const [first, ...rest] = args;
    if (name === 'good' && first?.kind === 'tag') {
      const at = inputs.indexOf(first.id);
      return ({ inputs: now }) => now[at]?.value !== null && now[at]?.isDoubted === false;
    }
    const runs = args.map(compiled);
    if (name === 'if') {
      const [condition, yes, no] = runs as [Run, Run, Run];
      return (moment) => (condition(moment) === true ? yes(moment) : no(moment));
    }
    if (name === 'mux') {
      const [choice, ...branches] = runs as [Run, ...Run[]];
      return (moment) => (branches[Number(choice(moment))] ?? (() => without(`mux has no value for that number; it has ${rest.length}`)))(moment);
    }
    if (spec?.remembers) {
      const at = makers.push(() => slotFor(name)) - 1;
      return (moment) => {
        const values = runs.map((run) => run(moment));
        return moment.slots[at]?.next(values, moment.now, moment.afterGap) ?? without(`${name} has nothing to go by yet`);
      };
    }
    const run = spec?.run;
    if (!run) throw new Error(`No function ${name}: the tree was not checked.`);
    return (moment) => {
      const value = run(runs.map((each) => each(moment)));
      return value === null || Number.isNaN(value) ? without(`${name} has no result for these values`) : finite(value);
    };
  }
}

function inputAt(at: number): Run {
  return (moment) => {
    const input = moment.inputs[at];
    if (!input || input.value === null) {
      NONE.input = at;
      throw NONE;
    }
    if (input.isDoubted) moment.doubted ??= at;
    return input.value;
  };
}

function operation(operator: BinaryOperator, left: Run, right: Run): Run {
  switch (operator) {
    case 'and':
    case 'or':
    case 'xor':
      return (moment) => joined(operator, left(moment), right(moment));
    case '=':
      return (moment) => equals(left(moment), right(moment));
    case '<>':
      return (moment) => !equals(left(moment), right(moment));
    case '<':
      return (moment) => left(moment) < right(moment);
    case '<=':
      return (moment) => left(moment) <= right(moment);
    case '>':
      return (moment) => left(moment) > right(moment);
    case '>=':
      return (moment) => left(moment) >= right(moment);
    case '+':
      return arithmetic(
        left,
        right,
        (a, b) => a + b,
        (a, b) => a + b,
      );
    case '-':
      return arithmetic(
        left,
        right,
        (a, b) => a - b,
        (a, b) => a - b,
      );
    case '*':
      return arithmetic(
        left,
        right,
        (a, b) => a * b,
        (a, b) => a * b,
      );
    case '/':
      return (moment) => {
        const [a, b] = [left(moment), right(moment)];
        if (Number(b) === 0) without('it divides by 0');
        if (typeof a === 'bigint' && isWhole(b) && a % BigInt(b) === 0n) return narrow(a / BigInt(b));
        return finite(Number(a) / Number(b));
      };
    case 'mod':
      return (moment) => {
        const [a, b] = [left(moment), right(moment)];
        if (Number(b) === 0) without('it divides by 0');
        return isWhole(a) && isWhole(b) && (typeof a === 'bigint' || typeof b === 'bigint') ? narrow(BigInt(a) % BigInt(b)) : Number(a) % Number(b);
      };
    case '**':
      return (moment) => finite(Number(left(moment)) ** Number(right(moment)));
  }
}

function arithmetic(left: Run, right: Run, plain: (a: number, b: number) => number, wide: (a: bigint, b: bigint) => bigint): Run {
  return (moment) => {
    const [a, b] = [left(moment), right(moment)];
    if (typeof a === 'number' && typeof b === 'number') return finite(plain(a, b));
    return isWhole(a) && isWhole(b) ? narrow(wide(BigInt(a), BigInt(b))) : finite(plain(Number(a), Number(b)));
  };
}

/** A text equals a text alone; 2 of a 64-bit integer is 2. */
function equals(a: Value, b: Value): boolean {
  return typeof a === typeof b ? a === b : (typeof a === 'bigint' || typeof b === 'bigint') && a <= b && a >= b;
}

/** Conditions, or the bits of numbers: two's complement without end, so −1 and 255 is 255. */
function joined(operator: 'and' | 'or' | 'xor', a: Value, b: Value): Value {
  if (typeof a === 'boolean') return operator === 'and' ? a && b === true : operator === 'or' ? a || b === true : a !== b;
  if (!isWhole(a) || !isWhole(b)) return without('only whole numbers have bits');
  const [x, y] = [BigInt(a), BigInt(b)];
  return narrow(operator === 'and' ? x & y : operator === 'or' ? x | y : x ^ y);
}

function isWhole(value: Value): value is number | bigint {
  return typeof value === 'bigint' || (typeof value === 'number' && Number.isSafeInteger(value));
}

/** Goes through the moments of one expression, with what its functions keep from one to the next. */
export class Evaluation {
  readonly #program: Program;
  readonly #moment: Moment;

  constructor(program: Program) {
    this.#program = program;
    this.#moment = { inputs: [], now: 0, doubted: null, slots: program.slots(), afterGap: true };
  }

  /** @param inputs in the order of the program's. @param now in milliseconds, never less than before */
  next(inputs: readonly Input[], now: number): Outcome {
    const moment = this.#moment;
    moment.inputs = inputs;
    moment.now = now;
    moment.doubted = null;
    try {
      const value = this.#program.run(moment);
      moment.afterGap = false;
      return { kind: 'value', value, doubted: moment.doubted };
    } catch (error) {
      if (error !== NONE) throw error;
      moment.afterGap = true;
      return NONE.input === null ? { kind: 'none', message: `The expression has no result: ${NONE.what}.` } : { kind: 'input', input: NONE.input };
    }
  }
}
