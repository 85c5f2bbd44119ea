/**
 * What a phone or panel on the network gets of the project: panels and what they show. No hosts and device numbers, no lists,
 * no comments, no proofs, and nobody's name.
 */
import type { LiveSample } from '@/core/live/messages.ts';
import type { Status } from '@/core/live/status.ts';
import { ENTITY_KINDS, KINDS, type Entities, type EntityKind, type Group, type Tag } from '@/core/project/entities.ts';
import { fieldsOf } from '@/core/project/kinds/kind.ts';
import { listsOf, type Snapshot } from '@/core/project/snapshot.ts';
import { groupsAbove } from '@/core/project/tagPath.ts';
import { deviceIdOf } from '@/core/project/tagSource.ts';
import type { ProjectModel } from '@/model/projectModel.ts';

/** Whether a panel shows the tag. */
export function isOnPanel(model: ProjectModel, tagId: string): boolean {
  return model.elementsOf(tagId).length > 0;
}

export function panelSnapshot(whole: Snapshot): Snapshot {
  const shown = new Set(whole.elements.flatMap(({ tagId }) => tagId ?? []));
  const tags = whole.tags.filter(({ id }) => shown.has(id));
  const deviceIds = new Set(tags.flatMap((tag) => deviceIdOf(tag) ?? []));
  const devices = whole.devices.filter(({ id }) => deviceIds.has(id));
  const linkIds = new Set(devices.map(({ linkId }) => linkId));
  // Of a kind that is not named here they see nothing.
  return {
    ...whole,
    ...listsOf(() => []),
    panels: whole.panels,
    pages: whole.pages,
    elements: whole.elements,
    project: onPanels('project', whole.project),
    links: whole.links.filter(({ id }) => linkIds.has(id)).map((link) => onPanels('link', link)),
    devices: devices.map((device) => onPanels('device', device)),
    groups: groupsOf(tags, whole.groups).map((group) => onPanels('group', group)),
    tags: tags.map((tag) => onPanels('tag', tag)),
    scales: whole.scales.filter(({ id }) => shown.has(id)).map((scale) => onPanels('scale', scale)),
    proofs: [],
  };
}

/** The groups that tags stand in, and all above them. */
function groupsOf(tags: readonly Tag[], groups: readonly Group[]): readonly Group[] {
  const byId = new Map(groups.map((group) => [group.id, group]));
  const kept = new Set<Group>();
  for (const { groupId } of tags) for (const group of groupsAbove(groupId, { group: (id) => byId.get(id) ?? null })) kept.add(group);
  return [...kept];
}

export function panelStatus(status: Status): Status {
  return {
    ...status,
    links: status.links.map((link) => ({ ...link, problem: null })),
    devices: status.devices.map((device) => ({ ...device, detail: '' })),
    unlocked: status.unlocked.map((unlocked) => ({ ...unlocked, who: '' })),
  };
}

/** Why there is no value names hosts and ports; what kind of reason it is stays. */
export function panelSample(sample: LiveSample): LiveSample {
  return sample.broken?.stage === 'wire' ? { ...sample, quality: { ...sample.quality, detail: '' }, broken: null } : sample;
}

/** The entity with what its kind keeps from panels taken out. */
function onPanels<K extends EntityKind>(kind: K, entity: Entities[K]): Entities[K] {
  const seen: Record<string, unknown> = { ...entity };
  for (const [name, field] of HIDING[kind]) seen[name] = field.onPanels?.(seen[name]);
  return seen as unknown as Entities[K];
}

const HIDING = Object.fromEntries(
  ENTITY_KINDS.map((kind) => [kind, fieldsOf(KINDS[kind]).filter(([, field]) => field.onPanels !== undefined)]),
) as unknown as Readonly<Record<EntityKind, ReturnType<typeof fieldsOf>>>;
