/** A place in the tokens of a text: what stands there, what must, and whole numbers built of constants. */
import type { Problem } from '../../result.ts';
import { expected, placeOf, type Token } from './tokens.ts';

const ENDS = /^END_/;

/** Thrown to leave a declaration that has a mistake, and caught where the next one begins. */
export class Mistake extends Error {
  readonly problem: Problem;
  constructor(problem: Problem) {
    super(problem.message);
    this.problem = problem;
  }
}

export class TokenCursor {
  protected readonly tokens: readonly Token[];
  protected at = 0;
  /** Whole constants by name in capitals: bounds may be written with them. */
  protected readonly constants = new Map<string, number>();

  constructor(tokens: readonly Token[]) {
    this.tokens = tokens;
  }

  protected get now(): Token {
    return this.tokens[Math.min(this.at, this.tokens.length - 1)] as Token;
  }
  protected get word(): string {
    return this.now.kind === 'word' ? this.now.text.toUpperCase() : '';
  }
  protected next(): Token {
    const token = this.now;
    this.at++;
    return token;
  }
  protected skip(count: number): void {
    this.at += count;
  }
  protected is(sign: string): boolean {
    const { kind, text } = this.now;
    return kind === 'sign' ? text === sign : kind === 'word' && text.toUpperCase() === sign;
  }
  protected take(sign: string): boolean {
    if (!this.is(sign)) return false;
    this.at++;
    return true;
  }
  protected need(sign: string): void {
    if (!this.take(sign)) throw new Mistake(expected(`“${sign}”`, this.now));
  }
  protected name(what: string): Token {
    if (this.now.kind !== 'word' || ENDS.test(this.word)) throw new Mistake(expected(what, this.now));
    return this.next();
  }

  /** A whole number, a constant, or a sum of them. */
  protected bound(): number {
    let value = this.#term();
    while (this.is('+') || this.is('-')) value += this.next().text === '+' ? this.#term() : -this.#term();
    return value;
  }
  #term(): number {
    let sign = 1;
    while (this.take('-')) sign = -sign;
    const token = this.next();
    const value = token.kind === 'word' ? (this.constants.get(token.text.toUpperCase()) ?? null) : wholeOf(token.text);
    if (value === null || (token.kind !== 'word' && token.kind !== 'number' && token.kind !== 'literal'))
      throw new Mistake(
        token.kind === 'word'
          ? {
              code: 'constant',
              message: `“${token.text.slice(0, 40)}” is no constant declared before.`,
              remedy: 'Export the constants along.',
              place: placeOf(token),
            }
          : expected('a whole number', token),
      );
    return sign * value;
  }

  protected passUntil(end: string): void {
    while (this.now.kind !== 'end' && !this.is(end)) this.next();
    this.next();
  }
}

/** A whole number as the standard writes it: `1_000`, `16#FF`, `2#1010`, `INT#5`. */
export function wholeOf(text: string): number | null {
  const plain = text.replaceAll('_', '').replace(/^[a-z]+#/i, '');
  const based = /^(2|8|16)#([0-9a-f]+)$/i.exec(plain);
  const value = based ? parseInt(based[2] ?? '', Number(based[1])) : /^-?\d+$/.test(plain) ? Number(plain) : NaN;
  return Number.isSafeInteger(value) ? value : null;
}
