/** Which structures the tags of a list come from: what each structure is made of, where one lies, and which tag is which member. */
import type { StructureMember } from '../project/kinds/structure.ts';
import type { ValueNames } from '../value/valueNames.ts';
import type { ListTag } from './understand.ts';

export interface ListedStructure {
  readonly name: string;
  readonly members: readonly StructureMember[];
}
export interface ListedBlock {
  /** What the names of its tags begin with: `Bagger[2]`. */
  readonly name: string;
  readonly structure: string;
  /** Empty where the addresses of its tags are no names. */
  readonly address: string;
  /** Its tags by their names in the list, each with its path in the structure. */
  readonly tags: readonly (readonly [listName: string, path: string])[];
}
export interface ListedEnumeration {
  readonly name: string;
  readonly names: ValueNames;
  /** Its tags by their names in the list. */
  readonly tags: readonly string[];
}
export interface ListedStructures {
  readonly enumerations: readonly ListedEnumeration[];
  readonly structures: readonly ListedStructure[];
  readonly blocks: readonly ListedBlock[];
}

interface Making {
  readonly members: Map<string, StructureMember>;
}

/** Nothing where no tag of the list is a member or has named values. A member is as the first block has it, an enumeration as its first tag. */
export function structuredIn(tags: readonly ListTag[]): ListedStructures {
  const structures = new Map<string, Making>();
  const blocks = new Map<string, { -readonly [K in keyof ListedBlock]: ListedBlock[K] } & { tags: (readonly [string, string])[] }>();
  const enumerations = new Map<string, ListedEnumeration & { readonly tags: string[] }>();
  for (const tag of tags) {
    const { within, listName, enumeration, names } = tag;
    if (enumeration !== '' && names.length > 0) {
      const known = enumerations.get(enumeration.toLowerCase());
      if (known) known.tags.push(listName);
      else enumerations.set(enumeration.toLowerCase(), { name: enumeration, names, tags: [listName] });
    }
    const [outermost] = within;
    if (outermost === undefined) continue;
    const steps = listName.split('.');
    if (steps.length <= within.length) continue;
    const path = steps.slice(-within.length);
    const name = steps.slice(0, -within.length).join('.');
    for (const [at, structure] of within.entries()) takeMember(structures, structure, path[at] ?? '', within[at + 1] ?? '', tag);
    const joined = path.join('.');
    const block = blocks.get(name.toLowerCase());
    if (!block) blocks.set(name.toLowerCase(), { name, structure: outermost, address: baseOf(tag.address, joined), tags: [[listName, joined]] });
    else if (block.structure === outermost) block.tags.push([listName, joined]);
  }
  return {
    enumerations: [...enumerations.values()],
    structures: [...structures].map(([name, { members }]) => ({ name, members: [...members.values()] })),
    blocks: [...blocks.values()],
  };
}

/** @param of the structure that it is itself, empty for a value */
function takeMember(structures: Map<string, Making>, structure: string, step: string, of: string, tag: ListTag): void {
  const made = structures.get(structure) ?? { members: new Map<string, StructureMember>() };
  structures.set(structure, made);
  const [, name = step, index] = /^(.*)\[(\d{1,7})\]$/.exec(step) ?? [];
  const known = made.members.get(name.toLowerCase());
  const length = index === undefined ? null : Math.max(known?.length ?? 0, Number(index) + 1);
  if (known) {
    if (known.length !== length) made.members.set(name.toLowerCase(), { ...known, length });
    return;
  }
  const isValue = of === '';
  made.members.set(name.toLowerCase(), {
    name,
    type: isValue ? tag.type : '',
    of,
    length,
    unit: isValue ? tag.unit : '',
    decimals: isValue ? tag.decimals : null,
    rangeLow: isValue ? tag.rangeLow : null,
    rangeHigh: isValue ? tag.rangeHigh : null,
    comment: isValue ? tag.comment : '',
    names: isValue ? tag.names : [],
    access: isValue ? tag.access : null,
  });
}

/** Where the block lies: what stands before the member in its tag's address. */
function baseOf(address: string, path: string): string {
  return address.toLowerCase().endsWith(`.${path.toLowerCase()}`) ? address.slice(0, -path.length - 1).replace(/#$/, '') : '';
}

/**
 * A structure as a new version of its list has it: members as the list says, and what was set here for one that is still there.
 */
export function mergedMembers(own: readonly StructureMember[], listed: readonly StructureMember[]): readonly StructureMember[] {
  const known = new Map(own.map((member) => [member.name.toLowerCase(), member]));
  return listed.map((member) => {
    const mine = known.get(member.name.toLowerCase());
    return mine ? { ...mine, name: member.name, type: member.type, of: member.of, length: member.length } : member;
  });
}
