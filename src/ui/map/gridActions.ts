/** What can be done to a block of cells: each gives the edits that it stands for. */
import { v7 as uuid } from 'uuid';
import { countedOn, hasMask, seriesAfter } from '@/core/grid/countOn.ts';
import type { Change } from '@/core/project/command.ts';
import type { Tag } from '@/core/project/entities.ts';
import { addressOf } from '@/core/project/tagSource.ts';
import type { ProjectView } from '../live/project.ts';
import { MAP_COLUMNS, type ColumnKey, type MapColumn } from './columns.ts';
import { addressAfter, addressStep, changesOf, planEdits, type CellEdit, type PlannedEdits } from './gridEdits.ts';

/** The values of the first row in all rows below it. */
export function fillDown(project: ProjectView, tags: readonly Tag[], columns: readonly MapColumn[]): PlannedEdits {
  const [first, ...rest] = tags;
  if (!first) return planEdits(project, []);
  return planEdits(
    project,
    rest.flatMap((tag) => columns.flatMap((column) => (column.edit ? [{ tag, column, text: column.edit.text(first, project) }] : []))),
  );
}

/**
 * The first row counts on: names by one, addresses by as much as a value takes, masks by their bits.
 * @param by how far each is from the one before, null for the usual
 */
export function countOnDown(project: ProjectView, tags: readonly Tag[], columns: readonly MapColumn[], by: number | null): PlannedEdits {
  const [first, ...rest] = tags;
  if (!first) return planEdits(project, []);
  const edits = columns.flatMap((column): CellEdit[] => {
    if (!column.edit) return [];
    const given = column.edit.text(first, project);
    if (column.key === 'type' && !hasMask(given)) return rest.map((tag) => ({ tag, column, text: given }));
    const isAddress = column.key === 'address';
    const step = by ?? (isAddress ? addressStep(project, first) : 1);
    const texts = seriesAfter([given], rest.length, step);
    return rest.map((tag, i) => {
      const bit = isAddress && by === null ? addressAfter(project, first, i + 1) : null;
      return { tag, column, text: bit ?? texts[i] ?? given };
    });
  });
  return planEdits(project, edits);
}

/** One text in all rows. */
export function setAll(project: ProjectView, tags: readonly Tag[], column: MapColumn, text: string): PlannedEdits {
  return planEdits(
    project,
    tags.map((tag) => ({ tag, column, text })),
  );
}

export interface Replacing {
  readonly find: string;
  readonly with: string;
  /** Null: in all that can be edited. */
  readonly column: ColumnKey | null;
  readonly isCaseHeld: boolean;
}

export function replaceIn(project: ProjectView, tags: readonly Tag[], { find, with: replacement, column, isCaseHeld }: Replacing): PlannedEdits {
  if (find === '') return planEdits(project, []);
  const pattern = new RegExp(find.replace(/[.*+?^${}()|[\]\\]/g, '\\$&'), isCaseHeld ? 'g' : 'gi');
  const columns = MAP_COLUMNS.filter(({ key, edit }) => edit && (column === null ? TEXTS.has(key) : key === column));
  return planEdits(
    project,
    tags.flatMap((tag) =>
      columns.flatMap((of) => {
        const before = of.edit?.text(tag, project) ?? '';
        const text = before.replace(pattern, () => replacement);
        return text === before ? [] : [{ tag, column: of, text }];
      }),
    ),
  );
}

const TEXTS: ReadonlySet<ColumnKey> = new Set(['name', 'group', 'address', 'unit', 'comment']);

/**
 * Cells from a spreadsheet. One cell goes into the whole block; a block goes where it begins, and rows beyond the last tag
 * become tags like the last one, where their names are among the cells.
 */
export function paste(
  project: ProjectView,
  tags: readonly Tag[],
  shown: readonly MapColumn[],
  block: { readonly row: number; readonly column: number; readonly rows: number; readonly columns: number },
  cells: readonly (readonly string[])[],
): PlannedEdits {
  const only = cells.length === 1 && cells[0]?.length === 1 ? cells[0][0] : undefined;
  const rows = only === undefined ? cells : Array.from({ length: block.rows }, () => Array.from({ length: block.columns }, () => only));
  const columns = shown.slice(block.column);
  const last = tags.at(-1);
  const hasNames = columns.slice(0, Math.max(0, ...rows.map((row) => row.length))).some(({ key }) => key === 'name');
  const made: Tag[] = [];
  const edits: CellEdit[] = [];
  rows.forEach((row, i) => {
    let tag = tags[block.row + i];
    if (!tag && last && hasNames) made.push((tag = likeTag(last)));
    if (!tag) return;
    for (const [at, text] of row.entries()) {
      const column = columns[at];
      if (column?.edit) edits.push({ tag, column, text });
    }
  });
  return planEdits(project, edits, made);
}

/** A tag of its own at the same place, with nothing of the list or program that brought the other one. */
function likeTag(tag: Tag): Tag {
  return { ...tag, id: uuid(), name: '', comment: '', listId: '', listName: '', listType: '', isGone: false };
}

export interface Duplicating {
  readonly copies: number;
  /** Addresses from one copy to the next. */
  readonly offset: number;
  readonly counts: 'group' | 'first' | 'last';
}

/** Copies of tags, each set further on: “seven more stands, each 100 words on”. Their scales come with them. */
export function duplicate(
  project: ProjectView,
  tags: readonly Tag[],
  { copies, offset, counts }: Duplicating,
): PlannedEdits & { readonly scales: readonly Change[] } {
  const column = (key: ColumnKey): MapColumn => MAP_COLUMNS.find((c) => c.key === key) as MapColumn;
  const [name, group, address] = [column('name'), column('group'), column('address')];
  const made: Tag[] = [];
  const edits: CellEdit[] = [];
  const scales: Change[] = [];
  for (let copy = 1; copy <= copies; copy++)
    for (const of of tags) {
      const tag = likeTag(of);
      made.push({ ...tag, comment: of.comment });
      const groupText = project.groupTextOf(of.groupId);
      const counted = counts === 'group' ? countedOn(groupText, copy) : null;
      const ownName = counted === null ? (counts === 'first' ? firstCountedOn(of.name, copy) : countedOn(of.name, copy)) : of.name;
      edits.push({ tag, column: name, text: ownName ?? `${of.name}_${copy + 1}` });
      if (counted !== null) edits.push({ tag, column: group, text: counted });
      if (of.source.kind === 'point' && offset !== 0)
        edits.push({ tag, column: address, text: firstCountedOn(addressOf(of), copy * offset) ?? addressOf(of) });
      const scale = project.scale(of.id);
      if (scale) scales.push({ kind: 'scale', id: tag.id, set: { scale: scale.scale, sharedId: scale.sharedId } });
    }
  return { ...planEdits(project, edits, made), scales };
}

/** The first number of a text: the one that names the machine, or the word that a bit is in. */
function firstCountedOn(text: string, by: number): string | null {
  const match = /^(\D*)(\d+)(.*)$/s.exec(text);
  const counted = match ? countedOn(`${match[1] ?? ''}${match[2] ?? ''}`, by) : null;
  return match && counted !== null ? counted + (match[3] ?? '') : null;
}

/** A duplicate as one command. */
export function changesOfDuplicate(planned: ReturnType<typeof duplicate>): readonly Change[] {
  const changes = changesOf(planned);
  const kept = new Set(changes.map(({ id }) => id));
  return [...changes, ...planned.scales.filter(({ id }) => kept.has(id))];
}
