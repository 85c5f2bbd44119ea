'use client';
/** How the map is looked at: which columns, in which order, and which tags. Kept by the browser. */
import { useState } from 'react';
import type { Tag } from '@/core/project/entities.ts';
import { deviceIdOf, addressOf } from '@/core/project/tagSource.ts';
import { disagreementOf } from '@/core/project/listedType.ts';
import type { ProjectView } from '../live/project.ts';
import type { NotGood } from './useNotGood.ts';
import { MAP_COLUMNS, type ColumnKey, type MapColumn } from './columns.ts';

export interface Sort {
  readonly key: ColumnKey;
  readonly isDown: boolean;
}

/** States that tags can be filtered by. */
export const STATES = {
  all: 'all tags',
  unfit: 'that do not fit',
  disagreeing: 'of another type than listed',
  setHere: 'changed since import',
  overlapping: 'that overlap others',
  doubtful: 'uncertain or bad',
  neverGood: 'never good so far',
  outOfRange: 'outside their range',
  implausible: 'implausible',
  unscaled: 'without a scale',
  unproven: 'unproven',
  changed: 'changed since proven',
  writable: 'that may be written',
  own: 'with settings of their own',
  gone: 'gone from their list',
  local: 'local',
  calculated: 'calculated',
} as const;
export type TagState = keyof typeof STATES;

/** Everything about what the map shows, but the text that is searched for. */
export interface MapFilter {
  readonly text: string;
  /** Empty for all. */
  readonly deviceId: string;
  /** With all inside it; empty for all. */
  readonly groupId: string;
  readonly state: TagState;
}

export const NO_FILTER: MapFilter = { text: '', deviceId: '', groupId: '', state: 'all' };

/** What is known beside the project, null as long as it is not known. */
export interface FilterNews {
  readonly notGood: ReadonlyMap<string, NotGood> | null;
  /** Tags that have bits in common with others. */
  readonly overlapping: ReadonlySet<string> | null;
  /** Tags that are something else than their list says. */
  readonly setHere: ReadonlySet<string> | null;
}

/** States that are asked of the server, or looked for in the project, while they are wanted. */
export const OF_VALUES: ReadonlySet<TagState> = new Set(['doubtful', 'neverGood', 'outOfRange', 'implausible']);

/** Whether a tag is one of those that are looked for. */
export function fitsFilter(project: ProjectView, filter: MapFilter, news: FilterNews): ((tag: Tag) => boolean) | undefined {
  const { deviceId, groupId, state } = filter;
  if (deviceId === '' && groupId === '' && state === 'all') return undefined;
  return (tag) =>
    (deviceId === '' || deviceIdOf(tag) === deviceId) &&
    (groupId === '' || standsIn(project, tag.groupId, groupId)) &&
    isInState(project, tag, state, news);
}

function standsIn(project: ProjectView, groupId: string | null, wanted: string): boolean {
  for (let id = groupId; id !== null; id = project.group(id)?.parentId ?? null) if (id === wanted) return true;
  return false;
}

function isInState(project: ProjectView, tag: Tag, state: TagState, { notGood, overlapping, setHere }: FilterNews): boolean {
  switch (state) {
    case 'all':
      return true;
    case 'unfit':
      return project.unfit.has(tag.id);
    case 'disagreeing':
      return disagreementOf(tag) !== null;
    case 'setHere':
      return setHere?.has(tag.id) ?? true;
    case 'overlapping':
      return overlapping?.has(tag.id) ?? true;
    case 'doubtful':
      return notGood?.has(tag.id) ?? true;
    case 'neverGood':
      return notGood ? notGood.get(tag.id)?.wasGood === false : true;
    case 'implausible':
      return notGood ? notGood.get(tag.id)?.reason === 'implausible' : true;
    case 'outOfRange':
      return notGood ? notGood.get(tag.id)?.reason === 'out-of-range' : true;
    case 'unscaled':
      return project.toScale.has(tag.id);
    case 'unproven':
    case 'changed':
      return project.proofOf(tag.id).state === state;
    case 'writable': {
      const signal = project.effective(tag.id);
      return signal.ok && signal.value.writable;
    }
    case 'own':
      return (
        tag.source.kind === 'point' && (tag.source.periodMs !== null || tag.source.order !== '' || tag.access !== null || tag.unavailable !== null)
      );
    case 'gone':
      return tag.isGone;
    case 'local':
    case 'calculated':
      return tag.source.kind === state;
  }
}

