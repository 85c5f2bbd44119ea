'use client';
/** State lists of the project: made by hand or from an enumeration, each for many elements. */
import { Plus } from 'lucide-react';
import { useState } from 'react';
import { v7 as uuid } from 'uuid';
import { counted } from '@/core/counted.ts';
import { onOff, type State } from '@/core/panel/states.ts';
import { freeName } from '@/core/project/freeName.ts';
import { useChange, useProject } from '../../live/LiveContext.tsx';
import { CloseRow } from '../../parts/CloseRow.tsx';
import { Dialog } from '../../parts/Dialog.tsx';
import { keptField } from '../../parts/keptField.ts';
import { StatesField } from './StatesField.tsx';
import { usesOfStates } from './elementUses.ts';

export function StateListsDialog({ first, onClose }: { readonly first: string | null; readonly onClose: () => void }) {
  const project = useProject();
  const change = useChange();
  const [chosen, setChosen] = useState(first);
  const lists = project.stateLists;
  const list = lists.find(({ id }) => id === chosen) ?? lists[0] ?? null;
  const make = async (wanted: string, states: readonly State[]): Promise<void> => {
    const id = uuid();
    const name = freeName(wanted, lists);
    const done = await change(`state list ${name} made`, [{ kind: 'stateList', id, set: { name, states } }]);
    if (done.ok) setChosen(id);
  };
  const users = list ? usesOfStates(project, list.id) : 0;
  return (
    <Dialog title="State lists" onClose={onClose} wide>
      <p className="quiet mb-3">What is shown for the values of many elements: text, look, symbol. A change shows wherever the list is used.</p>
      <div className="flex gap-4">
        <ul className="flex w-52 shrink-0 flex-col gap-1" aria-label="State lists">
          {lists.map(({ id, name, states }) => (
            <li key={id}>
              <button
                type="button"
                className={`btn btn-sm w-full justify-start ${id === list?.id ? 'btn-primary' : 'btn-ghost'}`}
                onClick={() => setChosen(id)}
              >
                <span className="truncate">{name}</span> <span className="font-normal">{states.length}</span>
              </button>
            </li>
          ))}
          <li>
            <button type="button" className="btn btn-sm w-full justify-start" onClick={() => void make('States', onOff('on', 'off'))}>
              <Plus size={13} aria-hidden /> State list
            </button>
          </li>
          {project.enumerations.length > 0 ? (
            <li>
              <select
                className="select select-sm w-full"
                aria-label="State list from an enumeration"
                value=""
                onChange={(e) => {
                  const from = project.enumerations.find(({ id }) => id === e.target.value);
                  if (from)
                    void make(
                      from.name,
                      from.names.map(({ value, name }) => ({ at: value, to: null, text: name.slice(0, 60), look: 'plain', symbol: null })),
                    );
                }}
              >
                <option value="">From an enumeration …</option>
                {project.enumerations.map(({ id, name }) => (
                  <option key={id} value={id}>
                    {name}
                  </option>
                ))}
              </select>
            </li>
          ) : null}
        </ul>
        {list ? (
          <div className="flex min-w-0 flex-1 flex-col gap-3">
            <label className="flex flex-col gap-0.5 text-xs font-semibold">
              Name
              <input
                key={list.name}
                className="input input-sm"
                maxLength={80}
                {...keptField(
                  list.name,
                  (name) => change(`state list renamed to ${name}`, [{ kind: 'stateList', id: list.id, set: { name } }]),
                  true,
                )}
              />
            </label>
            <StatesField
              states={list.states}
              shows={['symbol', 'picture']}
              onKeep={(states) => void change(`states of ${list.name} changed`, [{ kind: 'stateList', id: list.id, set: { states } }])}
            />
            <div className="quiet flex items-center gap-3 text-xs">
              Used by {counted(users, 'element')}.
              <button
                type="button"
                className="btn btn-xs btn-ghost"
                onClick={() => void change(`state list ${list.name} removed`, [{ kind: 'stateList', id: list.id, set: null }])}
              >
                Remove the list
              </button>
            </div>
          </div>
        ) : (
          <p className="quiet">No state list yet.</p>
        )}
      </div>
      <CloseRow onClose={onClose} />
    </Dialog>
  );
}
