/** The structures, blocks and enumerations of a list as changes of the project: what was set here for a member stays. */
import { v7 as uuid } from 'uuid';
import type { Change } from '@/core/project/command.ts';
import type { Block, Enumeration, Structure } from '@/core/project/entities.ts';
import { nameKey } from '@/core/project/nameKey.ts';
import { sameJson } from '@/core/project/sameJson.ts';
import { mergedMembers, type ListedStructures } from '@/core/taglist/structured.ts';
import type { ProjectModel } from '@/model/projectModel.ts';

/**
 * @param tagIdOf the tag that a name in the list stands for; undefined for one that is not taken over
 * @param renamed enumerations, by their keys, whose names the list has otherwise than before; what was set here for others stays
 * @returns structures, blocks and enumerations, which come before tags are changed, and what names tags, which comes after
 */
export function structureChanges(
  model: ProjectModel,
  deviceId: string,
  { structures, blocks, enumerations }: ListedStructures,
  tagIdOf: (listName: string) => string | undefined,
  renamed: ReadonlySet<string>,
): { readonly before: readonly Change[]; readonly after: readonly Change[] } {
  const before: Change[] = [];
  const after: Change[] = [];
  const known = byName(model.all('structure').filter((s) => s.deviceId === deviceId));
  const knownBlocks = byName(model.all('block').filter((b) => b.deviceId === deviceId));
  const ids = new Map<string, string>();
  for (const { name, members } of structures) {
    const own: Structure | undefined = known.get(nameKey(name));
    const id = own?.id ?? uuid();
    ids.set(name, id);
    if (!own) before.push({ kind: 'structure', id, set: { name, deviceId, members } });
    else {
      const merged = mergedMembers(own.members, members);
      if (!sameJson(merged, own.members)) before.push({ kind: 'structure', id, set: { members: merged } });
    }
  }
  for (const { name, structure, address, tags } of blocks) {
    const own: Block | undefined = knownBlocks.get(nameKey(name));
    const id = own?.id ?? uuid();
    const set = { name, deviceId, structureId: ids.get(structure), address };
    if (!own) before.push({ kind: 'block', id, set });
    else if (own.structureId !== set.structureId || own.address !== address) before.push({ kind: 'block', id, set });
    for (const [listName, path] of tags) {
      const tagId = tagIdOf(listName);
      if (tagId === undefined) continue;
      const is = model.get('member', tagId);
      if (is?.blockId !== id || is.path !== path) after.push({ kind: 'member', id: tagId, set: { blockId: id, path } });
    }
  }
  const knownEnumerations = byName(model.all('enumeration').filter((e) => e.deviceId === deviceId));
  for (const { name, names, tags } of enumerations) {
    const own: Enumeration | undefined = knownEnumerations.get(nameKey(name));
    const id = own?.id ?? uuid();
    if (!own) before.push({ kind: 'enumeration', id, set: { name, deviceId, names } });
    else if (renamed.has(nameKey(name)) && !sameJson(own.names, names)) before.push({ kind: 'enumeration', id, set: { names } });
    for (const listName of tags) {
      const tagId = tagIdOf(listName);
      if (tagId !== undefined && model.get('tag', tagId)?.enumerationId !== id) after.push({ kind: 'tag', id: tagId, set: { enumerationId: id } });
    }
  }
  return { before, after };
}

function byName<T extends { readonly name: string }>(list: readonly T[]): ReadonlyMap<string, T> {
  return new Map(list.map((entity) => [nameKey(entity.name), entity]));
}
