/** The project as a page needs it at first, and each change of it afterwards. */
import type { Proof } from '../check/proof.ts';
import type { DriverManifest } from '../manifest/driverManifest.ts';
import { ENTITY_KINDS, pluralOf, type AnyEntity, type Entities, type EntityKind, type PluralOf, type Project } from './entities.ts';

/** Every kind but the project itself, of which there is one. */
export type ListedKind = Exclude<EntityKind, 'project'>;
export const LISTED_KINDS = ENTITY_KINDS.filter((kind): kind is ListedKind => kind !== 'project');
/** A list of each kind. */
export type EntityLists = { readonly [K in ListedKind as PluralOf<K>]: readonly Entities[K][] };

export interface Snapshot extends EntityLists {
  /** Grows by one with each change; a page that misses one loads the project again. */
  readonly revision: number;
  readonly project: Project;
  readonly proofs: readonly Proof[];
  /** Drivers that are not built in: pages know them by what they say of themselves. */
  readonly drivers: readonly DriverManifest[];
}

/** What a page draws its first screen with: the project, and where it has many tags how many, and not them. */
export interface FirstSnapshot extends Snapshot {
  /** Tags, scales and proofs that are asked for afterwards; absent where all is there. */
  readonly coming?: ComingTags;
}
export interface ComingTags {
  readonly count: number;
  /** By device. */
  readonly on: Readonly<Record<string, number>>;
}

/** Lists of every kind, each asked for once. */
export function listsOf(list: <K extends ListedKind>(kind: K) => readonly Entities[K][]): EntityLists {
  return Object.fromEntries(LISTED_KINDS.map((kind) => [pluralOf(kind), list(kind)])) as unknown as EntityLists;
}

/** The list of a kind. */
export function listIn<K extends ListedKind>(lists: EntityLists, kind: K): readonly Entities[K][] {
  return lists[pluralOf(kind) as keyof EntityLists] as unknown as readonly Entities[K][];
}

export interface AppliedChange {
  readonly kind: EntityKind;
  readonly id: string;
  readonly after: AnyEntity | null;
}

export interface Applied {
  readonly revision: number;
  readonly label: string;
  /** Empty where there are so many that the live channel tells them, or the project is asked for again. */
  readonly changes: readonly AppliedChange[];
  readonly isShortened?: true;
}

/** Changes above which an answer does not repeat them. */
const ANSWERED = 1000;

export function shortened(applied: Applied): Applied {
  return applied.changes.length > ANSWERED ? { ...applied, changes: [], isShortened: true } : applied;
}
