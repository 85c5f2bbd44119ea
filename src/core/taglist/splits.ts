/** Columns that hold several things, each split into as many as it needs; what was split may be split again. */
export type Split = SplitAtText | SplitByWidths | SplitByPattern;

interface OfColumn {
  /** Index of the column as it stands once the splits before this one were made. */
  readonly column: number;
}
export interface SplitAtText extends OfColumn {
  /** What stands between the parts. */
  readonly at: string;
  /** How many parts there are; the last takes the rest. Two where it is not said. */
  readonly parts?: number | undefined;
}
export interface SplitByWidths extends OfColumn {
  /** Characters of each part but the last, which takes the rest. */
  readonly widths: readonly number[];
}
export interface SplitByPattern extends OfColumn {
  /** Each `*` is a part, what stands between them is excluded: `DB*.W* (*)`. */
  readonly pattern: string;
}

export const MOST_PARTS = 20;

/** How many columns a split makes of one. */
export function partsOf(split: Split): number {
  if ('at' in split) return split.parts ?? 2;
  if ('widths' in split) return split.widths.length + 1;
  return Math.max(1, split.pattern.split('*').length - 1);
}

/** In the order in which they were made. A cell that a split does not fit goes whole into the first of its columns. */
export function splitRows(rows: readonly (readonly string[])[], splits: readonly Split[]): readonly (readonly string[])[] {
  return splits.length === 0 ? rows : rows.map((cells) => splits.reduce(splitOne, cells));
}

function splitOne(cells: readonly string[], split: Split): readonly string[] {
  // A row that does not reach the column has nothing to split, and its later cells must not move.
  if (split.column >= cells.length) return cells;
  const count = partsOf(split);
  const parts = cut((cells[split.column] ?? '').trim(), split, count).map((part) => part.trim());
  while (parts.length < count) parts.push('');
  return [...cells.slice(0, split.column), ...parts, ...cells.slice(split.column + 1)];
}

function cut(text: string, split: Split, count: number): string[] {
  if ('at' in split) {
    const all = text.split(split.at);
    return all.length <= count ? all : [...all.slice(0, count - 1), all.slice(count - 1).join(split.at)];
  }
  if ('widths' in split) {
    const parts: string[] = [];
    let from = 0;
    for (const width of split.widths) {
      parts.push(text.slice(from, from + width));
      from += width;
    }
    return [...parts, text.slice(from)];
  }
  return matched(text, split.pattern) ?? [text];
}

/** The parts that the stars stand for, each as short as it can be; null when the text is not like the pattern. */
function matched(text: string, pattern: string): string[] | null {
  const [head = '', ...fixed] = pattern.split('*');
  if (fixed.length === 0 || !text.startsWith(head)) return null;
  const parts: string[] = [];
  let from = head.length;
  for (const [i, next] of fixed.entries()) {
    const isLast = i === fixed.length - 1;
    const at = isLast
      ? text.endsWith(next)
        ? text.length - next.length
        : -1
      : next === ''
        ? Math.min(from + 1, text.length)
        : text.indexOf(next, from);
    if (at < from) return null;
    parts.push(text.slice(from, at));
    from = at + next.length;
  }
  return parts;
}
