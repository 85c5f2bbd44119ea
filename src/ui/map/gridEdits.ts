/** Edits of many cells at once: what each comes to, checked one by one before any of them is kept. */
import type { Change } from '@/core/project/command.ts';
import { ENTITY_SCHEMAS, type Tag } from '@/core/project/entities.ts';
import { groupsNamed } from '@/core/project/groupsNamed.ts';
import { nameKey } from '@/core/project/nameKey.ts';
import { isPlainTag } from '@/core/project/kinds/plainTag.ts';
import { addressOf, deviceIdOf } from '@/core/project/tagSource.ts';
import type { Problem } from '@/core/result.ts';
import { effectiveSignal } from '@/mapping/effective.ts';
import { ValidationError } from 'yup';
import type { ProjectView } from '../live/project.ts';
import type { MapColumn } from './columns.ts';
import type { GivenScale } from './scaleCell.ts';

export interface CellEdit {
  readonly tag: Tag;
  readonly column: MapColumn;
  readonly text: string;
}

export interface PlannedRow {
  readonly tag: Tag;
  /** It is made by this edit. */
  readonly isNew: boolean;
  readonly cells: readonly { readonly title: string; readonly before: string; readonly after: string }[];
  readonly set: Partial<Tag>;
  /** The scale that it is given; absent where none is meant. */
  readonly scale?: GivenScale | undefined;
  readonly problem: Problem | null;
}

export interface PlannedEdits {
  readonly rows: readonly PlannedRow[];
  /** Groups that are made first. */
  readonly groups: readonly Change[];
}

/** What edits of cells come to. Cells that stay as they are, and columns that only show, are left out. */
export function planEdits(project: ProjectView, edits: readonly CellEdit[], made: readonly Tag[] = []): PlannedEdits {
  const groups = new GroupTexts(project, edits);
  const isMade = new Set(made.map(({ id }) => id));
  const planned = new Map<string, { tag: Tag; now: Tag; scale?: GivenScale; cells: PlannedRow['cells'][number][]; problem: Problem | null }>();
  for (const tag of made) planned.set(tag.id, { tag, now: tag, cells: [], problem: null });
  for (const { tag, column, text } of edits) {
    if (!column.edit) continue;
    const before = column.edit.text(tag, project);
    const entry = planned.get(tag.id) ?? { tag, now: tag, cells: [], problem: null };
    if (text === before && !isMade.has(tag.id)) continue;
    planned.set(tag.id, entry);
    entry.cells.push({ title: column.title, before: isMade.has(tag.id) ? '' : before, after: text });
    const set =
      column.key === 'group'
        ? ({ ok: true, value: { set: { groupId: groups.idOf(tag, text) } } } as const)
        : column.edit.set(text, entry.now, project);
    if (set.ok) {
      entry.now = { ...entry.now, ...set.value.set };
      if ('scale' in set.value && set.value.scale !== undefined) entry.scale = set.value.scale;
    } else entry.problem ??= { ...set.problem, place: column.title };
  }
  const rows = [...planned.values()];
  const names = new NamesAfter(
    project,
    rows.map(({ now }) => now),
  );
  return {
    groups: groups.changes,
    rows: rows.map(({ tag, now, scale, cells, problem }) => ({
      tag,
      isNew: isMade.has(tag.id),
      cells,
      set: isMade.has(tag.id) ? now : changedIn(tag, now),
      scale,
      problem: problem ?? problemOf(project, now, groups, scale) ?? names.problemOf(now),
    })),
  };
}

/** The changes of rows that fit, as one command. */
export function changesOf({ rows, groups }: PlannedEdits): readonly Change[] {
  const good = rows.filter(({ problem, set, scale }) => problem === null && (Object.keys(set).length > 0 || scale !== undefined));
  if (good.length === 0) return [];
  const tags = good.flatMap(({ tag, set }): Change[] => (Object.keys(set).length > 0 ? [{ kind: 'tag', id: tag.id, set }] : []));
  return [...groups, ...tags, ...good.flatMap(({ tag, scale }) => scaleChanges(tag.id, scale))];
}

/** The scale of a tag as an edit gives it. */
export function scaleChanges(id: string, scale: GivenScale | undefined): readonly Change[] {
  return scale === undefined ? [] : [{ kind: 'scale', id, set: scale && { scale: scale.scale, sharedId: scale.sharedId } }];
}

function changedIn(tag: Tag, now: Tag): Partial<Tag> {
  return Object.fromEntries(Object.entries(now).filter(([key, value]) => tag[key as keyof Tag] !== value));
}

