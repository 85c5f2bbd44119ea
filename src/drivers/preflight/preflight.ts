/** Looks a whole project through for what is doubtful, before anything runs. */
import { counted } from '@/core/counted.ts';
import { idsIn } from '@/core/expression/references.ts';
import type { Device, Tag } from '@/core/project/entities.ts';
import { sortedJson } from '@/core/project/sameJson.ts';
import { deviceIdOf } from '@/core/project/tagSource.ts';
import { deviceDoubts, placedOf, type Placed } from './deviceDoubts.ts';
import type { Doubt, PreflightProject, Severity } from './doubt.ts';
import { tagDoubts } from './tagDoubts.ts';

const RANK: Readonly<Record<Severity, number>> = { error: 0, warning: 1, note: 2 };

/** What was found of a tag, as long as it and its settings are the same. */
interface Known {
  readonly effective: unknown;
  readonly tag: Tag;
  readonly device: Device | null;
  readonly doubts: readonly Doubt[];
  /** Null where its settings do not fit together, or its source is no device. */
  readonly placed: Placed | null;
}

/** Keeps what it found of each tag and device, and looks only at what changed since. */
export class Preflight {
  readonly #tags = new Map<string, Known>();
  readonly #devices = new Map<string, { readonly placed: readonly Placed[]; readonly doubts: readonly Doubt[] }>();

  /** All that is doubtful, the gravest first. */
  of(project: PreflightProject): readonly Doubt[] {
    const doubts: Doubt[] = [];
    const placed = new Map<string, Placed[]>();
    const byDevice = new Map<string, Tag[]>();
    let seen = 0;
    for (const tag of project.allTags()) {
      seen++;
      const known = this.#ofTag(project, tag);
      doubts.push(...known.doubts);
      const deviceId = deviceIdOf(tag);
      if (deviceId === null) continue;
      const tags = byDevice.get(deviceId);
      if (tags) tags.push(tag);
      else byDevice.set(deviceId, [tag]);
      if (!known.placed) continue;
      const others = placed.get(deviceId);
      if (others) others.push(known.placed);
      else placed.set(deviceId, [known.placed]);
    }
    if (this.#tags.size > seen) this.#forget(project);
    for (const { id } of project.devices) doubts.push(...this.#ofDevice(project, id, placed.get(id) ?? []));
    doubts.push(...partyDoubts(project, byDevice), ...panelDoubts(project), ...unusedDoubts(project, byDevice));
    return doubts.sort((a, b) => RANK[a.severity] - RANK[b.severity]);
  }

  #forget(project: PreflightProject): void {
    const there = new Set<string>();
    for (const { id } of project.allTags()) there.add(id);
    for (const id of this.#tags.keys()) if (!there.has(id)) this.#tags.delete(id);
  }

  #ofTag(project: PreflightProject, tag: Tag): Known {
    const effective = project.effective(tag.id);
    const device = project.device(deviceIdOf(tag) ?? '');
    const before = this.#tags.get(tag.id);
    if (before?.effective === effective && before.tag === tag && before.device === device) return before;
    const placed = effective.ok && device ? placedOf(project, device, tag, effective.value) : null;
    const known = { effective, tag, device, doubts: tagDoubts(project, tag), placed };
    this.#tags.set(tag.id, known);
    return known;
  }

  #ofDevice(project: PreflightProject, deviceId: string, placed: readonly Placed[]): readonly Doubt[] {
    const before = this.#devices.get(deviceId);
    if (before?.placed.length === placed.length && before.placed.every((one, i) => one === placed[i])) return before.doubts;
    const doubts = deviceDoubts(project, placed);
    this.#devices.set(deviceId, { placed, doubts });
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
