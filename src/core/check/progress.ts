/** How far a run is, part by part: by device, by page, by person. */
import { countsOf, type RunCounts, type RunEntry } from './run.ts';

export interface PartOfRun {
  readonly name: string;
  readonly counts: RunCounts;
}

/**
 * @param partsOf the parts that an entry counts in: a tag may be on several pages, and one that nobody has looked at is nobody's
 * @returns the parts in the order of their names, as people order them
 */
export function progressBy(entries: readonly RunEntry[], partsOf: (entry: RunEntry) => readonly string[]): readonly PartOfRun[] {
  const parts = new Map<string, RunEntry[]>();
  for (const entry of entries)
    for (const name of partsOf(entry)) {
      const part = parts.get(name);
      if (part) part.push(entry);
      else parts.set(name, [entry]);
    }
  return [...parts].map(([name, all]) => ({ name, counts: countsOf(all) })).sort((a, b) => a.name.localeCompare(b.name, 'en', { numeric: true }));
}
