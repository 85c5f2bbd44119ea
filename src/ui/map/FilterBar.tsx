'use client';
/** Which tags the map shows: by text, place in the tree and state; filters that are used often are saved by name. */
import { Bookmark, Search, X } from 'lucide-react';
import { useMemo, useState } from 'react';
import { counted } from '@/core/counted.ts';
import { useProject } from '../live/LiveContext.tsx';
import { useStatus } from '../live/liveHooks.ts';
import type { ProjectView } from '../live/project.ts';
import { NO_FILTER, STATES, useSavedFilters, type MapFilter, type TagState } from './mapView.ts';

export function FilterBar({ filter, onFilter }: { readonly filter: MapFilter; readonly onFilter: (filter: MapFilter) => void }) {
  const project = useProject();
  const values = useStatus()?.values;
  const set = (change: Partial<MapFilter>): void => onFilter({ ...filter, ...change });
  const counts: Partial<Record<TagState, number>> = {
    unfit: project.unfit.size,
    doubtful: (values?.uncertain ?? 0) + (values?.bad ?? 0),
    unscaled: project.toScale.size,
  };
  return (
    <>
      <label className="input input-sm w-56 min-w-36">
        <Search size={14} aria-hidden className="quiet" />
        <input
          aria-label="Find tags"
          placeholder="Find a tag, address or comment"
          value={filter.text}
          onChange={(e) => set({ text: e.target.value })}
          onKeyDown={(e) => e.key === 'Escape' && set({ text: '' })}
        />
      </label>
      <PlaceChoice project={project} filter={filter} onFilter={set} />
      <select
        aria-label="State"
        className={`select select-sm w-40 ${filter.state === 'all' ? '' : 'border-primary'}`}
        value={filter.state}
        onChange={(e) => set({ state: e.target.value as TagState })}
      >
        {(Object.keys(STATES) as TagState[]).map((state) => (
          <option key={state} value={state}>
            {STATES[state]}
            {counts[state] ? ` (${counts[state]})` : ''}
          </option>
        ))}
      </select>
      <SavedFilters filter={filter} onFilter={onFilter} />
    </>
  );
}

/** Devices with their groups, each with its tags counted: a jump to any place of the tree. */
function PlaceChoice({
  project,
  filter,
  onFilter,
}: {
  readonly project: ProjectView;
  readonly filter: MapFilter;
  readonly onFilter: (change: Partial<MapFilter>) => void;
}) {
  const counts = useMemo(() => countsByGroup(project), [project]);
  const groups = project.groups
    .map((group) => ({ group, path: `${project.groupTextOf(group.id).replaceAll('/', ' › ')} · ${counts.get(group.id) ?? 0}` }))
    .sort((a, b) => a.path.localeCompare(b.path, 'en', { numeric: true }));
  return (
    <select
      aria-label="Device"
      className={`select select-sm w-44 ${filter.deviceId === '' && filter.groupId === '' ? '' : 'border-primary'}`}
      value={filter.groupId === '' ? filter.deviceId : `group ${filter.groupId}`}
      onChange={(e) => {
        const groupId = e.target.value.startsWith('group ') ? e.target.value.slice(6) : '';
        onFilter({ groupId, deviceId: groupId === '' ? e.target.value : (project.group(groupId)?.deviceId ?? '') });
      }}
    >
      <option value="">all devices</option>
      {project.devices.map(({ id, name }) => (
        <optgroup key={id} label={`${name} · ${counted(project.tagCountOn(id), 'tag')}`}>
          <option value={id}>{name}</option>
          {groups
            .filter(({ group }) => group.deviceId === id)
            .map(({ group, path }) => (
              <option key={group.id} value={`group ${group.id}`}>
                {name} › {path}
              </option>
            ))}
        </optgroup>
      ))}
      {groups.some(({ group }) => group.deviceId === null) ? (
        <optgroup label="of the project">
          {groups
            .filter(({ group }) => group.deviceId === null)
            .map(({ group, path }) => (
              <option key={group.id} value={`group ${group.id}`}>
                {path}
              </option>
            ))}
        </optgroup>
      ) : null}
    </select>
  );
}

/** Tags in each group, those of the groups inside it included. */
function countsByGroup(project: ProjectView): ReadonlyMap<string, number> {
  const counts = new Map<string, number>();
  for (const { groupId } of project.allTags())
    for (let id = groupId; id !== null; id = project.group(id)?.parentId ?? null) counts.set(id, (counts.get(id) ?? 0) + 1);
  return counts;
}

function SavedFilters({ filter, onFilter }: { readonly filter: MapFilter; readonly onFilter: (filter: MapFilter) => void }) {
  const { filters, save, remove } = useSavedFilters();
  const [name, setName] = useState('');
  const [isOpen, setOpen] = useState(false);
  const isFiltered = JSON.stringify(filter) !== JSON.stringify(NO_FILTER);
  return (
    <details className="dropdown" onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary className="btn btn-sm btn-ghost btn-square" aria-label="Saved filters" title="Saved filters">
        <Bookmark size={14} aria-hidden />
      </summary>
      {isOpen ? (
        <div className="dropdown-content bg-base-100 hairline z-20 w-72 p-2 text-[13px] shadow-none">
          {filters.length === 0 ? <p className="quiet mb-2">No filter is saved yet.</p> : null}
          <ul className="mb-2">
            {filters.map((saved) => (
              <li key={saved.name} className="flex items-center">
                <button
                  type="button"
                  className="btn btn-xs btn-ghost flex-1 justify-start"
                  onClick={() => onFilter({ ...NO_FILTER, text: saved.text, deviceId: saved.deviceId, groupId: saved.groupId, state: saved.state })}
                >
                  {saved.name}
                </button>
                <button
                  type="button"
                  className="btn btn-xs btn-ghost btn-square"
                  aria-label={`Remove the filter ${saved.name}`}
                  onClick={() => remove(saved.name)}
                >
                  <X size={12} aria-hidden />
                </button>
              </li>
            ))}
          </ul>
          <form
            className="flex gap-2"
            onSubmit={(e) => {
              e.preventDefault();
              if (name.trim() === '' || !isFiltered) return;
              save({ ...filter, name: name.trim() });
              setName('');
            }}
          >
            <input
              aria-label="Name of the filter"
              className="input input-xs flex-1"
              placeholder="save this filter as …"
              value={name}
              onChange={(e) => setName(e.target.value)}
            />
            <button type="submit" className="btn btn-xs btn-primary" disabled={name.trim() === '' || !isFiltered}>
              Save
            </button>
          </form>
          {isFiltered ? (
            <button type="button" className="btn btn-xs btn-ghost mt-2" onClick={() => onFilter(NO_FILTER)}>
              Show all tags
            </button>
          ) : null}
        </div>
      ) : null}
    </details>
  );
}
