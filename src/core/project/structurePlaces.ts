/** Where the members of a structure lie in memory, counted in bits from its beginning, as its device lays structures out. */
import type { DeclaredType, Member, TypeRef } from '../taglist/declared.ts';
import { Layouts, type Layout } from '../taglist/layout.ts';
import type { Structure, StructureMember } from './kinds/structure.ts';
import { leavesOf, type StructuresNamed } from './structureTree.ts';

export interface StructurePlaces {
  /** Bits from the beginning, by the member's path; members of which nobody knows are not here. */
  readonly atBit: ReadonlyMap<string, number>;
  /** Bits from one structure to the next; null where nobody knows. */
  readonly bits: number | null;
}

export function structurePlaces(structure: Structure, named: StructuresNamed, layout: Layout): StructurePlaces {
  const types = new Map<string, DeclaredType>();
  const take = (name: string): void => {
    const found = named(name);
    if (!found || types.has(name.toLowerCase())) return;
    types.set(name.toLowerCase(), { name, type: typeOf(found), initial: null, place: '' });
    for (const { of } of found.members) if (of !== '') take(of);
  };
  take(structure.name);
  for (const { of } of structure.members) if (of !== '') take(of);
  // The structure as it is given, which may not be the one that is kept.
  types.set(structure.name.toLowerCase(), { name: structure.name, type: typeOf(structure), initial: null, place: '' });
  const layouts = new Layouts(types, layout);
  const atBit = new Map<string, number>();
  const walk = (within: Structure, before: string, from: number, depth: number): void => {
    const places = layouts.placed(within.members.map(memberOf));
    for (const [i, member] of within.members.entries()) {
      const at = places[i];
      if (typeof at !== 'number') continue;
      const step = member.length === null ? 0 : layouts.step(baseOf(member));
      if (step === null) continue;
      const inner = member.of === '' ? null : named(member.of);
      for (let index = 0; index < (member.length ?? 1); index++) {
        const path = `${before}${member.name}${member.length === null ? '' : `[${index}]`}`;
        if (member.of === '') atBit.set(path.toLowerCase(), from + at + index * step);
        else if (inner && depth < DEEPEST) walk(inner, `${path}.`, from + at + index * step, depth + 1);
        if (atBit.size > MOST) return;
      }
    }
  };
  walk(structure, '', 0, 0);
  return { atBit, bits: layouts.step({ kind: 'named', name: structure.name, place: '' }) };
}

const DEEPEST = 16;
const MOST = 20_000;

/** Members of a structure in order, each with its path and where it lies. */
export function placedLeaves(structure: Structure, named: StructuresNamed, layout: Layout) {
  const { atBit } = structurePlaces(structure, named, layout);
  return leavesOf(structure, named).map(([path, member]) => ({ path, member, atBit: atBit.get(path.toLowerCase()) ?? null }));
}

function typeOf({ members }: Structure): TypeRef {
  return { kind: 'structure', members: members.map(memberOf) };
}

function memberOf(member: StructureMember): Member {
  const base = baseOf(member);
  const type: TypeRef = member.length === null ? base : { kind: 'array', bounds: [[0, member.length - 1]], of: base };
  return { name: member.name, type, initial: null, comment: '', isForPanel: false, atBit: null };
}

function baseOf({ type, of }: StructureMember): TypeRef {
  return of === '' ? { kind: 'elementary', text: type } : { kind: 'named', name: of, place: '' };
}
