/**
 * What versions before groups and sources have stored, in today's form: tags in project files, in the log of changes and in
 * packed lists. The tables of a data folder are brought over by migration 012, to the same groups.
 */
import { v3 as namedUuid } from 'uuid';
import { earlierHeight, fromEarlierElement, isEarlierElement } from '../panel/earlierElement.ts';
import type { Group, Tag } from './entities.ts';
import { groupParts } from './tagPath.ts';
import { newPoint } from './tagSource.ts';

type Entity = Readonly<Record<string, unknown>>;

/** Groups that the texts of tags stand for, each made once. */
export class EarlierGroups {
  readonly #groups = new Map<string, Group>();
  readonly #ids = new Map<string, string | null>();

  /** @returns the id of the group that a text stands for, null for none */
  idOf(deviceId: string, text: string): string | null {
    const key = `${deviceId} ${text}`;
    const known = this.#ids.get(key);
    if (known !== undefined) return known;
    const parts = groupParts(text);
    let parentId: string | null = null;
    for (const [at, name] of parts.entries()) {
      // RFC 9562, 5.3: its namespace is the device, as in the migration.
      const id: string = namedUuid(parts.slice(0, at + 1).join('/'), deviceId);
      if (!this.#groups.has(id))
        this.#groups.set(id, {
          id,
          name,
          parentId,
          deviceId,
          periodMs: null,
          reads: null,
          access: null,
          prefix: '',
          unavailable: null,
          witnessUrl: null,
        });
      parentId = id;
    }
    this.#ids.set(key, parentId);
    return parentId;
  }

  /** All that were asked for, each after the one it stands in. */
  get groups(): readonly Group[] {
    return [...this.#groups.values()];
  }
}

/** A tag as it was stored before, told by its field `deviceId`. */
export function isEarlierTag(entity: Entity): boolean {
  return 'deviceId' in entity && 'address' in entity && !('source' in entity);
}

/** @param groups takes up the group that it stands in */
export function fromEarlierTag(entity: Entity, groups: EarlierGroups): Tag {
  const { deviceId, group, address, order, periodMs, sourceId, ...rest } = entity;
  return {
    ...rest,
    groupId: groups.idOf(String(deviceId), typeof group === 'string' ? group : ''),
    source: newPoint(String(deviceId), address as string, { order: order as string, periodMs: periodMs as number }),
    listId: sourceId,
  } as unknown as Tag;
}

/** A whole project file of before: its parts as they are called in a file. */
export function fromEarlierFile(file: Entity): Entity {
  return {
    copyRules: [],
    sharedScales: [],
    pictures: [],
    panelWords: [],
    subjectLists: [],
    operators: [],
    alarms: [],
    translations: [],
    simulations: [],
    ...fromBeforeSimulation(fromBeforePages(fromBeforeEnumerations(fromBeforeStructures(fromBeforeGroups(file))))),
  };
}

/** A link led to a simulation of all its devices, and said how the machine is reached. */
function fromBeforeSimulation(file: Entity): Entity {
  if ('simulations' in file || !Array.isArray(file.links)) return file;
  const led = new Set(listed(file.links).flatMap(({ id, real }) => (real === null || real === undefined ? [] : [id])));
  const links = listed(file.links).map(({ real, ...link }) => (real === null || real === undefined ? link : { ...link, ...real }));
  const devices = listed(file.devices).map((device) => (led.has(device.linkId) ? { ...device, isSimulated: true, witnessUrl: '' } : device));
  return { ...file, links, devices: Array.isArray(file.devices) ? devices : file.devices };
}

/** Pages had twelve columns. */
function fromBeforePages(file: Entity): Entity {
  if ('stateLists' in file || !Array.isArray(file.elements)) return file;
  const elements = (file.elements as readonly Entity[]).map((element) => (isEarlierElement(element) ? fromEarlierElement(element) : element));
  const panelOf = new Map(listed(file.pages).map(({ id, panelId }) => [id, panelId]));
  const panels = listed(file.panels).map((panel) => ({
    ...panel,
    height: earlierHeight(elements.flatMap(({ pageId, y, h }) => (panelOf.get(pageId) === panel.id ? Number(y) + Number(h) : []))),
  }));
  return { stateLists: [], ...file, panels, elements };
}

function listed(list: unknown): readonly Entity[] {
  return Array.isArray(list) ? (list as readonly Entity[]) : [];
}

function fromBeforeEnumerations(file: Entity): Entity {
  return 'enumerations' in file ? file : { enumerations: [], ...file };
}

/** Files of before structures were kept have none. */
function fromBeforeStructures(file: Entity): Entity {
  return 'structures' in file ? file : { structures: [], blocks: [], members: [], ...file };
}

function fromBeforeGroups(file: Entity): Entity {
  if (!Array.isArray(file.tags) || 'groups' in file) return file;
  const groups = new EarlierGroups();
  const tags = file.tags.map((tag: unknown) =>
    typeof tag === 'object' && tag !== null && isEarlierTag(tag as Entity) ? fromEarlierTag(tag as Entity, groups) : tag,
  );
  return { ...file, devices: withOwnNames(file.devices), groups: groups.groups, tags };
}

/** The name of a device was only its own on its link; the second of one name gets a number. */
function withOwnNames(devices: unknown): unknown {
  if (!Array.isArray(devices)) return devices;
  const known = devices.filter((d: unknown): d is { readonly id: string; readonly name: string } => {
    const { id, name } = (typeof d === 'object' && d !== null ? d : {}) as Entity;
    return typeof id === 'string' && typeof name === 'string';
  });
  const counts = new Map<string, number>();
  const names = new Map<string, string>();
  for (const { id, name } of [...known].sort((a, b) => (a.id < b.id ? -1 : 1))) {
    const place = (counts.get(name.toLowerCase()) ?? 0) + 1;
    counts.set(name.toLowerCase(), place);
    if (place > 1) names.set(id, `${name.slice(0, 70)} (${place})`);
  }
  return devices.map((device: unknown) => {
    const id = (device as { readonly id?: string } | null)?.id;
    const name = id === undefined ? undefined : names.get(id);
    return name === undefined ? device : { ...(device as object), name };
  });
}
