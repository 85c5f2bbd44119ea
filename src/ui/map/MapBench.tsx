'use client';
/** All tags with their live values: searched by typing, edited in place by keyboard. */
import { counted } from '@/core/counted.ts';
import Link from 'next/link';
import { Bell, Boxes, Copy, FolderTree, Grid3x3, ListChecks, Plus } from 'lucide-react';
import { useMemo, useState } from 'react';
import { useProject } from '../live/LiveContext.tsx';
import { Empty } from '../parts/Field.tsx';
import { matching } from '../live/tagSearch.ts';
import { GroupsDialog } from './GroupsDialog.tsx';
import { TypesDialog } from './TypesDialog.tsx';
import { MapGrid } from './MapGrid.tsx';
import { NewTag } from './NewTag.tsx';
import { ColumnChoice } from './ColumnChoice.tsx';
import type { ColumnKey } from './columns.ts';
import { FilterBar } from './FilterBar.tsx';
import { fitsFilter, NO_FILTER, OF_VALUES, sorted, useColumns, type MapFilter, type Sort } from './mapView.ts';
import { useDoubts } from './useDoubts.ts';
import { useNotGood } from './useNotGood.ts';
import { useSetHere } from './useSetHere.ts';

export function MapBench() {
  const project = useProject();
  const [filter, setFilter] = useState<MapFilter>(NO_FILTER);
  const [sort, setSort] = useState<Sort | null>(null);
  const [adding, setAdding] = useState(false);
  const [open, setOpen] = useState<'groups' | 'types' | null>(null);
  const { columns, isShown, toggle, setWidth } = useColumns(project.devices.length > 1 && filter.deviceId === '');
  const notGood = useNotGood(OF_VALUES.has(filter.state));
  const doubts = useDoubts(filter.state === 'overlapping');
  const overlapping = useMemo(
    () => doubts && new Set(doubts.flatMap(({ code, about, otherId }) => (code === 'overlap' ? [about.id, otherId ?? ''] : []))),
    [doubts],
  );
  const setHere = useSetHere(filter.state === 'setHere');
  const tags = useMemo(
    () => sorted(project, matching(project, filter.text, fitsFilter(project, filter, { notGood, overlapping, setHere })), sort),
    [project, filter, notGood, overlapping, setHere, sort],
  );
  /** Up, down, and as it was. */
  const sortBy = (key: ColumnKey): void => setSort(sort?.key !== key ? { key, isDown: false } : sort.isDown ? null : { key, isDown: true });
  if (project.tagCount === 0 && !adding)
    return (
      <Empty title="No tags yet">
        <p>Import the controller&apos;s tag list, or create a tag by hand.</p>
        <div className="flex gap-3">
          <a className="btn btn-primary" href="/lists">
            Import a list
          </a>
          <button type="button" className="btn btn-outline" disabled={project.devices.length === 0} onClick={() => setAdding(true)}>
            Create a tag
          </button>
        </div>
      </Empty>
    );
  return (
    <div className="flex h-full flex-col gap-2">
      <h1 className="sr-only">Map</h1>
      <div className="flex items-center gap-2">
        <FilterBar filter={filter} onFilter={setFilter} />
        <span className="quiet shrink-0" role="status">
          {tags.length === project.tagCount ? counted(tags.length, 'tag') : `${tags.length} of ${project.tagCount} tags`}
        </span>
        <span className="flex-1" />
        <ColumnChoice isShown={isShown} onToggle={toggle} />
        <Link className="btn btn-sm btn-outline" href="/map/memory" title="What lies where in the memory of a device, and what is free">
          <Grid3x3 size={14} aria-hidden /> Memory
        </Link>
        <Link className="btn btn-sm btn-outline" href="/map/copies" title="Values that are copied from tag to tag">
          <Copy size={14} aria-hidden /> Copies
        </Link>
        <Link className="btn btn-sm btn-outline" href="/map/alarms" title="What calls for somebody, and what became of it">
          <Bell size={14} aria-hidden /> Alarms
        </Link>
        <Link className="btn btn-sm btn-outline" href="/map/preflight" title="Everything doubtful in the project, in one list">
          <ListChecks size={14} aria-hidden /> Preflight
        </Link>
        <button type="button" className="btn btn-sm btn-outline" onClick={() => setOpen('groups')}>
          <FolderTree size={14} aria-hidden /> Groups
        </button>
        <button type="button" className="btn btn-sm btn-outline" onClick={() => setOpen('types')}>
          <Boxes size={14} aria-hidden /> Types
        </button>
        <button type="button" className="btn btn-sm btn-primary" onClick={() => setAdding(true)}>
          <Plus size={14} aria-hidden /> Tag
        </button>
      </div>
      {adding ? <NewTag onClose={() => setAdding(false)} /> : null}
      <MapGrid tags={tags} columns={columns} sort={sort} onSort={sortBy} onWidth={setWidth} />
      {open === 'groups' ? <GroupsDialog onClose={() => setOpen(null)} /> : null}
      {open === 'types' ? <TypesDialog onClose={() => setOpen(null)} /> : null}
    </div>
  );
}
