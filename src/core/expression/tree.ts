/** What an expression is made of, once it is read. Every part knows where it stands in the text. */

/** From the first character to the one after the last, counted from 0. */
export interface Span {
  readonly from: number;
  readonly to: number;
}

export type BinaryOperator = 'or' | 'xor' | 'and' | '=' | '<>' | '<' | '<=' | '>' | '>=' | '+' | '-' | '*' | '/' | 'mod' | '**';

export type Node = Span &
  (
    | { readonly kind: 'number'; readonly value: number | bigint }
    | { readonly kind: 'text'; readonly value: string }
    | { readonly kind: 'boolean'; readonly value: boolean }
    | { readonly kind: 'tag'; readonly id: string }
    | { readonly kind: 'negative' | 'not'; readonly of: Node }
    | { readonly kind: 'binary'; readonly operator: BinaryOperator; readonly left: Node; readonly right: Node }
    | { readonly kind: 'call'; readonly name: string; readonly args: readonly Node[] }
  );

/** A number that JavaScript would round stays a bigint. */
export type Value = number | bigint | boolean | string;
export type ValueKind = 'number' | 'boolean' | 'text';

export const KIND_WORDS: Readonly<Record<ValueKind, string>> = { number: 'a number', boolean: 'on or off', text: 'a text' };

/** The parts of a tree, each before what it holds. */
export function* partsOf(node: Node): Generator<Node> {
  yield node;
  switch (node.kind) {
    case 'negative':
    case 'not':
      yield* partsOf(node.of);
      break;
    case 'binary':
      yield* partsOf(node.left);
      yield* partsOf(node.right);
      break;
    case 'call':
      for (const arg of node.args) yield* partsOf(arg);
      break;
    default:
      break;
  }
}
