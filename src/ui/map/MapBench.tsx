'use client';
/** All tags with their live values: searched by typing, edited in place by keyboard. */
import { counted } from '@/core/counted.ts';
import Link from 'next/link';
import { Boxes, Contrast, FolderTree, ListChecks, Plus, Search, TriangleAlert } from 'lucide-react';
import { useMemo, useState } from 'react';
import { useProject, useStatus } from '../live/LiveContext.tsx';
import { deviceIdOf } from '@/core/project/tagSource.ts';
import { Empty } from '../parts/Field.tsx';
import { matching } from '../live/tagSearch.ts';
import { GroupsDialog } from './GroupsDialog.tsx';
import { TypesDialog } from './TypesDialog.tsx';
import { MapGrid } from './MapGrid.tsx';
import { NewTag } from './NewTag.tsx';
import { useDoubtful } from './useDoubtful.ts';

export function MapBench() {
  const project = useProject();
  const [text, setText] = useState('');
  const [deviceId, setDeviceId] = useState('');
  const [onlyUnfit, setOnlyUnfit] = useState(false);
  const [onlyDoubtful, setOnlyDoubtful] = useState(false);
  const [adding, setAdding] = useState(false);
  const [open, setOpen] = useState<'groups' | 'types' | null>(null);
  const counts = useStatus()?.values;
  const doubtfulCount = (counts?.uncertain ?? 0) + (counts?.bad ?? 0);
  const doubtful = useDoubtful(onlyDoubtful);
  const unfit = project.unfit.size;
  const tags = useMemo(
    () =>
      matching(
        project,
        text,
        (t) =>
          (deviceId === '' || deviceIdOf(t) === deviceId) && (!onlyUnfit || project.unfit.has(t.id)) && (doubtful === null || doubtful.has(t.id)),
      ),
    [project, text, deviceId, onlyUnfit, doubtful],
  );
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
        <label className="input input-sm w-72">
          <Search size={14} aria-hidden className="quiet" />
          <input
            aria-label="Find tags"
            placeholder="Find a tag, address or comment"
            value={text}
            onChange={(e) => setText(e.target.value)}
            onKeyDown={(e) => e.key === 'Escape' && setText('')}
          />
        </label>
        {project.devices.length > 1 ? (
          <select aria-label="Device" className="select select-sm w-40" value={deviceId} onChange={(e) => setDeviceId(e.target.value)}>
            <option value="">all devices</option>
            {project.devices.map((d) => (
              <option key={d.id} value={d.id}>
                {d.name}
              </option>
            ))}
          </select>
        ) : null}
        {unfit > 0 ? (
          <button
            type="button"
            aria-pressed={onlyUnfit}
            className={`btn btn-sm ${onlyUnfit ? 'btn-error' : 'btn-ghost is-bad'}`}
            onClick={() => setOnlyUnfit(!onlyUnfit)}
          >
            <TriangleAlert size={14} aria-hidden /> {unfit} do not fit
          </button>
        ) : null}
        {doubtfulCount > 0 || onlyDoubtful ? (
          <button
            type="button"
            aria-pressed={onlyDoubtful}
            className={`btn btn-sm ${onlyDoubtful ? 'btn-warning' : 'btn-ghost is-look'}`}
            title="Values that are bad, or outside what is expected"
            onClick={() => setOnlyDoubtful(!onlyDoubtful)}
          >
            <Contrast size={14} aria-hidden /> {doubtfulCount} uncertain or bad
          </button>
        ) : null}
        <span className="quiet" role="status">
          {tags.length === project.tagCount ? counted(tags.length, 'tag') : `${tags.length} of ${project.tagCount} tags`}
        </span>
        <span className="flex-1" />
        <span className="quiet text-xs">
          <kbd className="kbd kbd-xs">Enter</kbd> edit · <kbd className="kbd kbd-xs">Esc</kbd> leave · <kbd className="kbd kbd-xs">Del</kbd> remove
        </span>
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
      <MapGrid tags={tags} />
      {open === 'groups' ? <GroupsDialog onClose={() => setOpen(null)} /> : null}
      {open === 'types' ? <TypesDialog onClose={() => setOpen(null)} /> : null}
    </div>
  );
}
