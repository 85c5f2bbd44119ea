'use client';
/** Which shared state list an element goes by; its own states can be made one. */
import { useState } from 'react';
import { v7 as uuid } from 'uuid';
import type { State } from '@/core/panel/states.ts';
import type { Element } from '@/core/project/entities.ts';
import { freeName } from '@/core/project/freeName.ts';
import { useChange, useProject } from '../../live/LiveContext.tsx';
import { StateListsDialog } from './StateListsDialog.tsx';

interface StateListFieldProps {
  readonly element: Element;
  readonly value: string | null;
  readonly onKeep: (value: string | undefined) => void;
}

export function StateListField({ element, value, onKeep }: StateListFieldProps) {
  const project = useProject();
  const change = useChange();
  const [isOpen, setOpen] = useState(false);
  const own = (element.settings.states ?? []) as readonly State[];
  const share = async (): Promise<void> => {
    const id = uuid();
    const name = freeName(element.label || 'States', project.stateLists);
    const { states: _, ...rest } = element.settings;
    await change(`state list ${name} made`, [
      { kind: 'stateList', id, set: { name, states: own } },
      { kind: 'element', id: element.id, set: { settings: { ...rest, stateListId: id } } },
    ]);
  };
  return (
    <div className="flex flex-col gap-1">
      <label className="flex flex-col gap-0.5 text-xs font-semibold">
        State list
        <select className="select select-sm" value={value ?? ''} onChange={(e) => onKeep(e.target.value || undefined)}>
          <option value="">{own.length > 0 ? 'states of its own' : 'as the tag says'}</option>
          {project.stateLists.map(({ id, name }) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
        </select>
      </label>
      <div className="flex gap-1">
        {value === null && own.length > 0 ? (
          <button type="button" className="btn btn-xs" onClick={() => void share()}>
            Share these states
          </button>
        ) : null}
        <button type="button" className="btn btn-xs btn-ghost" onClick={() => setOpen(true)}>
          State lists …
        </button>
      </div>
      {isOpen ? <StateListsDialog first={value} onClose={() => setOpen(false)} /> : null}
    </div>
  );
}
