/**
 * Bounds of a JSON text from outside, checked before it is parsed: a parser goes in as deep as it is led, and a database
 * takes no NUL and no half of a surrogate pair (RFC 8259, 8.2 warns of the latter).
 */
import { fail, ok, type Result } from './result.ts';

/** Our own bodies and files are seven deep. */
const DEEPEST = 40;
/** Characters that are looked at in one step. */
const STEP = 100_000;
const [QUOTE, BACKSLASH, SMALL_U] = [34, 92, 117];

/** Steps of the check. What is no JSON is for the parser to refuse. */
export function* checkingJsonText(text: string): Generator<void, Result<null>> {
  let depth = 0;
  let isText = false;
  let pause = STEP;
  for (let at = 0; at < text.length; at++) {
    if (at >= pause) {
      pause = at + STEP;
      yield;
    }
    const code = text.charCodeAt(at);
    if (isText) {
      if (code === QUOTE) isText = false;
      else if (code === BACKSLASH) {
        const length = text.charCodeAt(at + 1) === SMALL_U ? escapeLength(text, at) : 2;
        if (length === 0) return fail('json', 'A text holds a character that is none: NUL, or half of a pair.', 'Leave it away.');
        at += length - 1;
      }
    } else if (code === QUOTE) isText = true;
    // [ and {, ] and }: they differ in one bit.
    else if ((code | 32) === 123) {
      if (++depth > DEEPEST) return fail('json', `It is nested deeper than ${DEEPEST}.`, 'Nothing that is known here goes so deep.');
    } else if ((code | 32) === 125) depth--;
  }
  return ok(null);
}

/** Characters of `\u0041`, or of a pair of them; 0 for what is no character. */
function escapeLength(text: string, at: number): number {
  const code = unitAt(text, at);
  if (code === 0 || isBetween(code, 0xdc00, 0xdfff)) return 0;
  if (!isBetween(code, 0xd800, 0xdbff)) return 6;
  return text.startsWith('\\u', at + 6) && isBetween(unitAt(text, at + 6), 0xdc00, 0xdfff) ? 12 : 0;
}

function unitAt(text: string, at: number): number {
  return Number.parseInt(text.slice(at + 2, at + 6), 16);
}

function isBetween(code: number, low: number, high: number): boolean {
  return code >= low && code <= high;
}

/** The object that a text is; null where it is none. */
export function jsonObjectIn(text: string): Record<string, unknown> | null {
  try {
    const value: unknown = JSON.parse(text);
    return typeof value === 'object' && value !== null ? (value as Record<string, unknown>) : null;
  } catch {
    return null;
  }
}
