/** Of a project what one panel needs: what a panel host is sent. Whatever it names comes with it, and nothing else. */
import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';
import { shownBy } from '@/core/panel/panelAlarms.ts';
import { sortedJson } from '@/core/project/sameJson.ts';
import type { AnyEntity, Device, EntityKind } from '@/core/project/entities.ts';
import { LISTED_KINDS, listIn, listsOf, type ListedKind } from '@/core/project/snapshot.ts';
import type { FiledProject } from '@/core/projectFile/projectFile.ts';

/** Those of other panels are not fetched by what names them, and rules are the bench's. */
const NEVER_FOLLOWED: ReadonlySet<ListedKind> = new Set<ListedKind>([
  'panel',
  'page',
  'element',
  'panelWord',
  'copyRule',
  'alarm',
  'operator',
  'simulation',
]);
const ID = /[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}/gi;

export interface PanelProject {
  readonly project: FiledProject;
  /** Names of devices that are simulated here, and are those of the machine there. */
  readonly ledBack: readonly string[];
}

/**
 * @param subjectTags tags that its pages show for any of their subjects: they are found by their names
 * @returns null where there is no such panel
 */
export function panelProject(project: FiledProject, panelId: string, subjectTags: Iterable<string>): PanelProject | null {
  const byId = new Map<string, { readonly kind: ListedKind; readonly entity: AnyEntity }[]>();
  for (const kind of LISTED_KINDS)
    for (const entity of listIn(project, kind) as readonly AnyEntity[]) {
      const known = byId.get(entity.id);
      if (known) known.push({ kind, entity });
      else byId.set(entity.id, [{ kind, entity }]);
    }
  const panel = project.panels.find(({ id }) => id === panelId);
  if (!panel) return null;
  const pages = project.pages.filter((page) => page.panelId === panelId);
  const pageIds = new Set(pages.map(({ id }) => id));
  const elements = project.elements.filter(({ pageId }) => pageIds.has(pageId));
  const taken = new Map<ListedKind, Set<AnyEntity>>(LISTED_KINDS.map((kind) => [kind, new Set()]));
  const open: AnyEntity[] = [];
  const take = (kind: ListedKind, entity: AnyEntity): void => {
    const all = taken.get(kind);
    if (!all || all.has(entity)) return;
    all.add(entity);
    open.push(entity);
  };
  take('panel', panel);
  for (const page of pages) take('page', page);
  for (const element of elements) take('element', element);
  for (const word of project.panelWords) if (word.panelId === panelId) take('panelWord', word);
  for (const person of project.operators) take('operator', person);
  const isShown = shownBy(elements);
  for (const alarm of project.alarms) if (isShown(alarm)) take('alarm', alarm);
  if (panel.languages.length > 1) for (const translation of project.translations) take('translation', translation);
  const named = (id: string): void => {
    for (const { kind, entity } of byId.get(id) ?? []) if (!NEVER_FOLLOWED.has(kind)) take(kind, entity);
  };
  for (const id of subjectTags) named(id);
  const membersOf = new Map<string, string[]>();
  for (const { id, blockId } of project.members) membersOf.set(blockId, [...(membersOf.get(blockId) ?? []), id]);
  for (let entity = open.pop(); entity; entity = open.pop()) {
    for (const [id] of JSON.stringify(entity).matchAll(ID)) named(id.toLowerCase());
    // A block without one of its members would be given a new one.
    for (const id of membersOf.get(entity.id) ?? []) named(id);
  }
  const ledBack: string[] = [];
  const lists = listsOf((kind) => [...(taken.get(kind) ?? [])].map((entity) => sent(kind, entity, ledBack)) as never);
  return { project: { project: project.project, ...lists, proofs: [] }, ledBack };
}

/** A host is for the machine: it reads the real devices. */
function sent(kind: ListedKind, entity: AnyEntity, ledBack: string[]): AnyEntity {
  if (kind !== 'device') return entity;
  const device = entity as Device;
  if (device.isSimulated) ledBack.push(device.name);
  return { ...device, witnessUrl: '', isSimulated: false };
}

/** Of what it says, whenever and wherever it was written (SHA-256 of its things in a fixed order). */
export function projectDigest(entities: readonly { readonly kind: EntityKind; readonly entity: AnyEntity }[]): string {
  const lines = entities.map(({ kind, entity }) => `${kind} ${sortedJson(entity) ?? ''}`).sort();
  return bytesToHex(sha256(utf8ToBytes(lines.join('\n'))));
}

export function entitiesOf(project: FiledProject): { readonly kind: EntityKind; readonly entity: AnyEntity }[] {
  const all: { kind: EntityKind; entity: AnyEntity }[] = [{ kind: 'project', entity: project.project }];
  for (const kind of LISTED_KINDS) for (const entity of listIn(project, kind) as readonly AnyEntity[]) all.push({ kind, entity });
  return all;
}
