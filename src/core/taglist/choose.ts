/** Which rows of a list are imported: a rule that is kept with its source, so that nothing is chosen again. */
import type { ListTag } from './understand.ts';

export interface ChoosingRule {
  /**
   * Patterns of names, of which one must fit; none takes every name. `*` stands for any characters, `?` for one. A pattern
   * with a slash is one of group and name, `Line2/*`; one that begins with a colon names a structure type, `:RollStand`.
   */
  readonly include: readonly string[];
  /** Patterns of which none may fit. */
  readonly exclude: readonly string[];
  /** Only what the controller's program marks for panels. */
  readonly onlyForPanels: boolean;
}

export const EVERYTHING: ChoosingRule = { include: [], exclude: [], onlyForPanels: false };

export function isChosen(
  { include, exclude, onlyForPanels }: ChoosingRule,
  { listName, group, within, isForPanel }: Pick<ListTag, 'listName' | 'group' | 'within' | 'isForPanel'>,
): boolean {
  const fits = (pattern: string): boolean =>
    pattern.startsWith(':')
      ? within.some((type) => fitsPattern(pattern.slice(1), type))
      : fitsPattern(pattern, pattern.includes('/') ? `${group}/${listName}` : listName);
  return (!onlyForPanels || isForPanel) && (include.length === 0 || include.some(fits)) && !exclude.some(fits);
}

/**
 * Whether a pattern fits the whole name, upper and lower case alike. In one pass with a single way back, so that no
 * pattern takes long.
 */
export function fitsPattern(pattern: string, name: string): boolean {
  const [wanted, given] = [[...pattern.toLowerCase()], [...name.toLowerCase()]];
  let [p, n, star, from] = [0, 0, -1, 0];
  while (n < given.length) {
    if (wanted[p] === '*') [star, from, p] = [p, n, p + 1];
    else if (p < wanted.length && (wanted[p] === '?' || wanted[p] === given[n])) [p, n] = [p + 1, n + 1];
    else if (star >= 0) [p, n, from] = [star + 1, from + 1, from + 1];
    else return false;
  }
  while (wanted[p] === '*') p++;
  return p === wanted.length;
}
