'use client';
/** The groups that tags stand in, each with what it says for all below it. Every change is kept at once. */
import { Plus, Trash2 } from 'lucide-react';
import { useState, type FormEvent } from 'react';
import { counted } from '@/core/counted.ts';
import type { Change } from '@/core/project/command.ts';
import { labelOf, type Group } from '@/core/project/entities.ts';
import { groupsNamed } from '@/core/project/groupsNamed.ts';
import type { Reads } from '@/core/project/kinds/device.ts';
import { PERIODS_MS } from '@/core/project/kinds/periods.ts';
import { groupsAbove } from '@/core/project/tagPath.ts';
import { useChange, useProject } from '../live/LiveContext.tsx';
import type { ProjectView } from '../live/project.ts';
import { Dialog } from '../parts/Dialog.tsx';
import { KeptText } from '../parts/KeptText.tsx';
import { periodText } from './columns.ts';

const COLUMNS = 'grid grid-cols-[minmax(0,2fr)_4rem_8rem_7rem_7rem_minmax(0,0.8fr)_minmax(0,1.1fr)_minmax(0,1.1fr)_2rem] items-center gap-2';

export function GroupsDialog({ onClose }: { readonly onClose: () => void }) {
  const project = useProject();
  const groups = inTree(project);
  const counts = countsIn(project);
  return (
    <Dialog title="Groups" onClose={onClose} wide>
      <p className="quiet mb-3">
        A group says for all tags below it what a tag does not say itself: how often it is read, whether it may be written, what its address begins
        with, which raw values mean that there is none.
      </p>
      <div role="table" aria-label="Groups" className="text-[13px]">
        <div role="row" className={`${COLUMNS} border-base-300 border-b pb-1 font-semibold`}>
          <span role="columnheader">Group</span>
          <span role="columnheader" className="text-right">
            Tags
          </span>
          {(['periodMs', 'reads', 'access', 'prefix', 'unavailable', 'witnessUrl'] as const).map((field) => (
            <span role="columnheader" key={field}>
              {labelOf('group', field)}
            </span>
          ))}
          <span />
        </div>
        <div className="max-h-[50vh] overflow-y-auto">
          {groups.map((group) => (
            <GroupRow key={group.id} group={group} tags={counts.get(group.id) ?? 0} />
          ))}
        </div>
        {groups.length === 0 ? <p className="quiet py-4 text-center">No groups yet. A list with a column for groups brings its own.</p> : null}
      </div>
      <NewGroup />
      <div className="mt-4 text-right">
        <button type="button" className="btn btn-sm btn-primary" onClick={onClose}>
          Close
        </button>
      </div>
    </Dialog>
  );
}

function GroupRow({ group, tags }: { readonly group: Group; readonly tags: number }) {
  const project = useProject();
  const change = useChange();
  const path = project.groupTextOf(group.id);
  const above = project.inheritedBy(group.parentId);
  const depth = groupsAbove(group.parentId, project).length;
  const set = (what: string, fields: Partial<Group>): void =>
    void change(`${what} of group ${path} changed`, [{ kind: 'group', id: group.id, set: fields, was: wasOf(group, fields) }]);
  /** Its tags and groups come to stand where it stood. */
  const remove = (): void => void change(`group ${path} removed`, removing(project, group));
  return (
    <div role="row" className={`${COLUMNS} border-base-300 border-b py-1`} data-group={path}>
      <span className="flex min-w-0 items-baseline gap-1" style={{ paddingLeft: depth === 0 ? 0 : `${2.5 + depth * 1.25}rem` }}>
        {depth === 0 && group.deviceId !== null ? <span className="quiet shrink-0">{project.device(group.deviceId)?.name} ·</span> : null}
        <KeptText label={`Name of ${path}`} value={group.name} onKeep={(name) => set('name', { name })} />
      </span>
      <span role="cell" className="num text-right">
        {tags}
      </span>
      <span role="cell">
        <select
          aria-label={`Period of ${path}`}
          className="select select-xs w-full"
          value={group.periodMs ?? ''}
          onChange={(e) => set('period', { periodMs: e.target.value === '' ? null : Number(e.target.value) })}
        >
          <option value="">as above ({periodText(above.periodMs)})</option>
          {[...new Set([...PERIODS_MS, ...(group.periodMs === null ? [] : [group.periodMs])])].map((ms) => (
            <option key={ms} value={ms}>
              {periodText(ms)}
            </option>
          ))}
        </select>
      </span>
      <span role="cell">
        <select
          aria-label={`Read, of ${path}`}
          className="select select-xs w-full"
          value={group.reads ?? ''}
          onChange={(e) => set('reading', { reads: e.target.value === '' ? null : (e.target.value as Reads) })}
        >
          <option value="">as above</option>
          <option value="always">always</option>
          <option value="shown">while shown</option>
        </select>
      </span>
      <span role="cell">
        <select
          aria-label={`Access of ${path}`}
          className="select select-xs w-full"
          value={group.access ?? ''}
          onChange={(e) => set('access', { access: e.target.value === '' ? null : (e.target.value as 'read' | 'readWrite') })}
        >
          <option value="">as above ({above.access === 'read' ? 'R' : 'RW'})</option>
          <option value="read">R, read only</option>
          <option value="readWrite">RW, read and write</option>
        </select>
      </span>
      <KeptText label={`Address prefix of ${path}`} value={group.prefix} onKeep={(prefix) => set('prefix', { prefix })} mono />
      <KeptText
        label={`Not available, below ${path}`}
        value={group.unavailable ?? ''}
        placeholder={above.unavailable === '' ? '16#8000, -9999' : above.unavailable}
        onKeep={(codes) => set('codes for no value', { unavailable: codes === '' ? null : codes })}
        mono
      />
      <KeptText
        label={`Control channel of ${path}`}
        value={group.witnessUrl ?? ''}
        placeholder={above.witnessUrl ?? 'as the device'}
        onKeep={(url) => set('control channel', { witnessUrl: url === '' ? null : url })}
        mono
      />
      <button
        type="button"
        className="btn btn-xs btn-ghost btn-square"
        aria-label={`Remove group ${path}`}
        title={`Remove it; its ${counted(tags, 'tag')} stay`}
        onClick={remove}
      >
        <Trash2 size={14} aria-hidden />
      </button>
    </div>
  );
}

