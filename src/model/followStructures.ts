/** What becomes of the members of blocks when their structure changes: tags follow it where they had what it said before. */
import { v5 as namedUuid } from 'uuid';
import type { AnyEntity, Block, Entities, EntityKind, Structure, Tag } from '@/core/project/entities.ts';
import { ENTITY_DEFAULTS } from '@/core/project/entities.ts';
import { following, leavesOf, memberAt, type StructuresNamed } from '@/core/project/structureTree.ts';
import { newPoint, pointIn, withPoint } from '@/core/project/tagSource.ts';
import { parseDataType } from '@/core/value/dataType.ts';
import type { AddressNotation, Settings } from '@/drivers/contract.ts';
import { describeDriver } from '@/drivers/descriptions.ts';
import { blockAddresses } from '@/mapping/blockAddresses.ts';
import type { Look } from './fits.ts';

export interface FollowingWith {
  /** As it stood before the command. */
  readonly before: <K extends EntityKind>(kind: K, id: string) => Entities[K] | null;
  /** As the command leaves it so far. */
  readonly look: Look;
  readonly put: (kind: EntityKind, id: string, entity: AnyEntity | null) => void;
  readonly structuresOf: (deviceId: string) => Iterable<string>;
  readonly blocksOf: (deviceId: string) => Iterable<string>;
  /** A list that comes with the command brings its tags itself: then none is made for a new member. */
  readonly bringsTags: boolean;
  /** The tag of a name beside another one, as it will be. */
  readonly tagBeside: (sibling: Tag, name: string) => string | null;
  /** The tags of a block, by the ids of which they are its members. */
  readonly membersOf: (blockId: string) => Iterable<string>;
}

/** A longer one is no name of a tag. */
const LONGEST_NAME = 80;

/** @param structures that the command changes */
export function* followStructures(structures: readonly Structure[], along: FollowingWith): Generator<void> {
  for (const deviceId of new Set(structures.map((s) => s.deviceId))) {
    const [was, is] = [namedIn(deviceId, along.before, along), namedIn(deviceId, along.look, along)];
    for (const id of along.blocksOf(deviceId)) {
      const block = along.look('block', id);
      const [before, after] = [along.before('structure', block?.structureId ?? ''), along.look('structure', block?.structureId ?? '')];
      if (block && before && after) yield* followBlock(block, { before, after, was, is }, along);
    }
  }
}

interface Change {
  readonly before: Structure;
  readonly after: Structure;
  readonly was: StructuresNamed;
  readonly is: StructuresNamed;
}

function* followBlock(block: Block, { before, after, was, is }: Change, along: FollowingWith): Generator<void> {
  const { look, put, membersOf } = along;
  const device = look('device', block.deviceId);
  const driver = describeDriver(look('link', device?.linkId ?? '')?.driver ?? '');
  const addressesIn = (structure: Structure, named: StructuresNamed): ReadonlyMap<string, string> =>
    device && driver && block.address !== '' ? blockAddresses(block.address, structure, named, { driver, dialect: device.dialect }) : NO_ADDRESSES;
  const [places, nextPlaces] = [addressesIn(before, was), addressesIn(after, is)];
  /** Where a member moves to, when its tag lies where the structure had it. */
  const moved = (tag: Tag, path: string): Partial<Tag> => {
    const [from, to, own] = [places.get(path), nextPlaces.get(path), pointIn(tag)];
    if (!driver || !device || from === undefined || to === undefined || from === to || !own) return {};
    return isSamePlace(driver.notation, own.address, from, tag, device.dialect) ? withPoint(tag, { address: to }) : {};
  };
  const known = new Map<string, Tag>();
  for (const id of membersOf(block.id)) {
    yield;
    const [member, tag] = [look('member', id), look('tag', id)];
    if (!member || !tag) continue;
    const path = member.path.toLowerCase();
    known.set(path, tag);
    const [from, to] = [memberAt(before, member.path, was), memberAt(after, member.path, is)];
    // A member that its structure no longer has: the tag stands for itself from then on.
    if (!to) {
      put('member', id, null);
      continue;
    }
    const taken = { ...(from ? following(tag, from, to) : {}), ...moved(tag, path) };
    if (Object.keys(taken).length > 0) put('tag', id, { ...tag, ...taken });
  }
  const [sibling] = known.values();
  if (along.bringsTags || !sibling) return;
  const old = new Set(leavesOf(before, was).map(([path]) => path.toLowerCase()));
  for (const [path, member] of leavesOf(after, is)) {
    yield;
    // The same id each time, so that a member that comes back is itself.
    const id = namedUuid(path.toLowerCase(), block.id);
    const name = `${block.name}.${path}`;
    const address = nextPlaces.get(path.toLowerCase());
    if (
      address === undefined ||
      name.length > LONGEST_NAME ||
      old.has(path.toLowerCase()) ||
      known.has(path.toLowerCase()) ||
      look('tag', id) !== null
    )
      continue;
    // One that is there by that name becomes the member.
    const there = along.tagBeside(sibling, name);
    if (there !== null) {
      if (look('member', there) === null) put('member', there, { id: there, blockId: block.id, path });
      continue;
    }
    const { type, unit, decimals, rangeLow, rangeHigh, comment, names, access } = member;
    const own = { type, unit, decimals, rangeLow, rangeHigh, comment, names, access };
    const source = newPoint(block.deviceId, address);
    put('tag', id, { ...ENTITY_DEFAULTS.tag, ...own, id, name, groupId: sibling.groupId, source, listId: '' } as unknown as Tag);
    put('member', id, { id, blockId: block.id, path });
  }
}

const NO_ADDRESSES: ReadonlyMap<string, string> = new Map();

/** However the two are written. */
function isSamePlace(notation: AddressNotation, one: string, other: string, tag: Tag, dialect: Settings): boolean {
  if (one === other) return true;
  const type = parseDataType(tag.type);
  if (!type.ok) return false;
  const [a, b] = [notation.parse(one, type.value, dialect), notation.parse(other, type.value, dialect)];
  return a.ok && b.ok && a.value.canonical === b.value.canonical;
}

function namedIn(deviceId: string, look: FollowingWith['before'], { structuresOf }: FollowingWith): StructuresNamed {
  return structuresNamed(structuresOf(deviceId), look);
}

export function structuresNamed(ids: Iterable<string>, look: FollowingWith['before']): StructuresNamed {
  const found = new Map<string, Structure>();
  for (const id of ids) {
    const structure = look('structure', id);
    if (structure) found.set(structure.name.toLowerCase(), structure);
  }
  return (name) => found.get(name.toLowerCase()) ?? null;
}
