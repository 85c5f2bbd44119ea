/**
 * The words of an expression. Numbers and texts are written as the literals of IEC 61131-3, 6.3: `1_000`, `1.5e3`, `16#FF`,
 * `'on'`. A tag is named by its path, `KILN.Bed.temp_out`; a part that is no plain word stands in quotation marks:
 * `KILN."Zone 1".temp`. Stored expressions name tags by their ids, `@0192…`, so that a new name changes nothing.
 */
import { fail, ok, type Problem, type Result } from '../result.ts';
import type { Span } from './tree.ts';

export type Token = Span &
  (
    | { readonly kind: 'number'; readonly value: number | bigint }
    | { readonly kind: 'text'; readonly value: string }
    /** The parts of a path; one part may be the name of a function or operator as well. */
    | { readonly kind: 'name'; readonly parts: readonly string[]; readonly isQuoted: boolean }
    | { readonly kind: 'id'; readonly id: string }
    | { readonly kind: 'sign'; readonly sign: string }
  );

/** Where in an expression something is wrong. */
export interface ExpressionProblem extends Problem, Span {}

const SPACE = /[ \t\r\n]+/y;
const BASED = /(?:(16)#([0-9A-Fa-f_]+)|(8)#([0-7_]+)|(2)#([01_]+))(?![\w.#])/y;
const DECIMAL = /\d[\d_]*(?:\.\d[\d_]*)?(?:[eE][+-]?\d+)?/y;
const TEXT = /'((?:[^'$]|\$.)*)'/y;
const ID = /@([0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12})/iy;
const PART = /(?:[\p{L}_][\p{L}\p{N}_]*(?:\[\d+(?:,\d+)*\])?|"(?:[^"]|"")+")/uy;
const SIGNS = ['**', '<=', '>=', '<>', '==', '!=', '+', '-', '*', '/', '^', '(', ')', ',', '=', '<', '>', '&', '%', '|', '!', ';', '?', ':'];

/** @returns the words with their places, or what is none, with its place */
export function tokensOf(text: string): Result<readonly Token[]> {
  const tokens: Token[] = [];
  let at = 0;
  const match = (pattern: RegExp): RegExpExecArray | null => {
    pattern.lastIndex = at;
    return pattern.exec(text);
  };
  while (at < text.length) {
    const space = match(SPACE);
    if (space) {
      at += space[0].length;
      continue;
    }
    const token = read();
    if (!token.ok) return token;
    tokens.push(token.value);
    at = token.value.to;
  }
  return ok(tokens);

  function read(): Result<Token> {
    const from = at;
    const based = match(BASED);
    if (based) {
      const [radix, digits] = based[1] ? ['0x', based[2]] : based[3] ? ['0o', based[4]] : ['0b', based[6]];
      return ok({ kind: 'number', value: plain(BigInt(radix + (digits ?? '').replaceAll('_', ''))), from, to: from + based[0].length });
    }
    const decimal = match(DECIMAL);
    if (decimal) {
      const to = from + decimal[0].length;
      const digits = decimal[0].replaceAll('_', '');
      if (text[to] === ',' && /\d/.test(text[to + 1] ?? '') && !/[(,]/.test(before(text, from)))
        return mistake('A comma stands between the arguments of a function, not in numbers.', 'Write the number with a decimal point.', from, to + 2);
      if (/[\p{L}_#]/u.test(text[to] ?? ''))
        return mistake(`“${text.slice(from, to + 1)}” is no number.`, 'Write 1.5, 1e3, 16#FF or 2#1010.', from, to + 1);
      const value = /^\d+$/.test(digits) ? plain(BigInt(digits)) : Number(digits);
      return Number.isFinite(Number(value))
        ? ok({ kind: 'number', value, from, to })
        : mistake('The number is beyond any number here.', undefined, from, to);
    }
    const quoted = match(TEXT);
    if (quoted) return ok({ kind: 'text', value: unescaped(quoted[1] ?? ''), from, to: from + quoted[0].length });
    if (text[from] === "'") return mistake('The text has no end.', "Close it with '. A ' inside is written $'.", from, text.length);
    const id = match(ID);
    if (id) return ok({ kind: 'id', id: (id[1] ?? '').toLowerCase(), from, to: from + id[0].length });
    const name = readName(from);
    if (name) return ok(name);
    if (text[from] === '"') return mistake('The name has no end.', 'Close it with ". A " inside is written twice.', from, text.length);
    const sign = SIGNS.find((known) => text.startsWith(known, from));
    return sign === undefined
      ? mistake(`“${String.fromCodePoint(text.codePointAt(from) ?? 0)}” has no meaning here.`, undefined, from, from + 1)
      : ok({ kind: 'sign', sign, from, to: from + sign.length });
  }

  function readName(from: number): Token | null {
    const parts: string[] = [];
    let to = from;
    let isQuoted = false;
    for (;;) {
      PART.lastIndex = to;
      const part = PART.exec(text);
      if (!part) return parts.length > 0 ? { kind: 'name', parts, isQuoted, from, to: to - 1 } : null;
      isQuoted ||= part[0].startsWith('"');
      parts.push(part[0].startsWith('"') ? part[0].slice(1, -1).replaceAll('""', '"') : part[0]);
      to += part[0].length;
      if (text[to] !== '.') return { kind: 'name', parts, isQuoted, from, to };
      to++;
    }
  }
}

/** What stands before a place, without spaces. */
function before(text: string, at: number): string {
  return text.slice(0, at).trimEnd().slice(-1);
}

function plain(value: bigint): number | bigint {
  return value <= Number.MAX_SAFE_INTEGER ? Number(value) : value;
}

/** IEC 61131-3, table 6 (character strings): $$, $', $N, $R, $T and two hexadecimal digits. */
function unescaped(text: string): string {
  return text.replace(/\$([0-9A-Fa-f]{2}|.)/g, (_all, code: string) => {
    if (code.length === 2) return String.fromCharCode(parseInt(code, 16));
    return { n: '\n', l: '\n', r: '\r', t: '\t', p: '\f' }[code.toLowerCase()] ?? code;
  });
}

/** A path as an expression writes it. */
export function pathInExpression(parts: readonly string[]): string {
  return parts.map((part) => (/^[\p{L}_][\p{L}\p{N}_]*(?:\[\d+(?:,\d+)*\])?$/u.test(part) ? part : `"${part.replaceAll('"', '""')}"`)).join('.');
}

export function mistake(
  message: string,
  remedy: string | undefined,
  from: number,
  to: number,
): { readonly ok: false; readonly problem: ExpressionProblem } {
  const failed = fail('expression', message, remedy, 'source.expression');
  return { ok: false, problem: { ...failed.problem, from, to } };
}
