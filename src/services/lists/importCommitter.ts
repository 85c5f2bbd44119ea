/** Takes a draft over into the project as one command: what changes, what is new, and the version that it leaves behind. */
import { counted } from '@/core/counted.ts';
import { v7 as uuid } from 'uuid';
import { inSlices, nextTurn } from '@/core/inSlices.ts';
import type { Change } from '@/core/project/command.ts';
import type { Source } from '@/core/project/entities.ts';
import { nameKey } from '@/core/project/nameKey.ts';
import { sameJson } from '@/core/project/sameJson.ts';
import { groupsNamed } from '@/core/project/groupsNamed.ts';
import type { Applied } from '@/core/project/snapshot.ts';
import type { Result } from '@/core/result.ts';
import type { DraftChoices, DraftDecisions, DraftStatus, ListVersion, Outcome } from '@/core/taglist/draft.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import type { ListStore } from '@/store/listStore.ts';
import { PackReader, type PackedEntity } from '@/store/packs.ts';
import type { ProjectService } from '../projectService.ts';
import { changesFor, tagsOfSource, usesOf, type Taking } from './applyOutcomes.ts';
import { structureChanges } from './structureChanges.ts';
import type { NewLines, PackedOutcome, ThreadOutcome } from './draftMessages.ts';
import type { DraftThread } from './draftThreadClient.ts';

/** New tags and scales up to so many have rows of their own; more are stored packed. */
const FEW = 200;
/** New tags that are taken down by name in one turn. */
const TAKEN_AT_ONCE = 1000;
/** Messages of new tags that are asked for before they are needed. */
const LINES_AHEAD = 4;

export interface OpenDraft {
  status: DraftStatus;
  readonly source: Source;
  /** The version it was compared with. */
  readonly comparedWith: string | null;
  readonly thread: DraftThread;
  choices: DraftChoices;
}

export class ImportCommitter {
  readonly #model: ProjectModel;
  readonly #projects: ProjectService;
  readonly #store: ListStore;
  readonly #isProven: (tagId: string) => boolean;

  constructor(model: ProjectModel, projects: ProjectService, store: ListStore, isProven: (tagId: string) => boolean) {
    this.#model = model;
    this.#projects = projects;
    this.#store = store;
    this.#isProven = isProven;
  }

