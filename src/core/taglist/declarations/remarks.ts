/** What comments and pragmas say about the declaration that they stand at. */
import type { Remark, Token } from './tokens.ts';

export interface Said {
  readonly comment: string;
  readonly isForPanel: boolean;
}

/**
 * What is said about a declaration: behind it on its line, or else right before it.
 * @param previousEnd line of the last token before it, 0 where there is none
 * @param panelMark the word of a pragma that marks variables for panels, empty for none
 */
export function remarksOf(first: Token, last: Token, following: Token, previousEnd: number, panelMark: string): Said {
  const behind = following.before.filter((r) => r.line === last.line);
  const isComment = ({ kind }: Remark): boolean => kind === 'comment';
  const ahead = first.before.filter((r) => isComment(r) && r.line > previousEnd);
  const comment = (behind.some(isComment) ? behind.filter(isComment) : ahead)
    .map((r) => r.text)
    .join(' ')
    .trim();
  return { comment: comment.slice(0, 400), isForPanel: [...first.before, ...behind].some((r) => marksForPanel(r, panelMark)) };
}

/** A pragma with the word that the engineer named, such as `{word}` or `{attribute 'word' := 'true'}`; set to off it marks nothing. */
function marksForPanel({ kind, text }: Remark, mark: string): boolean {
  if (kind !== 'pragma' || mark === '') return false;
  return words(text).includes(mark.toLowerCase()) && !/:?=\s*['"]?(0|false|off|no)\b/i.test(text);
}

function words(text: string): readonly string[] {
  return text.toLowerCase().match(/[\p{L}\p{N}_.-]+/gu) ?? [];
}