const names = new Intl.Collator('en', { numeric: true });

/** Sorted by what a column shows; tags that show nothing there come last. */
export function sorted(project: ProjectView, tags: readonly Tag[], sort: Sort | null): readonly Tag[] {
  if (!sort) return tags;
  const column = MAP_COLUMNS.find(({ key }) => key === sort.key);
  const textOf = (tag: Tag): string => {
    if (sort.key === 'device') return project.deviceOf(tag)?.name ?? '';
    if (sort.key === 'proof') return project.proofOf(tag.id).state;
    if (sort.key === 'address') return addressOf(tag);
    return column?.edit?.text(tag, project) ?? '';
  };
  // Each text is made once: a comparison is asked for some twenty times a tag.
  const keyed = tags.map((tag) => ({ tag, text: textOf(tag) }));
  keyed.sort((a, b) => (a.text === '' ? (b.text === '' ? 0 : 1) : b.text === '' ? -1 : names.compare(a.text, b.text) * (sort.isDown ? -1 : 1)));
  return keyed.map(({ tag }) => tag);
}

const COLUMNS_KEY = 'mill-latch.map.columns';
const WIDTHS_KEY = 'mill-latch.map.widths';
const FILTERS_KEY = 'mill-latch.map.filters';

/** Something kept by the browser; what cannot be read is as if nothing was kept. */
function kept<T>(key: string, usual: T): T {
  try {
    const text = localStorage.getItem(key);
    return text === null ? usual : (JSON.parse(text) as T);
  } catch {
    return usual;
  }
}

/** In pixels. */
export const NARROWEST = 32;
export type SetWidth = (key: ColumnKey, width: number | null) => void;

/** The columns that are shown, as wide as somebody has drawn them, and ways to change both. The name stays. */
export function useColumns(manyDevices: boolean) {
  const [widths, setWidths] = useState<Partial<Record<ColumnKey, number>>>(() => kept(WIDTHS_KEY, {}));
  const setWidth: SetWidth = (key, width) => {
    const { [key]: _before, ...others } = widths;
    const next = width === null ? others : { ...others, [key]: width };
    localStorage.setItem(WIDTHS_KEY, JSON.stringify(next));
    setWidths(next);
  };
  const [chosen, setChosen] = useState<Partial<Record<ColumnKey, boolean>>>(() => kept(COLUMNS_KEY, {}));
  const isShown = ({ key, isExtra }: MapColumn): boolean => key === 'name' || (chosen[key] ?? (key === 'device' ? manyDevices : !isExtra));
  const toggle = (column: MapColumn): void => {
    const next = { ...chosen, [column.key]: !isShown(column) };
    localStorage.setItem(COLUMNS_KEY, JSON.stringify(next));
    setChosen(next);
  };
  const columns = MAP_COLUMNS.filter(isShown).map((column) => {
    const width = widths[column.key];
    return width === undefined ? column : { ...column, width: `${width}px` };
  });
  return { columns, isShown, toggle, setWidth };
}

export interface SavedFilter extends MapFilter {
  readonly name: string;
}

export function useSavedFilters() {
  const [filters, setFilters] = useState<readonly SavedFilter[]>(() => kept(FILTERS_KEY, []));
  const keep = (next: readonly SavedFilter[]): void => {
    localStorage.setItem(FILTERS_KEY, JSON.stringify(next));
    setFilters(next);
  };
  return {
    filters,
    save: (filter: SavedFilter) => keep([...filters.filter(({ name }) => name !== filter.name), filter]),
    remove: (name: string) => keep(filters.filter((filter) => filter.name !== name)),
  };
}
