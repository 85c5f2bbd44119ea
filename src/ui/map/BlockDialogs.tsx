'use client';
/** Find and replace, duplicates, and what did not fit of a paste: dialogs over a block of tags. */
import { useState, type ReactNode } from 'react';
import { counted } from '@/core/counted.ts';
import type { Change } from '@/core/project/command.ts';
import type { Tag } from '@/core/project/entities.ts';
import { useChange, useProject } from '../live/LiveContext.tsx';
import { Dialog } from '../parts/Dialog.tsx';
import { MAP_COLUMNS, type ColumnKey } from './columns.ts';
import { EditPreview } from './EditPreview.tsx';
import { changesOfDuplicate, duplicate, replaceIn } from './gridActions.ts';
import { changesOf, type PlannedEdits } from './gridEdits.ts';

interface BlockDialogProps {
  readonly tags: readonly Tag[];
  readonly onClose: () => void;
}

/** A plan is kept as one command, without the rows that do not fit. */
function useKeep(onClose: () => void): (label: string, changes: readonly Change[]) => Promise<void> {
  const change = useChange();
  return async (label, changes) => {
    const done = await change(label, changes);
    if (done.ok) onClose();
  };
}

function Frame({
  title,
  planned,
  verb,
  onKeep,
  onClose,
  children,
}: {
  readonly title: string;
  readonly planned: PlannedEdits;
  readonly verb: string;
  readonly onKeep: () => void;
  readonly onClose: () => void;
  readonly children?: ReactNode;
}) {
  const good = planned.rows.filter(({ problem }) => problem === null).length;
  const isWhole = good === planned.rows.length;
  return (
    <Dialog title={title} onClose={onClose} wide>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          if (good > 0) onKeep();
        }}
      >
        {children}
        <EditPreview planned={planned} />
        <div className="mt-4 flex justify-end gap-2">
          <button type="button" className="btn btn-sm btn-ghost" onClick={onClose}>
            {isWhole ? 'Cancel' : 'Change nothing'}
          </button>
          <button type="submit" className="btn btn-sm btn-primary" disabled={good === 0}>
            {isWhole ? `${verb} ${counted(good, 'tag')}` : `${verb} the ${good} that fit`}
          </button>
        </div>
      </form>
    </Dialog>
  );
}

/** Told where an edit did not fit as a whole. */
export function UnfitDialog({ planned, label, onClose }: { readonly planned: PlannedEdits; readonly label: string; readonly onClose: () => void }) {
  const keep = useKeep(onClose);
  return (
    <Frame title="Some of it does not fit" planned={planned} verb="Change" onKeep={() => void keep(label, changesOf(planned))} onClose={onClose} />
  );
}

export function ReplaceDialog({ tags, onClose }: BlockDialogProps) {
  const project = useProject();
  const keep = useKeep(onClose);
  const [find, setFind] = useState('');
  const [replacement, setReplacement] = useState('');
  const [column, setColumn] = useState<ColumnKey | ''>('');
  const [isCaseHeld, setCaseHeld] = useState(false);
  const planned = replaceIn(project, tags, { find, with: replacement, column: column === '' ? null : column, isCaseHeld });
  return (
    <Frame
      title={`Find and replace in ${counted(tags.length, 'tag')}`}
      planned={planned}
      verb="Change"
      onKeep={() => void keep(`“${find}” replaced by “${replacement}”`, changesOf(planned))}
      onClose={onClose}
    >
      <div className="mb-3 grid grid-cols-[1fr_1fr_auto_auto] items-end gap-3">
        <label>
          <span className="block text-[13px] font-semibold">Find</span>
          <input autoFocus className="input input-sm num w-full" value={find} onChange={(e) => setFind(e.target.value)} />
        </label>
        <label>
          <span className="block text-[13px] font-semibold">Replace with</span>
          <input className="input input-sm num w-full" value={replacement} onChange={(e) => setReplacement(e.target.value)} />
        </label>
        <label>
          <span className="block text-[13px] font-semibold">In</span>
          <select className="select select-sm" value={column} onChange={(e) => setColumn(e.target.value as ColumnKey | '')}>
            <option value="">all texts</option>
            {MAP_COLUMNS.filter(({ edit }) => edit).map(({ key, title }) => (
              <option key={key} value={key}>
                {title}
              </option>
            ))}
          </select>
        </label>
        <label className="flex items-center gap-2 pb-1 text-[13px]">
          <input type="checkbox" className="checkbox checkbox-xs" checked={isCaseHeld} onChange={(e) => setCaseHeld(e.target.checked)} />
          same case
        </label>
      </div>
    </Frame>
  );
}

const MOST_COPIES = 500;

export function DuplicateDialog({ tags, onClose }: BlockDialogProps) {
  const project = useProject();
  const keep = useKeep(onClose);
  const hasGroupNumber = tags.every(({ groupId }) => /\d/.test(project.groupTextOf(groupId)));
  const [copies, setCopies] = useState('1');
  const [offset, setOffset] = useState('100');
  const [counts, setCounts] = useState<'group' | 'first' | 'last'>(hasGroupNumber ? 'group' : 'first');
  const asked = {
    copies: Math.min(MOST_COPIES, Math.max(0, Math.trunc(Number(copies)) || 0)),
    offset: Math.trunc(Number(offset)) || 0,
    counts,
  };
  const planned = duplicate(project, tags, asked);
  return (
    <Frame
      title={`Duplicate ${counted(tags.length, 'tag')}`}
      planned={planned}
      verb="Make"
      onKeep={() => void keep(`${counted(tags.length, 'tag')} duplicated`, changesOfDuplicate(planned))}
      onClose={onClose}
    >
      <div className="mb-3 grid grid-cols-[7rem_11rem_1fr] items-end gap-3">
        <label>
          <span className="block text-[13px] font-semibold">Copies</span>
          <input
            autoFocus
            type="number"
            min={1}
            max={MOST_COPIES}
            className="input input-sm num w-full"
            value={copies}
            onChange={(e) => setCopies(e.target.value)}
          />
        </label>
        <label>
          <span className="block text-[13px] font-semibold">Addresses apart</span>
          <input type="number" className="input input-sm num w-full" value={offset} onChange={(e) => setOffset(e.target.value)} />
        </label>
        <label>
          <span className="block text-[13px] font-semibold">What counts on</span>
          <select className="select select-sm w-64" value={counts} onChange={(e) => setCounts(e.target.value as typeof counts)}>
            <option value="group" disabled={!hasGroupNumber}>
              the number of the group
            </option>
            <option value="first">the first number of the name</option>
            <option value="last">the last number of the name</option>
          </select>
        </label>
      </div>
    </Frame>
  );
}