/** What the server would refuse of one tag. */
function problemOf(project: ProjectView, tag: Tag, groups: GroupTexts, given: GivenScale | undefined): Problem | null {
  if (!isPlainTag(tag)) {
    try {
      ENTITY_SCHEMAS.tag.validateSync(tag, { strict: true });
    } catch (error) {
      if (error instanceof ValidationError) return { code: 'invalid', message: error.message, ...(error.path ? { place: error.path } : {}) };
      throw error;
    }
  }
  if (tag.source.kind === 'point' && tag.source.address === '') return null;
  const device = project.deviceOf(tag);
  const link = device && project.link(device.linkId);
  const inherited = project.inheritedBy(groups.isNew(tag.groupId) ? null : tag.groupId);
  const scale = given === undefined ? project.scale(tag.id) : given && { ...given, id: tag.id };
  const used = (id: string) => {
    const other = project.tag(id);
    return other && { tag: other, signal: project.effective(id) };
  };
  const signal = effectiveSignal({ tag, device, link, scale, inherited, used });
  return signal.ok ? null : signal.problem;
}

/** Which names are taken once all is kept. */
class NamesAfter {
  readonly #project: ProjectView;
  readonly #changed: ReadonlyMap<string, Tag>;
  readonly #first = new Map<string, string>();

  constructor(project: ProjectView, tags: readonly Tag[]) {
    this.#project = project;
    this.#changed = new Map(tags.map((tag) => [tag.id, tag]));
    for (const tag of tags) if (!this.#first.has(keyOf(tag))) this.#first.set(keyOf(tag), tag.id);
  }

  problemOf(tag: Tag): Problem | null {
    const holder = this.#project.named('tag', amongOf(tag), tag.name);
    const other = holder === undefined ? null : (this.#changed.get(holder) ?? this.#project.tag(holder));
    const isTaken = (other !== null && other.id !== tag.id && keyOf(other) === keyOf(tag)) || this.#first.get(keyOf(tag)) !== tag.id;
    return isTaken
      ? { code: 'name-taken', message: `A tag named “${tag.name}” is there already.`, remedy: 'Choose another name.', place: 'Tag' }
      : null;
  }
}

function amongOf(tag: Tag): string {
  return tag.groupId ?? deviceIdOf(tag) ?? '';
}
function keyOf(tag: Tag): string {
  return `${amongOf(tag)} ${nameKey(tag.name)}`;
}

/** Groups that edits name, each made once. */
class GroupTexts {
  readonly changes: readonly Change[];
  readonly #ids = new Map<string | null, ReadonlyMap<string, string>>();
  readonly #new: ReadonlySet<string>;

  constructor(project: ProjectView, edits: readonly CellEdit[]) {
    const texts = new Map<string | null, Set<string>>();
    for (const { tag, column, text } of edits) {
      if (column.key !== 'group') continue;
      const deviceId = deviceIdOf(tag);
      texts.set(deviceId, (texts.get(deviceId) ?? new Set()).add(text));
    }
    const changes: Change[] = [];
    for (const [deviceId, named] of texts) {
      const found = groupsNamed(project, deviceId, [...named]);
      this.#ids.set(deviceId, found.ids);
      changes.push(...found.changes);
    }
    this.changes = changes;
    this.#new = new Set(changes.map(({ id }) => id));
  }

  idOf(tag: Tag, text: string): string | null {
    return this.#ids.get(deviceIdOf(tag))?.get(text) ?? null;
  }

  isNew(groupId: string | null): boolean {
    return groupId !== null && this.#new.has(groupId);
  }
}

/** How many addresses a tag takes, by which one like it stands further on. */
export function addressStep(project: ProjectView, tag: Tag): number {
  const signal = project.effective(tag.id);
  if (!signal.ok || !signal.value.driver?.bytes) return 1;
  const { driver, canonical, def } = signal.value;
  const span = /[–-](\d+)$/.exec(driver.notation.format(canonical, def.type, project.deviceOf(tag)?.dialect ?? {}));
  const first = /(\d+)$/.exec(canonical);
  return span?.[1] !== undefined && first?.[1] !== undefined ? Number(span[1]) - Number(first[1]) + 1 : 1;
}

/**
 * The address of a tag like this one, so many places further on: a bit counts to the end of its word and then on in the
 * next one. Null where no address of the device is there.
 */
export function addressAfter(project: ProjectView, tag: Tag, places: number): string | null {
  const signal = project.effective(tag.id);
  const device = project.deviceOf(tag);
  const address = addressOf(tag);
  if (!signal.ok || !signal.value.driver || !device) return null;
  const { driver, def } = signal.value;
  const bit = /^(.*\D|)(\d+)\.(\d{1,2})$/.exec(address);
  if (def.type.kind === 'boolean' && bit) {
    const accepts = (text: string): boolean => driver.notation.parse(text, def.type, device.dialect).ok;
    let [word, at] = [Number(bit[2]), Number(bit[3])];
    const write = (w: number, b: number): string => `${bit[1] ?? ''}${String(w).padStart((bit[2] ?? '').length, '0')}.${b}`;
    for (let i = 0; i < places; i++) {
      at++;
      if (accepts(write(word, at))) continue;
      word++;
      at = accepts(write(word, 0)) ? 0 : 1;
    }
    return write(word, at);
  }
  return null;
}
