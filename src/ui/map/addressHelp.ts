/** What is said of an address while it is typed: where it leads, in all notations, or what was likeliest meant. */
import { MemoryRows } from '@/core/address/memoryRows.ts';
import { nextFree, type Span } from '@/core/address/memoryMap.ts';
import type { Device, Tag } from '@/core/project/entities.ts';
import { deviceIdOf } from '@/core/project/tagSource.ts';
import { parseDataType, type DataType } from '@/core/value/dataType.ts';
import type { DriverDescription } from '@/drivers/contract.ts';
import { describeDriver } from '@/drivers/descriptions.ts';
import type { ProjectView } from '../live/project.ts';

export type AddressAdvice =
  | {
      readonly kind: 'place';
      readonly words: string;
      /** The same place, written in other ways. */
      readonly ways: readonly string[];
      /** Tags that lie there already, in words; empty for none. */
      readonly taken: string;
      /** Another tag can say how far on it is meant. */
      readonly canBeMoved: boolean;
    }
  | {
      readonly kind: 'refused';
      readonly message: string;
      readonly remedy: string;
      readonly nearest: string | null;
      /** Where the device is told to accept it. */
      readonly href: string | null;
    };

const MOST_NAMES = 3;

/** Null where nothing was typed, or there is no device. @param tagId of the tag that is edited, empty for a new one */
export function adviceOn(
  project: ProjectView,
  device: Device | null,
  typeText: string,
  text: string,
  prefix: string,
  tagId: string,
): AddressAdvice | null {
  const driver = describeDriver(project.link(device?.linkId ?? '')?.driver ?? '');
  const type = parseDataType(typeText);
  if (!device || !driver || !type.ok || text.trim() === '') return null;
  const address = driver.notation.parse(prefix + text.trim(), type.value, device.dialect);
  if (!address.ok) {
    const { message, remedy = '', setting } = address.problem;
    const nearest = driver.notation.nearest?.(prefix + text.trim(), type.value, device.dialect) ?? null;
    return { kind: 'refused', message, remedy, nearest, href: setting === undefined ? null : `/links?device=${device.id}&setting=${setting}` };
  }
  const { canonical } = address.value;
  return {
    kind: 'place',
    words: driver.notation.explain(canonical, device.dialect),
    ways: (driver.notation.ways?.(canonical, type.value, device.dialect) ?? []).filter((way) => way !== text.trim()),
    taken: takenBy(project, { device, driver, type: type.value, canonical }, tagId),
    canBeMoved: driver.indexed?.moved(canonical, 0, type.value, device.dialect).ok ?? false,
  };
}

interface Sought {
  readonly device: Device;
  readonly driver: DriverDescription;
  readonly type: DataType;
  readonly canonical: string;
}

function takenBy(project: ProjectView, { device, driver, type, canonical }: Sought, tagId: string): string {
  const places = placesOn(project, device, driver);
  const own = driver.memory?.spanOf(canonical, type, device.dialect) ?? null;
  const area = own && places.areas.get(own.area);
  const cellBits = driver.memory?.areas.find(({ id }) => id === own?.area)?.cellBits ?? 1;
  const keys = own
    ? (area?.rows.in(Math.floor(own.from / cellBits), Math.ceil(own.bits / cellBits)) ?? [])
        .filter(({ from, to }) => from < own.from + own.bits && own.from < to)
        .map(({ key }) => key)
    : (places.named.get(canonical) ?? []);
  const names = keys.filter((key) => key !== tagId).map((key) => project.tag(key)?.name ?? '');
  return names.slice(0, MOST_NAMES).join(', ') + (names.length > MOST_NAMES ? ' and more' : '');
}

/** Places that are free for the type: behind the last tag of each area, and the first gap. */
export function freePlaces(project: ProjectView, device: Device, typeText: string): readonly string[] {
  const driver = describeDriver(project.link(device.linkId)?.driver ?? '');
  const type = parseDataType(typeText);
  const memory = driver?.memory;
  if (!driver || !memory || !type.ok) return [];
  const places = placesOn(project, device, driver);
  const found: string[] = [];
  for (const { id, cellBits, cells } of memory.areas) {
    const { spans = [] } = places.areas.get(id) ?? {};
    if (spans.length === 0 || (cellBits === 1) !== (type.value.kind === 'boolean')) continue;
    const bits = type.value.kind === 'boolean' ? 1 : Math.ceil((type.value.bytes * 8) / cellBits) * cellBits;
    const end = spans.reduce((most, span) => Math.max(most, span.to), 0);
    const first = spans.reduce((least, span) => Math.min(least, span.from), end);
    for (const start of [end, first]) {
      const free = nextFree(spans, bits, cellBits, start, cells * cellBits);
      if (free !== null) found.push(memory.addressAt(id, free / cellBits, null, device.dialect));
    }
  }
  return [...new Set(found)];
}

/** Where the tags of a device lie: worked out once a project, since each key that is pressed asks. */
interface DevicePlaces {
  readonly areas: ReadonlyMap<string, { readonly spans: Span[]; readonly rows: MemoryRows }>;
  /** Of places that are told by name: tags by canonical address. */
  readonly named: ReadonlyMap<string, readonly string[]>;
}
const known = new WeakMap<ProjectView, Map<string, DevicePlaces>>();

function placesOn(project: ProjectView, device: Device, driver: DriverDescription): DevicePlaces {
  const devices = known.get(project) ?? new Map<string, DevicePlaces>();
  known.set(project, devices);
  const found = devices.get(device.id);
  if (found) return found;
  const spans = new Map<string, Span[]>();
  const named = new Map<string, string[]>();
  for (const tag of project.allTags()) {
    if (deviceIdOf(tag) !== device.id) continue;
    const signal = project.effective(tag.id);
    if (!signal.ok) continue;
    const { canonical, span } = signal.value;
    if (span) gathered(spans, span.area).push(span);
    else gathered(named, canonical).push(tag.id);
  }
  const cellBits = (id: string): number => driver.memory?.areas.find((area) => area.id === id)?.cellBits ?? 1;
  const areas = new Map([...spans].map(([id, own]) => [id, { spans: own, rows: new MemoryRows(own, cellBits(id)) }]));
  const made = { areas, named };
  devices.set(device.id, made);
  return made;
}

function gathered<T>(into: Map<string, T[]>, key: string): T[] {
  const list = into.get(key) ?? [];
  into.set(key, list);
  return list;
}

/** The prefix that the groups above a tag put before its address. */
export function prefixOf(project: ProjectView, { groupId }: Pick<Tag, 'groupId'>): string {
  return project.inheritedBy(groupId).prefix;
}
