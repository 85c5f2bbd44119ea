/** Looks a whole project through for what is doubtful, before anything runs. */
import { counted } from '@/core/counted.ts';
import { idsIn } from '@/core/expression/references.ts';
import type { Device, Tag } from '@/core/project/entities.ts';
import { sortedJson } from '@/core/project/sameJson.ts';
import { deviceIdOf } from '@/core/project/tagSource.ts';
import { deviceDoubts } from './deviceDoubts.ts';
import type { Doubt, PreflightProject, Severity } from './doubt.ts';
import { tagDoubts } from './tagDoubts.ts';

const RANK: Readonly<Record<Severity, number>> = { error: 0, warning: 1, note: 2 };

/** What is known of a device's tags from the time before, as long as they are the same. */
interface Known {
  readonly tags: readonly Tag[];
  readonly device: Device | null;
  readonly doubts: readonly Doubt[];
}

/** Keeps what it found of each tag and device, and looks only at what changed since. */
export class Preflight {
  readonly #tags = new Map<string, { readonly effective: unknown; readonly tag: Tag; readonly doubts: readonly Doubt[] }>();
  readonly #devices = new Map<string, Known & { readonly effective: readonly unknown[] }>();

  /** All that is doubtful, the gravest first. */
  of(project: PreflightProject): readonly Doubt[] {
    const doubts: Doubt[] = [];
    const byDevice = new Map<string, Tag[]>();
    const seen = new Set<string>();
    for (const tag of project.allTags()) {
      doubts.push(...this.#ofTag(project, tag));
      seen.add(tag.id);
      const deviceId = deviceIdOf(tag);
      if (deviceId === null) continue;
      const tags = byDevice.get(deviceId);
      if (tags) tags.push(tag);
      else byDevice.set(deviceId, [tag]);
    }
    for (const id of this.#tags.keys()) if (!seen.has(id)) this.#tags.delete(id);
    for (const device of project.devices) doubts.push(...this.#ofDevice(project, device, byDevice.get(device.id) ?? []));
    doubts.push(...partyDoubts(project, byDevice), ...panelDoubts(project), ...unusedDoubts(project, byDevice));
    return doubts.sort((a, b) => RANK[a.severity] - RANK[b.severity]);
  }

  #ofTag(project: PreflightProject, tag: Tag): readonly Doubt[] {
    const effective = project.effective(tag.id);
    const known = this.#tags.get(tag.id);
    if (known?.effective === effective && known.tag === tag) return known.doubts;
    const doubts = tagDoubts(project, tag);
    this.#tags.set(tag.id, { effective, tag, doubts });
    return doubts;
  }

  #ofDevice(project: PreflightProject, device: Device, tags: readonly Tag[]): readonly Doubt[] {
    const effective = tags.map((tag) => project.effective(tag.id));
    const known = this.#devices.get(device.id);
    const isSame = known?.device === device && known.effective.length === effective.length && known.effective.every((one, i) => one === effective[i]);
    if (isSame && known.tags.every((tag, i) => tag === tags[i])) return known.doubts;
    const doubts = deviceDoubts(project, device, tags);
    this.#devices.set(device.id, { tags, device, doubts, effective });
    return doubts;
  }
}

function partyDoubts(project: PreflightProject, byDevice: ReadonlyMap<string, readonly Tag[]>): readonly Doubt[] {
  const doubts: Doubt[] = [];
  const parties = new Map<string, Device>();
  const used = new Set<string>();
  for (const device of project.devices) {
    used.add(device.linkId);
    const about = { kind: 'device', id: device.id } as const;
    const party = `${device.linkId} ${sortedJson(device.settings) ?? ''}`;
    const twin = parties.get(party);
    if (twin)
      doubts.push({ code: 'same-party', severity: 'error', message: `${device.name} and ${twin.name} are the same device on the same link.`, about });
    else parties.set(party, device);
    if ((byDevice.get(device.id) ?? []).length === 0)
      doubts.push({ code: 'no-tags', severity: 'note', message: `${device.name} has no tags, so nothing is read of it.`, about });
  }
  for (const link of project.links)
    if (!used.has(link.id))
      doubts.push({ code: 'no-devices', severity: 'note', message: `The link ${link.name} has no device.`, about: { kind: 'link', id: link.id } });
  return doubts;
}

function panelDoubts(project: PreflightProject): readonly Doubt[] {
  const doubts: Doubt[] = [];
  for (const panel of project.panels)
    for (const page of project.pagesOf(panel.id)) {
      const elements = project.elementsOn(page.id);
      const about = { kind: 'page', id: page.id } as const;
      const lost = elements.filter(({ tagId }) => tagId === null);
      if (lost.length > 0)
        doubts.push({
          code: 'no-tag-shown',
          severity: 'warning',
          message: `${panel.name}, ${page.name}: ${lost
            .map(({ label, kind }) => (label === '' ? kind : `“${label}”`))
            .slice(0, 5)
            .join(', ')} ${lost.length === 1 ? 'shows' : 'show'} no tag.`,
          about,
        });
      if (elements.length === 0) doubts.push({ code: 'empty-page', severity: 'note', message: `${panel.name}, ${page.name} is empty.`, about });
    }
  return doubts;
}

/** Tags that no page, calculation, confirmation or device needs: told once a device, since most lists bring many. */
function unusedDoubts(project: PreflightProject, byDevice: ReadonlyMap<string, readonly Tag[]>): readonly Doubt[] {
  const used = new Set<string>();
  for (const panel of project.panels)
    for (const page of project.pagesOf(panel.id)) for (const { tagId } of project.elementsOn(page.id)) if (tagId !== null) used.add(tagId);
  for (const device of project.devices)
    for (const tagId of [device.identityTagId, device.lifeTagId, device.ownLifeTagId]) if (tagId !== null) used.add(tagId);
  for (const { source, confirm } of project.allTags()) {
    if (source.kind === 'calculated') for (const id of idsIn(source.expression)) used.add(id);
    if (confirm.kind === 'follows') used.add(confirm.tagId);
  }
  return project.devices.flatMap((device): Doubt[] => {
    const unused = (byDevice.get(device.id) ?? []).filter(({ id }) => !used.has(id)).length;
    return unused === 0
      ? []
      : [
          {
            code: 'unused',
            severity: 'note',
            message: `${counted(unused, 'tag')} of ${device.name} ${unused === 1 ? 'is' : 'are'} on no page and in no calculation.`,
            about: { kind: 'device', id: device.id },
          },
        ];
  });
}
