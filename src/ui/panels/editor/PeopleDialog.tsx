'use client';
/** People who sign in at panels: the level and the PIN of each, what the pages of a panel need, and how long one stays signed in. */
import { KeyRound, Plus, X } from 'lucide-react';
import { useCallback, useEffect, useState } from 'react';
import { toast } from 'sonner';
import { v7 as uuid } from 'uuid';
import { counted } from '@/core/counted.ts';
import { levelOf, LONGEST_PIN, MOST_LEVEL, pinOf, SHORTEST_PIN } from '@/core/panel/levels.ts';
import { freeName } from '@/core/project/freeName.ts';
import type { Operator, Page, Panel } from '@/core/project/entities.ts';
import { call } from '../../live/api.ts';
import { useChange, useProject, useStep } from '../../live/LiveContext.tsx';
import { CloseRow } from '../../parts/CloseRow.tsx';
import { Dialog } from '../../parts/Dialog.tsx';
import { Field } from '../../parts/Field.tsx';
import { keptField } from '../../parts/keptField.ts';
import { NumberField } from './NumberField.tsx';

interface PeopleDialogProps {
  readonly panel: Panel;
  readonly pages: readonly Page[];
  readonly onClose: () => void;
}

export function PeopleDialog({ panel, pages, onClose }: PeopleDialogProps) {
  return (
    <Dialog title="People and levels" onClose={onClose} wide>
      <p className="quiet mb-3 text-sm">
        A page or an element may need a level, 1 to {MOST_LEVEL}. Whoever has it signs in at the panel by name and PIN; the log of writes says who it
        was. A level keeps people from operating something, not from reading it elsewhere.
      </p>
      <div className="flex flex-wrap gap-6">
        <People />
        <PanelLevels panel={panel} pages={pages} />
      </div>
      <CloseRow onClose={onClose} />
    </Dialog>
  );
}

/** Who has a PIN: it is kept on this computer, and is no part of the project. */
function useHavingPin(): { readonly ids: ReadonlySet<string> | null; readonly ask: () => void } {
  const [ids, setIds] = useState<ReadonlySet<string> | null>(null);
  const ask = useCallback(
    () =>
      void call<readonly { readonly id: string; readonly hasPin: boolean }[]>('GET', '/operators').then(
        (all) => all.ok && setIds(new Set(all.value.flatMap(({ id, hasPin }) => (hasPin ? id : [])))),
      ),
    [],
  );
  useEffect(ask, [ask]);
  return { ids, ask };
}

