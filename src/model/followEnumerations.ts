/** What becomes of an enumeration's tags and members of structures when its values get other names: those that had its names follow. */
import type { AnyEntity, Enumeration, EntityKind, Structure, StructureMember } from '@/core/project/entities.ts';
import { sameJson } from '@/core/project/sameJson.ts';
import { stepsTo, type StructuresNamed } from '@/core/project/structureTree.ts';
import type { Look } from './fits.ts';

export interface EnumerationChange {
  readonly before: Enumeration;
  readonly after: Enumeration;
}

export interface FollowingEnumerations {
  /** As the command leaves it so far. */
  readonly look: Look;
  readonly put: (kind: EntityKind, id: string, entity: AnyEntity | null) => void;
  readonly tagsOf: (enumerationId: string) => Iterable<string>;
  readonly structuresNamed: (deviceId: string) => StructuresNamed;
}

export function* followEnumerations(changes: readonly EnumerationChange[], along: FollowingEnumerations): Generator<void> {
  for (const { before, after } of changes) {
    const members = new Map<StructureMember, string>();
    for (const id of along.tagsOf(after.id)) {
      yield;
      const tag = along.look('tag', id);
      if (!tag || tag.enumerationId !== after.id) continue;
      for (const [structure, member] of ownerOf(id, after.deviceId, along)) members.set(member, structure.id);
      if (sameJson(tag.names, before.names)) along.put('tag', id, { ...tag, names: after.names });
    }
    for (const structureId of new Set(members.values())) {
      const structure = along.look('structure', structureId);
      if (!structure) continue;
      const renamed = structure.members.map((m) => (members.has(m) && sameJson(m.names, before.names) ? { ...m, names: after.names } : m));
      along.put('structure', structureId, { ...structure, members: renamed });
    }
  }
}

/** The member of a structure that a tag is, with that structure; nothing where it is none. */
function ownerOf(
  tagId: string,
  deviceId: string,
  { look, structuresNamed }: FollowingEnumerations,
): readonly (readonly [Structure, StructureMember])[] {
  const member = look('member', tagId);
  const structure = look('structure', look('block', member?.blockId ?? '')?.structureId ?? '');
  return member && structure ? stepsTo(structure, member.path, structuresNamed(deviceId)).slice(-1) : [];
}