function NewGroup() {
  const project = useProject();
  const change = useChange();
  const [path, setPath] = useState('');
  const [deviceId, setDeviceId] = useState(project.devices[0]?.id ?? '');
  const { changes } = groupsNamed(project, deviceId === '' ? null : deviceId, [path]);
  const make = (event: FormEvent): void => {
    event.preventDefault();
    if (changes.length === 0) return;
    void change(`group ${path.trim()} made`, changes);
    setPath('');
  };
  return (
    <form className="mt-3 flex items-center gap-2" onSubmit={make} aria-label="New group">
      <select aria-label="Under" className="select select-sm w-48" value={deviceId} onChange={(e) => setDeviceId(e.target.value)}>
        {project.devices.map((device) => (
          <option key={device.id} value={device.id}>
            under {device.name}
          </option>
        ))}
        <option value="">under the project</option>
      </select>
      <input
        aria-label="Name of the new group"
        className="input input-sm w-64"
        placeholder="Zone 1/Bed: a group in a group"
        value={path}
        onChange={(e) => setPath(e.target.value)}
      />
      <button type="submit" className="btn btn-sm btn-outline" disabled={changes.length === 0}>
        <Plus size={14} aria-hidden /> Make group
      </button>
    </form>
  );
}

/** Groups of each device and then of the project, each followed by those inside it. */
function inTree(project: ProjectView): readonly Group[] {
  const key = (group: Group): string =>
    `${group.deviceId === null ? '\uffff' : (project.device(group.deviceId)?.name ?? '')}\u0000${project.groupTextOf(group.id)}`;
  return [...project.groups].sort((a, b) => key(a).localeCompare(key(b), 'en', { numeric: true }));
}

/** Tags right in each group. */
function countsIn(project: ProjectView): ReadonlyMap<string, number> {
  const counts = new Map<string, number>();
  for (const { groupId } of project.allTags()) if (groupId !== null) counts.set(groupId, (counts.get(groupId) ?? 0) + 1);
  return counts;
}

function removing(project: ProjectView, group: Group): readonly Change[] {
  const changes: Change[] = [];
  for (const inner of project.groups)
    if (inner.parentId === group.id) changes.push({ kind: 'group', id: inner.id, set: { parentId: group.parentId } });
  for (const tag of project.allTags()) if (tag.groupId === group.id) changes.push({ kind: 'tag', id: tag.id, set: { groupId: group.parentId } });
  return [...changes, { kind: 'group', id: group.id, set: null }];
}

function wasOf(group: Group, fields: Partial<Group>): Readonly<Record<string, unknown>> {
  return Object.fromEntries(Object.keys(fields).map((field) => [field, group[field as keyof Group]]));
}