function People() {
  const project = useProject();
  const change = useChange();
  const step = useStep();
  const { ids, ask } = useHavingPin();
  const [changing, setChanging] = useState<string | null>(null);
  const people = project.operators;
  const add = (): void => {
    const name = freeName('Operator', people);
    void change(`${name} added to the people`, [{ kind: 'operator', id: uuid(), set: { name, level: 1 } }]);
  };
  const remove = async ({ id, name }: Operator): Promise<void> => {
    const done = await change(`${name} removed from the people`, [{ kind: 'operator', id, set: null }]);
    if (done.ok) toast(`${name} removed`, { action: { label: 'Undo', onClick: () => void step('undo') } });
  };
  return (
    <section aria-label="People" className="flex flex-1 flex-col gap-2">
      {people.length === 0 ? (
        <p className="quiet text-sm">Nobody yet: what needs a level can be operated by no one.</p>
      ) : (
        <table className="table-sm table">
          <thead>
            <tr>
              <th>Person</th>
              <th>Level</th>
              <th>PIN</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {people.map((person) => {
              const { id, name, level } = person;
              return (
                <tr key={id} data-person={name}>
                  <td>
                    <input
                      key={name}
                      className="input input-xs w-44"
                      title={name}
                      aria-label={`Name of ${name}`}
                      maxLength={80}
                      {...keptField(name, (next) => change(`${name} renamed to ${next}`, [{ kind: 'operator', id, set: { name: next } }]), true)}
                    />
                  </td>
                  <td>
                    <LevelSelect
                      label={`Level of ${name}`}
                      from={1}
                      value={level}
                      onKeep={(next) => void change(`level of ${name} changed`, [{ kind: 'operator', id, set: { level: next } }])}
                    />
                  </td>
                  <td className="whitespace-nowrap">
                    <button type="button" className="btn btn-xs btn-ghost whitespace-nowrap" onClick={() => setChanging(id)}>
                      <KeyRound size={13} aria-hidden /> {ids === null ? 'PIN' : ids.has(id) ? 'Change PIN' : 'Set PIN'}
                    </button>
                    {ids !== null && !ids.has(id) ? (
                      <span className="is-look ml-1 text-xs" title="Cannot sign in yet">
                        ◑ has none
                      </span>
                    ) : null}
                  </td>
                  <td>
                    <button
                      type="button"
                      className="btn btn-xs btn-ghost btn-square"
                      aria-label={`Remove ${name}`}
                      title="Remove"
                      onClick={() => void remove(person)}
                    >
                      <X size={13} aria-hidden />
                    </button>
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
      <div>
        <button type="button" className="btn btn-sm" onClick={add}>
          <Plus size={13} aria-hidden /> Person
        </button>
      </div>
      {people.map(({ id, name }) =>
        id === changing ? (
          <PinForm
            key={id}
            operatorId={id}
            name={name}
            onDone={() => {
              setChanging(null);
              ask();
            }}
          />
        ) : null,
      )}
      <p className="quiet text-xs">PINs are kept hashed on this computer: no project file and no panel has them.</p>
    </section>
  );
}

function PinForm({ operatorId, name, onDone }: { readonly operatorId: string; readonly name: string; readonly onDone: () => void }) {
  const [pin, setPin] = useState('');
  const [problem, setProblem] = useState('');
  const good = pin === '' ? null : pinOf(pin);
  const wrong = problem || (good && !good.ok && pin.length >= SHORTEST_PIN ? `${good.problem.message} ${good.problem.remedy ?? ''}`.trim() : '');
  const send = async (): Promise<void> => {
    const done = await call('POST', `/operators/${operatorId}/pin`, { pin });
    if (!done.ok) return setProblem(`${done.problem.message} ${done.problem.remedy ?? ''}`.trim());
    toast(`PIN of ${name} set`);
    onDone();
  };
  return (
    <form
      noValidate
      className="hairline flex items-end gap-2 rounded-md p-3"
      onSubmit={(e) => {
        e.preventDefault();
        if (good?.ok === true) void send();
      }}
    >
      <Field label={`New PIN of ${name}`} help={`${SHORTEST_PIN} to ${LONGEST_PIN} digits`} error={wrong || undefined}>
        {(ids) => (
          <input
            {...ids}
            autoFocus
            type="password"
            className="input input-sm num w-44"
            inputMode="numeric"
            autoComplete="new-password"
            maxLength={LONGEST_PIN}
            value={pin}
            onChange={(e) => {
              setPin(e.target.value);
              setProblem('');
            }}
            onKeyDown={(e) => {
              if (e.key !== 'Escape') return;
              e.preventDefault();
              onDone();
            }}
          />
        )}
      </Field>
      <button type="submit" className="btn btn-sm btn-primary" disabled={good?.ok !== true}>
        Set PIN
      </button>
      <button type="button" className="btn btn-sm btn-ghost" onClick={onDone}>
        Cancel
      </button>
    </form>
  );
}

function PanelLevels({ panel, pages }: Omit<PeopleDialogProps, 'onClose'>) {
  const project = useProject();
  const change = useChange();
  return (
    <section aria-label={`Levels of ${panel.name}`} className="flex flex-col gap-2">
      <table className="table-sm table w-auto">
        <thead>
          <tr>
            <th>Page of {panel.name}</th>
            <th>Opened from</th>
          </tr>
        </thead>
        <tbody>
          {pages.map(({ id, name, level }) => {
            const own = project.elementsOn(id).filter((element) => levelOf(element) > 0).length;
            return (
              <tr key={id}>
                <td>
                  {name}
                  {own > 0 ? <span className="quiet block text-xs">{counted(own, 'element')} with a level of their own</span> : null}
                </td>
                <td>
                  <LevelSelect
                    label={`Level of the page ${name}`}
                    from={0}
                    value={level}
                    onKeep={(next) => void change(`level of ${name} changed`, [{ kind: 'page', id, set: { level: next } }])}
                  />
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <NumberField
        label="Signs out after, minutes"
        value={panel.signOutMinutes}
        min={1}
        max={720}
        onKeep={(minutes) =>
          minutes !== undefined &&
          void change(`signing out of ${panel.name} changed`, [{ kind: 'panel', id: panel.id, set: { signOutMinutes: minutes } }])
        }
      />
      <p className="quiet text-xs">Without a touch; after twelve hours in any case.</p>
    </section>
  );
}

interface LevelSelectProps {
  readonly label: string;
  readonly from: number;
  readonly value: number;
  readonly onKeep: (level: number) => void;
}

function LevelSelect({ label, from, value, onKeep }: LevelSelectProps) {
  return (
    <select className="select select-xs w-24" aria-label={label} value={value} onChange={(e) => onKeep(Number(e.target.value))}>
      {Array.from({ length: MOST_LEVEL + 1 - from }, (_, i) => from + i).map((level) => (
        <option key={level} value={level}>
          {level === 0 ? 'everybody' : `level ${level}`}
        </option>
      ))}
    </select>
  );
}
