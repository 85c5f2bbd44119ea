/**
 * Reads an expression. Precedence from loose to tight: or, xor, and, = <>, < <= > >=, + −, × / mod, not and −, **. Where
 * editions of IEC 61131-3 differ (−2 ** 2, 2 ** 3 ** 2) brackets are asked for.
 */
import { ok, type Result } from '../result.ts';
import { FUNCTION_NAMED, MEANT } from './functions.ts';
import { mistake, tokensOf, type Token } from './tokens.ts';
import type { BinaryOperator, Node, Span } from './tree.ts';

/** The id of the tag that a path names, or null. */
export type Resolve = (parts: readonly string[]) => string | null;

const DEEPEST = 60;
const LEVELS: readonly (readonly BinaryOperator[])[] = [['or'], ['xor'], ['and'], ['=', '<>'], ['<', '<=', '>', '>='], ['+', '-'], ['*', '/', 'mod']];
const WORDS: ReadonlySet<string> = new Set(['or', 'xor', 'and', 'mod', 'not', 'on', 'off', 'true', 'false']);
/** Signs of other languages, and what is meant here. */
const SIGN_FOR: Readonly<Record<string, string>> = { '==': '=', '!=': '<>', '^': '**' };
const FOREIGN: Readonly<Record<string, string>> = {
  '&': 'Write “and” for conditions, concat(a, b) for texts.',
  '%': 'Write “mod” for the rest of a division.',
  '|': 'Write “or”.',
  '!': 'Write “not”.',
  ';': 'An expression is one value, without a semicolon.',
  '?': 'Write if(condition, a, b).',
  ':': 'Write if(condition, a, b).',
};

/** Thrown inside this file alone. */
class Stop extends Error {
  readonly stopped: ReturnType<typeof mistake>;
  constructor(stopped: ReturnType<typeof mistake>) {
    super(stopped.problem.message);
    this.stopped = stopped;
  }
}

/**
 * @param resolve what paths name; a stored expression has ids alone
 * @returns the tree, or the first mistake with its place in the text
 */
export function parseExpression(text: string, resolve: Resolve): Result<Node> {
  const tokens = tokensOf(text);
  if (!tokens.ok) return tokens;
  try {
    return ok(new Reader(tokens.value, text.length, resolve).whole());
  } catch (error) {
    if (error instanceof Stop) return error.stopped;
    throw error;
  }
}

class Reader {
  readonly #tokens: readonly Token[];
  readonly #end: number;
  readonly #resolve: Resolve;
  readonly #bracketed = new Set<Node>();
  #at = 0;
  #depth = 0;

  constructor(tokens: readonly Token[], end: number, resolve: Resolve) {
    this.#tokens = tokens;
    this.#end = end;
    this.#resolve = resolve;
  }

  whole(): Node {
    if (this.#tokens.length === 0) this.#stop('There is no expression yet.', 'Name a tag, such as KILN.temp, and what to do with it.');
    const node = this.#binary(0);
    const more = this.#tokens[this.#at];
    if (more) this.#unexpected(more);
    return node;
  }

  #binary(level: number): Node {
    const operators = LEVELS[level];
    if (!operators) return this.#unary();
    if (++this.#depth > DEEPEST * LEVELS.length) this.#stop(`Brackets stand at most ${DEEPEST} deep.`, 'Make a calculated tag of a part of it.');
    let left = this.#binary(level + 1);
    for (let count = 0; ; count++) {
      const operator = this.#operator();
      if (!operator || !operators.includes(operator)) break;
      if (count > 0 && (level === 3 || level === 4)) this.#stop('A comparison cannot be compared again.', 'Write a < b and b < c.');
      this.#at++;
      const right = this.#binary(level + 1);
      left = { kind: 'binary', operator, left, right, from: left.from, to: right.to };
    }
    this.#depth--;
    return left;
  }

  #operator(): BinaryOperator | null {
    const token = this.#tokens[this.#at];
    if (token?.kind === 'sign') return (SIGN_FOR[token.sign] ?? token.sign) as BinaryOperator;
    const word = token?.kind === 'name' && token.parts.length === 1 && !token.isQuoted ? (token.parts[0] ?? '').toLowerCase() : '';
    return word === 'or' || word === 'xor' || word === 'and' || word === 'mod' ? word : null;
  }

