/** What stands in the place of an expression in a text. */
import { idsIn } from '../expression/references.ts';
import type { Value } from '../expression/tree.ts';
import { formatValue } from '../value/engineering.ts';

const ONE_TAG = /^\s*@[0-9a-f-]{36}\s*$/i;

/** The tag that an expression is, which is written as it shows itself, with its decimals and unit; null for anything else. */
export function loneTag(expression: string): string | null {
  return ONE_TAG.test(expression) ? (idsIn(expression)[0] ?? null) : null;
}

/** What an expression comes to has no decimals of its own. */
export function placeText(value: Value): string {
  return formatValue(value, typeof value === 'number' && !Number.isInteger(value) ? 2 : null);
}
