/** The words of IEC 61131-3 text (third edition, 6.1), with where each stands. Comments and pragmas are kept beside them. */
import type { Problem } from '../../result.ts';

export interface Token {
  readonly kind: 'word' | 'number' | 'literal' | 'text' | 'location' | 'sign' | 'end';
  /** A word in capitals is compared by; `text` is as it stands. */
  readonly text: string;
  readonly line: number;
  readonly column: number;
  /** Comments and pragmas that stand before it, since the token before. */
  readonly before: readonly Remark[];
}
export interface Remark {
  readonly kind: 'comment' | 'pragma';
  readonly text: string;
  readonly line: number;
}

const SIGNS: ReadonlySet<string> = new Set([
  ':=',
  '..',
  '=>',
  '**',
  '<=',
  '>=',
  '<>',
  ':',
  ';',
  ',',
  '(',
  ')',
  '[',
  ']',
  '.',
  '=',
  '+',
  '-',
  '*',
  '/',
  '<',
  '>',
  '&',
  '^',
  '#',
]);
/** Problems after which no more are told. */
const MAX_PROBLEMS = 200;
const WORD = /[\p{L}_][\p{L}\p{N}_]*/uy;
/** `16#FF_FF`, `2.5E3`, `100_000`. */
const NUMBER = /\d[\d_]*(?:#[0-9A-Fa-f_]+|(?:\.\d[\d_]*)?(?:[eE][+-]?\d+)?)/y;
/** What follows the # of `T#1h2m`, `INT#5`, `DT#2026-03-01-06:30:00`, `Mode#Running`. */
const LITERAL = /[^\s;,()[\]{}]*/y;
/** Words of one line; an array has as many values in it. */
const LONGEST_LINE = 100_000;
const NONE: readonly Remark[] = [];
const WHITE = /[\s\uFEFF]/;
const LONGEST_REMARK = 4000;
const LOCATION = /%[\p{L}]*\*?[\d.]*/uy;

export interface Tokens {
  readonly tokens: readonly Token[];
  readonly problems: readonly Problem[];
}

/**
 * A comment or pragma that is never closed ends the text where it begins; a text that is never closed is none,
 * and a character that the notation does not have is a sign that fits nowhere, so that each costs what it stands in.
 */
export function tokensOf(text: string): Tokens {
  const tokens: Token[] = [];
  const problems: Problem[] = [];
  // Made only where there are any: most tokens have none.
  let before: Remark[] | null = null;
  const remarks = (): Remark[] => (before ??= []);
  let [at, line, lineAt] = [0, 1, 0];
  const here = (): string => `line ${line}, column ${at - lineAt + 1}`;
  const match = (pattern: RegExp, from: number): string => {
    pattern.lastIndex = from;
    return pattern.exec(text)?.[0] ?? '';
  };
  // Looked for once a line, not once a token: a line may be as long as the file.
  const breakFrom = (from: number): number => {
    const found = text.indexOf('\n', from);
    return found < 0 ? Infinity : found;
  };
  let nextBreak = breakFrom(0);
  let inLine = 0;
  const pass = (to: number): void => {
    for (; nextBreak < to; nextBreak = breakFrom(nextBreak + 1)) {
      line++;
      lineAt = nextBreak + 1;
      inLine = 0;
    }
    at = to;
  };
  const push = (kind: Token['kind'], words: string, length: number): void => {
    tokens.push({ kind, text: words, line, column: at - lineAt + 1, before: before ?? NONE });
    before = null;
    inLine++;
    pass(at + length);
  };
  while (at < text.length) {
    if (inLine > LONGEST_LINE) {
      problems.push({ code: 'too-long', message: `The line has more than ${LONGEST_LINE} words.`, remedy: 'Is it a list?', place: here() });
      pass(Math.min(nextBreak, text.length));
      inLine = 0;
      continue;
    }
    const char = text[at] ?? '';
    if (WHITE.test(char)) {
      pass(at + 1);
      continue;
    }
    if (text.startsWith('//', at)) {
      const end = text.indexOf('\n', at);
      const to = end < 0 ? text.length : end;
      remarks().push({ kind: 'comment', text: plain(text.slice(at + 2, to)), line });
      pass(to);
      continue;
    }
    if (text.startsWith('(*', at) || text.startsWith('/*', at) || char === '{') {
      const end = closing(text, at);
      if (end < 0 && problems.length < MAX_PROBLEMS)
        problems.push(notClosed(char === '{' ? 'A pragma is never closed' : 'A comment is never closed', here()));
      if (end < 0) break;
      const inner = char === '{' ? text.slice(at + 1, end - 1) : text.slice(at + 2, end - 2);
      remarks().push({ kind: char === '{' ? 'pragma' : 'comment', text: plain(inner), line });
      pass(end);
      continue;
    }
    if (char === "'" || char === '"') {
      // A $ takes the next character as it is: $' is a quote inside.
      let end = at + 1;
      while (end < text.length && text[end] !== char && text[end] !== '\n') end += text[end] === '$' ? 2 : 1;
      if (text[end] !== char) {
        if (problems.length < MAX_PROBLEMS) problems.push(notClosed('A text is never closed on its line', here()));
        push('sign', char, 1);
        continue;
      }
      push('text', text.slice(at, end + 1), end + 1 - at);
      continue;
    }
    if (char === '%') {
      const location = match(LOCATION, at);
      push('location', location, location.length);
      continue;
    }
    const word = mayBeginWord(char) ? match(WORD, at) : '';
    if (word !== '') {
      if (text[at + word.length] === '#') {
        const value = match(LITERAL, at + word.length + 1);
        // The dots of a subrange are none of the literal's: INT#0..INT#9.
        const plain = value.split('..')[0] ?? '';
        push('literal', `${word}#${plain}`, word.length + 1 + plain.length);
      } else push('word', word, word.length);
      continue;
    }
    const number = char >= '0' && char <= '9' ? match(NUMBER, at) : '';
    if (number !== '') {
      push('number', number, number.length);
      continue;
    }
    const sign = signAt(text, at);
    if (!SIGNS.has(sign) && problems.length < MAX_PROBLEMS)
      problems.push({
        code: 'character',
        message: `“${sign}” does not belong in declarations.`,
        remedy: 'Check that the file is text as IEC 61131-3 writes it.',
        place: here(),
      });
    push('sign', sign, sign.length);
  }
  push('end', '', 0);
  return { tokens, problems };
}

/** White space counts once; what is longer than any remark is cut. */
function plain(remark: string): string {
  return remark.slice(0, LONGEST_REMARK).replace(/\s+/g, ' ').trim();
}

/** Told quickly where it cannot: most characters of a text made to hurt are signs. */
function mayBeginWord(char: string): boolean {
  return char > '\u007f' || char === '_' || (char >= 'A' && char <= 'Z') || (char >= 'a' && char <= 'z');
}

/** The sign that begins here, two characters long where there is such a one; a character that is none stands for itself. */
function signAt(text: string, at: number): string {
  const two = text.slice(at, at + 2);
  return SIGNS.has(two) ? two : String.fromCodePoint(text.codePointAt(at) ?? 0);
}

function notClosed(message: string, place: string): Problem {
  return { code: 'not-closed', message: `${message}.`, remedy: 'Close it, or export the declarations again.', place };
}

/** The end of a comment or pragma that begins here; comments may hold comments (third edition). -1 for none. */
function closing(text: string, from: number): number {
  if (text[from] === '{') {
    const end = text.indexOf('}', from);
    return end < 0 ? -1 : end + 1;
  }
  const [open, close] = text[from] === '(' ? ['(*', '*)'] : ['/*', '*/'];
  let depth = 0;
  for (let at = from; at < text.length;) {
    if (text.startsWith(open, at)) [depth, at] = [depth + 1, at + 2];
    else if (text.startsWith(close, at)) {
      [depth, at] = [depth - 1, at + 2];
      if (depth === 0) return at;
    } else at++;
  }
  return -1;
}

export function placeOf({ line, column }: Pick<Token, 'line' | 'column'>): string {
  return `line ${line}, column ${column}`;
}

export function expected(what: string, token: Token): Problem {
  const found = token.kind === 'end' ? 'the file ends' : `there is “${token.text.slice(0, 40)}”`;
  return { code: 'syntax', message: `Here ${found}, where ${what} is expected.`, place: placeOf(token) };
}
