/** What groups say for all that stands below them: each setting comes from the nearest above that says something. */
import type { Group, Tag } from './entities.ts';
import type { Reads } from './kinds/device.ts';
import { pointIn } from './tagSource.ts';

type InheritedField = 'periodMs' | 'reads' | 'access' | 'unavailable' | 'witnessUrl';

export interface Inherited {
  readonly periodMs: number;
  /** Null for what the device says. */
  readonly reads: Reads | null;
  readonly access: 'read' | 'readWrite';
  /** The prefixes of all groups above, the outermost first. */
  readonly prefix: string;
  /** Raw values that are none. */
  readonly unavailable: string;
  /** Null for that of the device. */
  readonly witnessUrl: string | null;
  /** Which group says it; null where none does. */
  readonly saidBy: Readonly<Record<InheritedField, string | null>>;
}

/** Where no group says anything. */
export const UNGROUPED: Inherited = {
  periodMs: 1000,
  reads: null,
  access: 'read',
  prefix: '',
  unavailable: '',
  witnessUrl: null,
  saidBy: { periodMs: null, reads: null, access: null, unavailable: null, witnessUrl: null },
};

/** Groups inside groups inside groups. */
export const DEEPEST_GROUP = 12;

/** Settings below groups, the same object as long as nothing of it has changed. */
export class GroupSettings {
  readonly #known = new Map<string, { readonly group: Group; readonly above: Inherited; readonly own: Inherited }>();

  /** @param groupId the group that something stands in, null for none */
  below(groupId: string | null, groupOf: (id: string) => Group | null, depth = 0): Inherited {
    const group = groupId === null || depth > DEEPEST_GROUP ? null : groupOf(groupId);
    if (!group) return UNGROUPED;
    const above = this.below(group.parentId, groupOf, depth + 1);
    const known = this.#known.get(group.id);
    if (known?.group === group && known.above === above) return known.own;
    const own = inheritedBelow(group, above);
    this.#known.set(group.id, { group, above, own });
    return own;
  }
}

function inheritedBelow(group: Group, above: Inherited): Inherited {
  const says = (field: InheritedField): string | null => (group[field] === null ? above.saidBy[field] : group.id);
  return {
    periodMs: group.periodMs ?? above.periodMs,
    reads: group.reads ?? above.reads,
    access: group.access ?? above.access,
    prefix: above.prefix + group.prefix,
    unavailable: group.unavailable ?? above.unavailable,
    witnessUrl: group.witnessUrl ?? above.witnessUrl,
    saidBy: {
      periodMs: says('periodMs'),
      reads: says('reads'),
      access: says('access'),
      unavailable: says('unavailable'),
      witnessUrl: says('witnessUrl'),
    },
  };
}

/** How often the value of a tag is asked for, or a change of it wanted. */
export function periodOf(tag: Tag, inherited: Inherited): number {
  return pointIn(tag)?.periodMs ?? inherited.periodMs;
}

export function accessOf(tag: Tag, inherited: Inherited): 'read' | 'readWrite' {
  return tag.access ?? inherited.access;
}