  #unary(): Node {
    const token = this.#tokens[this.#at];
    const isNot = token?.kind === 'name' && !token.isQuoted && token.parts.length === 1 && token.parts[0]?.toLowerCase() === 'not';
    const isMinus = token?.kind === 'sign' && token.sign === '-';
    const isPlus = token?.kind === 'sign' && token.sign === '+';
    if (!token || (!isNot && !isMinus && !isPlus)) return this.#power();
    this.#at++;
    if (++this.#depth > DEEPEST * LEVELS.length) this.#stop('There are too many signs one after another.', 'Take some away.');
    const of = this.#unary();
    this.#depth--;
    if (isPlus) return of;
    if (isMinus && of.kind === 'binary' && of.operator === '**' && !this.#bracketed.has(of))
      this.#stop('What −a ** b means differs from one edition of the standard to the next.', 'Write −(a ** b) or (−a) ** b.', {
        from: token.from,
        to: of.to,
      });
    return { kind: isNot ? 'not' : 'negative', of, from: token.from, to: of.to };
  }

  #power(): Node {
    const base = this.#primary();
    if (this.#operator() !== '**') return base;
    this.#at++;
    const sign = this.#tokens[this.#at];
    const isNegative = sign?.kind === 'sign' && sign.sign === '-';
    if (isNegative) this.#at++;
    const plain = this.#primary();
    const right: Node = isNegative ? { kind: 'negative', of: plain, from: sign.from, to: plain.to } : plain;
    if (this.#operator() === '**') this.#stop('Which of two powers comes first has to be said.', 'Write (a ** b) ** c or a ** (b ** c).');
    return { kind: 'binary', operator: '**', left: base, right, from: base.from, to: right.to };
  }

  #primary(): Node {
    const token = this.#tokens[this.#at];
    if (!token) return this.#stop('Something is missing at the end.', 'Write a number, a tag or a function there.');
    this.#at++;
    const { from, to } = token;
    switch (token.kind) {
      case 'number':
        return { kind: 'number', value: token.value, from, to };
      case 'text':
        return { kind: 'text', value: token.value, from, to };
      case 'id':
        return { kind: 'tag', id: token.id, from, to };
      case 'name':
        return this.#named(token);
      case 'sign':
        if (token.sign !== '(') return this.#unexpected(token);
        return this.#bracket();
    }
  }

  #bracket(): Node {
    const node = this.#binary(0);
    this.#take(')', 'The bracket is not closed.');
    this.#bracketed.add(node);
    return node;
  }

  #named(token: Token & { readonly kind: 'name' }): Node {
    const { from, to, parts, isQuoted } = token;
    const next = this.#tokens[this.#at];
    const word = parts.length === 1 && !isQuoted ? (parts[0] ?? '').toLowerCase() : '';
    if (next?.kind === 'sign' && next.sign === '(' && word !== '') return this.#call(word, token);
    if (word === 'true' || word === 'on') return { kind: 'boolean', value: true, from, to };
    if (word === 'false' || word === 'off') return { kind: 'boolean', value: false, from, to };
    if (WORDS.has(word)) return this.#unexpected(token);
    const id = this.#resolve(parts);
    if (id !== null) return { kind: 'tag', id, from, to };
    const shown = parts.join('.');
    return this.#stop(
      `There is no tag “${shown.slice(0, 80)}”.`,
      FUNCTION_NAMED.has(word)
        ? `Its arguments stand in brackets: ${FUNCTION_NAMED.get(word)?.form ?? ''}.`
        : 'Name it by its path: device, groups and name with points between them.',
      token,
    );
  }

  #call(name: string, token: Token): Node {
    const spec = FUNCTION_NAMED.get(name);
    if (!spec) {
      const meant = MEANT.get(name);
      return this.#stop(`There is no function “${name}”.`, meant === undefined ? undefined : `What is meant is perhaps “${meant}”.`, token);
    }
    this.#at++;
    const args: Node[] = [];
    const first = this.#tokens[this.#at];
    if (!(first?.kind === 'sign' && first.sign === ')'))
      for (;;) {
        args.push(this.#binary(0));
        const comma = this.#tokens[this.#at];
        if (!(comma?.kind === 'sign' && comma.sign === ',')) break;
        this.#at++;
      }
    const to = this.#take(')', `The brackets of ${name} are not closed.`).to;
    const least = spec.args.length - spec.optional;
    if (args.length < least || (args.length > spec.args.length && !spec.isOpen))
      this.#stop(`${name} has ${args.length} ${args.length === 1 ? 'argument' : 'arguments'}.`, `It is written ${spec.form}: ${spec.help}.`, {
        from: token.from,
        to,
      });
    return { kind: 'call', name, args, from: token.from, to };
  }

  #take(sign: string, message: string): Token {
    const token = this.#tokens[this.#at];
    if (token?.kind !== 'sign' || token.sign !== sign) {
      if (token) return this.#unexpected(token);
      return this.#stop(message, `Write ${sign} at its end.`);
    }
    this.#at++;
    return token;
  }

  #unexpected(token: Token): never {
    const shown = token.kind === 'sign' ? token.sign : token.kind === 'name' ? token.parts.join('.') : token.kind;
    const foreign = token.kind === 'sign' ? FOREIGN[token.sign] : undefined;
    return this.#stop(`“${shown.slice(0, 40)}” cannot stand here.`, foreign ?? 'Two values need an operator between them: + − * / and or =.', token);
  }

  #stop(message: string, remedy: string | undefined, span: Span = this.#here()): never {
    throw new Stop(mistake(message, remedy, span.from, span.to));
  }

  #here(): Span {
    const token = this.#tokens[Math.min(this.#at, this.#tokens.length - 1)];
    return this.#at < this.#tokens.length && token ? token : { from: this.#end, to: this.#end };
  }
}
