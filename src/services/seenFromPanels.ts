/**
 * What a phone or panel on the network gets of the project: panels and what they show. No hosts and unit numbers, no lists,
 * no comments, no proofs, and nobody's name.
 */
import type { LiveSample } from '@/core/live/messages.ts';
import type { Status } from '@/core/live/status.ts';
import type { Device, Link, Tag } from '@/core/project/entities.ts';
import type { Snapshot } from '@/core/project/snapshot.ts';
import type { ProjectModel } from '@/model/projectModel.ts';

/** Whether a panel shows the tag. */
export function isOnPanel(model: ProjectModel, tagId: string): boolean {
  return model.elementsOf(tagId).length > 0;
}

export function panelSnapshot(whole: Snapshot): Snapshot {
  const shown = new Set(whole.elements.flatMap(({ tagId }) => tagId ?? []));
  const tags = whole.tags.filter(({ id }) => shown.has(id));
  const deviceIds = new Set(tags.map(({ deviceId }) => deviceId));
  const devices = whole.devices.filter(({ id }) => deviceIds.has(id));
  const linkIds = new Set(devices.map(({ linkId }) => linkId));
  return {
    ...whole,
    project: { ...whole.project, dialects: [] },
    links: whole.links.filter(({ id }) => linkIds.has(id)).map(withoutPlace),
    devices: devices.map(withoutIdentity),
    sources: [],
    tags: tags.map(withoutNotes),
    scales: whole.scales.filter(({ id }) => shown.has(id)),
    proofs: [],
  };
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

function withoutPlace(link: Link): Link {
  return { ...link, settings: {}, real: null };
}

function withoutIdentity(device: Device): Device {
  return { ...device, settings: {}, witnessUrl: '', identityTagId: null, identity: '', lifeTagId: null, ownLifeTagId: null };
}

/** How a write is confirmed is the server's to know. */
function withoutNotes(tag: Tag): Tag {
  const confirm = tag.confirm.kind === 'follows' ? ({ kind: 'none' } as const) : tag.confirm;
  return { ...tag, comment: '', sourceId: '', listName: '', confirm, initial: '' };
}
