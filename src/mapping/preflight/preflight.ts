/** Looks a whole project through for what is doubtful, before anything runs. */
import { counted } from '@/core/counted.ts';
import { idsIn } from '@/core/expression/references.ts';
import { atOnce } from '@/core/inSlices.ts';
import type { Device, EntityKind, Tag } from '@/core/project/entities.ts';
import { sortedJson } from '@/core/project/sameJson.ts';
import { deviceIdOf, expressionIn } from '@/core/project/tagSource.ts';
import { loopProblem } from '../copies/copyLoop.ts';
import { copyPairs, copyProblem } from '../copies/copyPairs.ts';
import { tagsOfAlarm } from '@/core/alarm/alarmTags.ts';
import { alarmDoubts } from './alarmDoubts.ts';
import { DeviceLook, placedOf } from './deviceDoubts.ts';
import type { Doubt, PreflightProject, Severity } from './doubt.ts';
import { panelDoubts } from './panelDoubts.ts';
import { tagDoubts } from './tagDoubts.ts';

const SEVERITIES: readonly Severity[] = ['error', 'warning', 'note'];
/** Tags between which others get their turn. */
const STEP = 200;
/** What only changes what is said of a tag itself; any other kind may change what is said of all. */
const OF_ONE_TAG: ReadonlySet<EntityKind> = new Set(['tag', 'scale', 'element', 'page', 'panel', 'member', 'source', 'copyRule', 'alarm']);

/** Keeps what it found of each tag and device, and looks only at what changed since. */
export class Preflight {
  #revision: number | null = null;
  /** Of a tag that something is doubtful of. */
  #doubts = new Map<string, readonly Doubt[]>();
  #devices = new Map<string, DeviceLook>();
  #deviceOf = new Map<string, string>();
  #countOn = new Map<string, number>();
  /** What tags say of other tags: those that an expression uses, the one that confirms a write. */
  #uses = new Map<string, readonly string[]>();

  /** All that is doubtful, the gravest first. */
  of(project: PreflightProject): readonly Doubt[] {
    return atOnce(this.looking(project));
  }

