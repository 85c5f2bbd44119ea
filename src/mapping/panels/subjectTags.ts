/** Which tags stand for each other in like things: by their names below the device, the block or the group. */
import { ownMember, type SceneSubjects, type Subject, type SubjectChoice } from '@/core/panel/subjects.ts';
import type { Block, Member, SubjectList, Tag } from '@/core/project/entities.ts';
import { groupsAbove, tagPathParts, type PathContext } from '@/core/project/tagPath.ts';

export interface SubjectsProject extends PathContext {
  subjectList(id: string): SubjectList | null;
  block(id: string): Block | null;
  membersOf(blockId: string): readonly Member[];
  tag(id: string): Tag | null;
  /** The tags whose paths begin with a device. */
  tagsOn(deviceId: string): readonly Tag[];
  /** The tags in a group and in all groups inside it. */
  tagsIn(groupId: string): readonly Tag[];
}

interface Members {
  /** Null where the thing is gone. */
  readonly name: string | null;
  /** Ids of its tags by the name below it, as keys compare. */
  readonly byKey: ReadonlyMap<string, { readonly id: string; readonly member: string }>;
}

const keyOf = (member: string): string => member.toLowerCase();

/** The tags of a subject. */
export function membersOfSubject(project: SubjectsProject, { of, id }: Pick<Subject, 'of' | 'id'>): Members {
  const named = (all: Iterable<readonly [member: string, tagId: string]>): Members['byKey'] =>
    new Map([...all].map(([member, tagId]) => [keyOf(member), { id: tagId, member }]));
  if (of === 'block') {
    const block = project.block(id);
    return { name: block?.name ?? null, byKey: named(block ? project.membersOf(id).map((member) => [member.path, member.id] as const) : []) };
  }
  if (of === 'device') {
    const device = project.device(id);
    const tags = device ? project.tagsOn(id) : [];
    return { name: device?.name ?? null, byKey: named(tags.map((tag) => [tagPathParts(tag, project).slice(1).join('.'), tag.id] as const)) };
  }
  const group = project.group(id);
  if (!group) return { name: null, byKey: new Map() };
  return {
    name: group.name,
    byKey: named(
      project.tagsIn(id).flatMap((tag) => {
        const above = groupsAbove(tag.groupId, project);
        const at = above.findIndex((one) => one.id === id);
        return at < 0 ? [] : [[[...above.slice(at + 1).map(({ name }) => name), tag.name].join('.'), tag.id] as const];
      }),
    ),
  };
}

/** @param used the tags that elements use: of others nothing need be known; absent for all of the pattern */
export function subjectsOf(project: SubjectsProject, listId: string, used?: ReadonlySet<string>): SceneSubjects | null {
  const list = project.subjectList(listId);
  if (!list) return null;
  const [first] = list.subjects;
  const pattern = first ? membersOfSubject(project, first) : null;
  const members = [...(pattern?.byKey.values() ?? [])].filter(({ id }) => used === undefined || used.has(id));
  return {
    id: list.id,
    name: list.name,
    tagId: list.tagId,
    choices: list.subjects.map((subject) => choiceOf(project, subject, subject === first, members)),
  };
}

function choiceOf(
  project: SubjectsProject,
  subject: Subject,
  isPattern: boolean,
  members: readonly { readonly id: string; readonly member: string }[],
): SubjectChoice {
  const { name, byKey } = membersOfSubject(project, subject);
  const tagOf = (member: string): string | null => {
    const own = ownMember(subject, member);
    return own === null ? null : (byKey.get(keyOf(own))?.id ?? null);
  };
  return {
    number: subject.number,
    text: subject.text || (name ?? 'gone'),
    isThere: name !== null,
    tags: new Map(members.map(({ id, member }) => [id, isPattern ? id : tagOf(member)])),
  };
}
