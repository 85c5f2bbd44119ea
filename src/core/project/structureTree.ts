/** What the members of structures are, and how tags follow them: what a tag has that its member does not say is its own. */
import type { Structure, StructureMember } from './kinds/structure.ts';
import type { Tag } from './kinds/tag.ts';
import { sameJson } from './sameJson.ts';

/** Structures of one device by their names. */
export type StructuresNamed = (name: string) => Structure | null;

/** Structures in structures; deeper ones, and ones that hold themselves, end there. */
const DEEPEST = 16;
/** Members of one block, arrays element by element. */
const MOST_LEAVES = 20_000;

/** The member at a path such as `Jaw[1]` or `Inner.Level`; null where there is none. */
export function memberAt(structure: Structure, path: string, named: StructuresNamed): StructureMember | null {
  const found = stepsTo(structure, path, named).at(-1)?.[1];
  return found?.of === '' ? found : null;
}

/** The members on the way to one, each with the structure that it stands in; nothing where the path leads nowhere. */
export function stepsTo(structure: Structure, path: string, named: StructuresNamed): readonly (readonly [Structure, StructureMember])[] {
  let at: Structure | null = structure;
  const steps: (readonly [Structure, StructureMember])[] = [];
  for (const step of path.split('.')) {
    const { name, index } = stepOf(step);
    const member: StructureMember | undefined = at?.members.find((m) => m.name.toLowerCase() === name.toLowerCase());
    if (!at || !member || (index === null) !== (member.length === null) || (index !== null && index >= (member.length ?? 0))) return [];
    steps.push([at, member]);
    at = member.of === '' ? null : named(member.of);
  }
  return steps;
}

function stepOf(step: string): { readonly name: string; readonly index: number | null } {
  const [, name = step, index] = /^(.*)\[(\d{1,7})\]$/.exec(step) ?? [];
  return { name, index: index === undefined ? null : Number(index) };
}

/** All values in a structure, each with its path. */
export function leavesOf(structure: Structure, named: StructuresNamed): readonly (readonly [path: string, member: StructureMember])[] {
  const leaves: (readonly [string, StructureMember])[] = [];
  const walk = ({ members }: Structure, before: string, depth: number): void => {
    for (const member of members) {
      for (const path of member.length === null ? [`${before}${member.name}`] : elements(`${before}${member.name}`, member.length)) {
        if (leaves.length >= MOST_LEAVES) return;
        const inner = member.of === '' ? null : named(member.of);
        if (member.of === '') leaves.push([path, member]);
        else if (inner && depth < DEEPEST) walk(inner, `${path}.`, depth + 1);
      }
    }
  };
  walk(structure, '', 0);
  return leaves;
}

function elements(name: string, length: number): readonly string[] {
  return Array.from({ length: Math.min(length, MOST_LEAVES) }, (_, i) => `${name}[${i}]`);
}

/** What a tag takes from its member. */
const FOLLOWED = ['type', 'unit', 'decimals', 'comment', 'names', 'access'] as const;
const RANGE = ['rangeLow', 'rangeHigh'] as const;
type Followed = Pick<StructureMember & Tag, (typeof FOLLOWED)[number] | (typeof RANGE)[number]>;

/** The fields of a tag that are its own: another value than its member has. */
export function ownFields(tag: Followed, member: Followed): readonly string[] {
  return [...FOLLOWED, ...RANGE].filter((field) => !sameJson(tag[field], member[field]));
}

/** What a tag takes when its member changes: where it had what the member had. */
export function following(tag: Followed, before: Followed, after: Followed): Partial<Tag> {
  const taken = FOLLOWED.filter((field) => sameJson(tag[field], before[field]) && !sameJson(before[field], after[field]));
  const rangeFollows = RANGE.every((field) => tag[field] === before[field]) && RANGE.some((field) => before[field] !== after[field]);
  return Object.fromEntries([...taken, ...(rangeFollows ? RANGE : [])].map((field) => [field, after[field]]));
}