  async take(draft: OpenDraft, commandId: string, decisions: DraftDecisions, origin: string): Promise<Result<Applied>> {
    const { source, thread } = draft;
    const known = tagsOfSource(this.#model, source);
    const kept = [...known].filter(([, tag]) => tag.isGone).map(([name]) => name);
    const planned = await thread.ask<ThreadOutcome>({ kind: 'outcome', decisions, source: { id: source.id, deviceId: source.deviceId }, kept });
    const { count, versionCount } = planned;
    const groups = groupsNamed(this.#model, source.deviceId, planned.groups);
    await thread.ask({ kind: 'groups', ids: groups.ids });
    const at = this.#projects.time;
    const brought: ListVersion = {
      id: uuid(),
      sourceId: source.id,
      at,
      fileName: draft.status.fileName,
      origin,
      rowCount: versionCount,
      programVersion: draft.status.summary?.programVersion ?? '',
    };
    const { id: _id, ...rest } = source;
    const changes: Change[] = [
      ...groups.changes,
      {
        kind: 'source',
        id: source.id,
        // Undo, or another taking, may come first.
        was: { versionId: draft.comparedWith ?? (draft.status.isNewSource ? undefined : null) },
        set: { ...rest, fileName: brought.fileName, importedAt: at, rowCount: versionCount, versionId: brought.id, choices: draft.choices },
      },
    ];
    const isUsed = (tag: Parameters<typeof usesOf>[2]): boolean => {
      const uses = usesOf(this.#model, this.#isProven, tag);
      return uses.elements > 0 || uses.isProven || uses.isNamed;
    };
    /** Tags by their names in the list as it is now; a list without structures and enumerations needs none. */
    const isStructured = planned.structured.blocks.length > 0 || planned.structured.enumerations.length > 0;
    const ids = new Map(isStructured ? [...known].map(([name, tag]) => [name, tag.id]) : []);
    /** Enumerations that the list has otherwise than before. */
    const renamed = new Set<string>();
    const counts = { new: planned.newCount, update: 0, gone: 0 };
    for (let from = 0; from < count;) {
      const outcomes = await thread.ask<readonly Outcome[]>({ kind: 'outcomes', from });
      from += outcomes.length;
      for (const change of await inSlices(this.#changesOf(outcomes, { source, known, groups: groups.ids, isUsed, model: this.#model })))
        changes.push(change);
      for (const outcome of outcomes) {
        counts[outcome.kind]++;
        if (!isStructured) continue;
        const tag = outcome.kind === 'update' ? known.get(nameKey(outcome.before.listName)) : undefined;
        if (outcome.kind === 'update' && !sameJson(outcome.before.names, outcome.after.names)) renamed.add(nameKey(outcome.after.enumeration));
        if (outcome.kind === 'update' && tag) ids.set(nameKey(outcome.after.listName), tag.id);
      }
      draft.status = { ...draft.status, doing: 'Planning', part: from / count };
      await nextTurn();
    }
    const entities: PackedEntity[] = [];
    const reader = new PackReader();
    const next = (): Promise<NewLines> => {
      const lines = thread.ask<NewLines>({ kind: 'lines' });
      lines.catch(() => undefined);
      return lines;
    };
    // Some are made while others are taken over.
    const coming = Array.from({ length: LINES_AHEAD }, next);
    for (let isLast = false; !isLast;) {
      const made = await (coming.shift() ?? next());
      isLast = made.isLast;
      if (!isLast) coming.push(next());
      for (const line of made.lines) for (const entity of reader.read(line)) entities.push(entity);
      draft.status = { ...draft.status, doing: 'Planning', part: Math.min(1, entities.length / Math.max(1, planned.newCount)) };
    }
    draft.status = { ...draft.status, doing: 'Storing', part: 1 };
    // Members refer to their tags: those lie beside them, and not packed.
    const packId = entities.length > FEW && !isStructured ? uuid() : null;
    // Packed in its thread while the project is asked whether it takes them; what fails there is told once it is waited for.
    const packing = thread.ask<PackedOutcome>({ kind: 'packed', withVersion: packId === null || !planned.isAllNew });
    const [packed, more] = [packing.then((p) => p.entities), packing.then((p) => [this.#store.adding(brought, p.version ?? '', packId)])];
    for (const each of [packed, more]) each.catch(() => undefined);
    const command = { id: commandId, label: labelOf(draft.status, counts), changes };
    if (isStructured)
      for (const [at, { kind, entity }] of entities.entries()) {
        if (kind === 'tag') ids.set(nameKey(entity.listName), entity.id);
        if (at % TAKEN_AT_ONCE === 0) await nextTurn();
      }
    const structured = structureChanges(this.#model, source.deviceId, planned.structured, (name) => ids.get(nameKey(name)), renamed);
    changes.unshift(...structured.before);
    if (packId !== null) return this.#projects.execute(command, origin, more, { id: packId, packed, entities });
    for (const { kind, entity } of entities) changes.push({ kind, id: entity.id, set: { ...entity } });
    for (const change of structured.after) changes.push(change);
    return this.#projects.execute(command, origin, more);
  }

  *#changesOf(outcomes: readonly Outcome[], taking: Taking): Generator<void, Change[]> {
    const changes: Change[] = [];
    for (const outcome of outcomes) {
      changes.push(...changesFor(outcome, taking));
      yield;
    }
    return changes;
  }
}

function labelOf({ fileName, isNewSource }: DraftStatus, counts: Readonly<Record<Outcome['kind'], number>>): string {
  const name = fileName.slice(0, 100);
  if (isNewSource) return `list ${name} imported, ${counted(counts.new, 'tag')}`;
  return `list ${name} imported again: ${counts.new} new, ${counts.update} changed, ${counts.gone} gone`;
}
