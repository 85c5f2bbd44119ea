/** The groups that texts such as `Zone 1/Bed` stand for: those that are there, and new ones for the others. */
import { v7 as uuid } from 'uuid';
import type { Change } from './command.ts';
import { nameKey } from './nameKey.ts';
import { groupParts } from './tagPath.ts';

export interface GroupsNamed {
  /** The group that each text stands for; none for an empty one. */
  readonly ids: ReadonlyMap<string, string>;
  /** Makes those that are not there yet. */
  readonly changes: readonly Change[];
}

interface Groups {
  /** @param among the group it stands in, or the device it stands right under; empty for the project */
  groupNamed(name: string, among: string): { readonly id: string } | null;
}

/** @param deviceId whose groups they are; null for groups of the project */
export function groupsNamed(project: Groups, deviceId: string | null, texts: readonly string[]): GroupsNamed {
  const ids = new Map<string, string>();
  const changes: Change[] = [];
  const made = new Map<string, string>();
  for (const text of texts) {
    let above: string | null = null;
    for (const part of groupParts(text)) {
      const name = part.slice(0, 80).trim();
      const key: string = `${above ?? ''} ${nameKey(name)}`;
      let id: string | undefined = project.groupNamed(name, above ?? deviceId ?? '')?.id ?? made.get(key);
      if (id === undefined) {
        id = uuid();
        made.set(key, id);
        changes.push({ kind: 'group', id, set: { name, parentId: above, deviceId } });
      }
      above = id;
    }
    if (above !== null) ids.set(text, above);
  }
  return { ids, changes };
}