  /** {@link of} in steps, since a project may have a hundred thousand tags. One that is broken off begins anew. */
  *looking(project: PreflightProject): Generator<void, readonly Doubt[]> {
    const changes = this.#revision === null ? null : project.changesSince(this.#revision);
    this.#revision = null;
    if (changes?.every(({ kind }) => OF_ONE_TAG.has(kind))) {
      const touched = new Set(changes.filter(({ kind }) => kind === 'tag' || kind === 'scale').map(({ id }) => id));
      // What an expression gives follows from the tags that it uses, through others too.
      if (touched.size > 0) for (const id of this.#uses.keys()) touched.add(id);
      yield* this.#look(
        project,
        Array.from(touched, (id) => ({ id, tag: project.tag(id) })),
      );
    } else {
      this.#forget();
      yield* this.#look(
        project,
        Array.from(project.allTags(), (tag) => ({ id: tag.id, tag })),
      );
    }
    this.#revision = project.revision;
    const doubts: Doubt[] = [];
    for (const found of this.#doubts.values()) doubts.push(...found);
    for (const { id } of project.devices) doubts.push(...(yield* this.#devices.get(id)?.doubts(project) ?? nothing()));
    doubts.push(
      ...partyDoubts(project, this.#countOn),
      ...panelDoubts(project),
      ...alarmDoubts(project),
      ...copyDoubts(project),
      ...this.#unusedDoubts(project),
    );
    return SEVERITIES.flatMap((severity) => doubts.filter((doubt) => doubt.severity === severity));
  }

  #forget(): void {
    for (const kept of [this.#doubts, this.#devices, this.#deviceOf, this.#countOn, this.#uses]) kept.clear();
  }

  *#look(project: PreflightProject, tags: Iterable<{ readonly id: string; readonly tag: Tag | null }>): Generator<void, void> {
    let looked = 0;
    for (const { id, tag } of tags) {
      this.#lookAt(project, id, tag);
      if (++looked % STEP === 0) yield;
    }
  }

  #lookAt(project: PreflightProject, id: string, tag: Tag | null): void {
    const [before, now] = [this.#deviceOf.get(id) ?? null, tag && deviceIdOf(tag)];
    if (before !== now) {
      if (before !== null) {
        this.#devices.get(before)?.put(id, null);
        this.#count(before, -1);
        this.#deviceOf.delete(id);
      }
      if (now !== null) {
        this.#count(now, 1);
        this.#deviceOf.set(id, now);
      }
    }
    const effective = project.effective(id);
    const doubts = tag ? tagDoubts(project, tag, effective) : [];
    if (doubts.length > 0) this.#doubts.set(id, doubts);
    else this.#doubts.delete(id);
    const uses = tag ? usesOf(tag) : [];
    if (uses.length > 0) this.#uses.set(id, uses);
    else this.#uses.delete(id);
    const device = now === null ? null : project.device(now);
    if (!tag || now === null || !device) return;
    const look = this.#devices.get(now) ?? new DeviceLook();
    this.#devices.set(now, look);
    look.put(id, effective.ok ? placedOf(tag, effective.value) : null);
  }

  #count(deviceId: string, by: number): void {
    this.#countOn.set(deviceId, (this.#countOn.get(deviceId) ?? 0) + by);
  }

  /** Tags that no page, calculation, confirmation or device needs: told once a device, since most lists bring many. */
  #unusedDoubts(project: PreflightProject): readonly Doubt[] {
    const used = new Set([...this.#uses.values()].flat());
    for (const panel of project.panels)
      for (const page of project.pagesOf(panel.id)) for (const { tagId } of project.elementsOn(page.id)) if (tagId !== null) used.add(tagId);
    for (const rule of project.copyRules)
      for (const { fromId, toId } of copyPairs(rule, project.copies))
        used
          .add(fromId)
          .add(toId)
          .add(rule.triggerTagId ?? '');
    for (const alarm of project.alarms) for (const id of tagsOfAlarm(alarm)) used.add(id);
    for (const device of project.devices)
      for (const tagId of [device.identityTagId, device.lifeTagId, device.ownLifeTagId]) if (tagId !== null) used.add(tagId);
    const unused = new Map(this.#countOn);
    for (const id of used) {
      const deviceId = this.#deviceOf.get(id);
      if (deviceId !== undefined) unused.set(deviceId, (unused.get(deviceId) ?? 0) - 1);
    }
    return project.devices.flatMap(({ id, name }): Doubt[] => {
      const count = unused.get(id) ?? 0;
      const message = `${counted(count, 'tag')} of ${name} ${count === 1 ? 'is' : 'are'} on no page and in no calculation.`;
      return count === 0 ? [] : [{ code: 'unused', severity: 'note', message, about: { kind: 'device', id } }];
    });
  }
}

function* nothing(): Generator<void, readonly Doubt[]> {
  yield* [];
  return [];
}

function usesOf(tag: Tag): readonly string[] {
  const { confirm } = tag;
  const used = idsIn(expressionIn(tag) ?? '');
  return confirm.kind === 'follows' ? [...used, confirm.tagId] : used;
}

function partyDoubts(project: PreflightProject, countOn: ReadonlyMap<string, number>): readonly Doubt[] {
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
    if ((countOn.get(device.id) ?? 0) === 0)
      doubts.push({ code: 'no-tags', severity: 'note', message: `${device.name} has no tags, so nothing is read of it.`, about });
  }
  for (const link of project.links)
    if (!used.has(link.id))
      doubts.push({ code: 'no-devices', severity: 'note', message: `The link ${link.name} has no device.`, about: { kind: 'link', id: link.id } });
  return doubts;
}

function copyDoubts(project: PreflightProject): readonly Doubt[] {
  return project.copyRules.flatMap((rule): Doubt[] => {
    const problem = rule.isOn ? (copyProblem(rule, project.copies) ?? loopProblem(rule, project.copies)) : null;
    const about = { kind: 'copyRule', id: rule.id } as const;
    return problem ? [{ code: 'copy-rule', severity: 'error', message: `The copy rule ${rule.name}: ${problem.message}`, about }] : [];
  });
}
