'use client';
/** Sets of values: chosen, compared with what the controller holds, written back as one, stored. */
import { useCallback, useEffect, useState } from 'react';
import { toast } from 'sonner';
import { settingsOf } from '@/core/panel/kinds.ts';
import { LONGEST_SET_NAME, type SetAct, type SetWritten, type StoredSet, type StoredValue } from '@/core/panel/storedSet.ts';
import type { Element } from '@/core/project/entities.ts';
import { NO_VALUE_TEXT } from '@/core/signal.ts';
import { call } from '../../live/api.ts';
import type { TagView } from '../../live/liveClient.ts';
import { Dialog } from '../../parts/Dialog.tsx';
import { dayAndTime } from '../../parts/moment.ts';
import { useStage } from '../SceneContext.tsx';
import { usePageSubject } from '../Subjects.tsx';
import { useTagViews } from '../useValues.ts';
import type { DrawingProps } from './drawing.ts';
import { letterRows, KeyRows } from './KeyRows.tsx';

/** Others may store at another glass. */
const LOOK_MS = 5000;

export function SetsDrawing({ element, isEnabled }: DrawingProps) {
  const { scene, isPressable } = useStage();
  const { say } = scene;
  const { name, members, canStore } = settingsOf('sets', element);
  const pattern = usePattern(element);
  const views = useTagViews(members);
  const { sets, problem, load } = useSets(element);
  const [chosenId, setChosen] = useState<string | null>(null);
  const [asks, setAsks] = useState<'load' | 'store' | 'remove' | null>(null);
  const { act, busy } = useSetAct(element);
  const chosen = sets?.find(({ id }) => id === chosenId) ?? null;
  const canAct = isPressable && isEnabled && !busy;
  const rows = members.map((id, i) => {
    const stored = chosen?.values[pattern[i] ?? id] ?? null;
    return { id, tag: scene.tag(id), view: views[i] ?? null, stored, isSame: stored !== null && isHeld(stored, views[i] ?? null) };
  });
  const onlyRead = rows.filter(({ tag }) => tag?.canWrite !== true).map(({ tag }) => tag?.name ?? NO_VALUE_TEXT);
  const others = rows.filter(({ isSame }) => !isSame).length;
  const does = async (what: SetAct, more: { readonly name?: string; readonly setId?: string }): Promise<void> => {
    setAsks(null);
    const done = await act(what, more);
    if (!done) return;
    const fresh = await load();
    if (what === 'store') setChosen(fresh.find((one) => one.name.toLowerCase() === more.name?.toLowerCase())?.id ?? null);
  };
  return (
    <section className="bg-base-100 hairline flex h-full w-full flex-col overflow-hidden rounded-md text-[15px]" aria-label={element.label || name}>
      <header className="border-base-300 flex flex-wrap items-center gap-2 border-b p-2">
        <strong className="w-full truncate text-[14px]">{element.label || name}</strong>
        <select
          className="select min-h-11 min-w-40 flex-1 text-[16px]"
          aria-label={element.label || name}
          value={chosen?.id ?? ''}
          onChange={(e) => setChosen(e.target.value || null)}
        >
          <option value="">{sets?.length === 0 ? say('Nothing is stored yet') : say('Choose one')}</option>
          {sets?.map((one) => (
            <option key={one.id} value={one.id}>
              {one.name}
            </option>
          ))}
        </select>
        <button
          type="button"
          className="btn btn-primary min-h-11"
          disabled={!canAct || !chosen || onlyRead.length > 0}
          onClick={() => setAsks('load')}
        >
          {say('Write it')}
        </button>
        {canStore ? (
          <>
            <button type="button" className="btn min-h-11" disabled={!canAct || members.length === 0} onClick={() => setAsks('store')}>
              {say('Store')}
            </button>
            <button type="button" className="btn btn-ghost min-h-11" disabled={!canAct || !chosen} onClick={() => setAsks('remove')}>
              {say('Remove')}
            </button>
          </>
        ) : null}
      </header>
      {problem === '' ? null : <p className="is-bad px-3 py-1 text-[13px]">✕ {problem}</p>}
      {onlyRead.length === 0 ? null : (
        <p className="is-look px-3 py-1 text-[13px]">◑ {say('Not written, since only read: {1}', onlyRead.join(', '))}</p>
      )}
      {chosen ? (
        <p className={`px-3 py-1 text-[13px] ${others === 0 ? 'is-good' : 'is-look'}`} role="status">
          {others === 0 ? `● ${say('The controller holds it')}` : `◑ ${say('{1} of {2} differ', String(others), String(rows.length))}`}
          <span className="quiet">
            {' '}
            · {dayAndTime(chosen.at)} {chosen.by}
          </span>
        </p>
      ) : null}
      <div className="min-h-0 flex-1 overflow-auto">
        <table className="w-full border-collapse text-[14px]">
          {chosen ? (
            <thead className="quiet text-[13px]">
              <tr>
                <td />
                <th scope="col" className="px-2 text-right font-normal">
                  {say('Now')}
                </th>
                <th scope="col" className="px-3 text-right font-normal">
                  {say('Stored')}
                </th>
              </tr>
            </thead>
          ) : null}
          <tbody>
            {rows.map(({ id, tag, view, stored, isSame }) => (
              <tr key={id} className="border-base-300 border-t">
                <th scope="row" className="px-3 py-1 text-left font-normal [overflow-wrap:anywhere]">
                  {tag?.name ?? say('no value')}
                </th>
                <td className="num px-2 py-1 text-right whitespace-nowrap" title={view?.why}>
                  {valueText(view, tag?.def?.unit ?? '')}
                </td>
                {chosen ? (
                  <td className={`num px-3 py-1 text-right whitespace-nowrap ${isSame ? 'quiet' : 'is-look font-semibold'}`}>
                    {stored ? `${isSame ? '' : '→ '}${stored.text}${stored.unit === '' ? '' : ` ${stored.unit}`}` : NO_VALUE_TEXT}
                  </td>
                ) : null}
              </tr>
            ))}
          </tbody>
        </table>
        {members.length === 0 ? <p className="quiet p-3">{say('No tags yet: choose them in its settings.')}</p> : null}
      </div>
      {asks === 'store' ? (
        <StoreDialog
          first={chosen?.name ?? ''}
          sets={sets ?? []}
          onStore={(as, setId) => void does('store', { name: as, ...(setId === undefined ? {} : { setId }) })}
          onClose={() => setAsks(null)}
        />
      ) : null}
      {chosen && (asks === 'load' || asks === 'remove') ? (
        <Dialog title={chosen.name} onClose={() => setAsks(null)}>
          <p>{asks === 'load' ? say('Write its {1} values to the controller?', String(rows.length)) : say('Remove this set for good?')}</p>
          <div className="mt-4 flex justify-end gap-2">
            <button type="button" className="btn btn-lg" autoFocus onClick={() => setAsks(null)}>
              {say('Cancel')}
            </button>
            <button type="button" className="btn btn-lg btn-primary" onClick={() => void does(asks, { setId: chosen.id })}>
              {say(asks === 'load' ? 'Write it' : 'Remove')}
            </button>
          </div>
        </Dialog>
      ) : null}
    </section>
  );
}

/** The tags under which values are stored: those of the first of the like things that a page serves. */
function usePattern(element: Element): readonly string[] {
  const { scene } = useStage();
  const own = scene.elementsOn(element.pageId).find(({ id }) => id === element.id) ?? element;
  return settingsOf('sets', own).members;
}

const isHeld = (stored: StoredValue, view: TagView | null): boolean =>
  view?.level === 'good' && view.sample?.eng !== null && JSON.stringify(view.sample?.eng) === JSON.stringify(stored.value);

function valueText(view: TagView | null, unit: string): string {
  if (!view || view.level === 'bad') return `✕ ${NO_VALUE_TEXT}`;
  return `${view.level === 'uncertain' ? '◑ ' : ''}${view.text}${unit === '' ? '' : ` ${unit}`}`;
}

function useSets(element: Element): {
  readonly sets: readonly StoredSet[] | null;
  readonly problem: string;
  readonly load: () => Promise<readonly StoredSet[]>;
} {
  const { scene } = useStage();
  const [sets, setSets] = useState<readonly StoredSet[] | null>(null);
  const [problem, setProblem] = useState('');
  const path = `/panels/${scene.panel.id}/elements/${element.id}/sets`;
  const load = useCallback(async (): Promise<readonly StoredSet[]> => {
    const done = await call<readonly StoredSet[]>('GET', path);
    setProblem(done.ok ? '' : done.problem.message);
    if (!done.ok) return [];
    setSets((known) => (JSON.stringify(known) === JSON.stringify(done.value) ? known : done.value));
    return done.value;
  }, [path]);
  useEffect(() => {
    // eslint-disable-next-line react-hooks/set-state-in-effect -- what is stored is asked of the server
    void load();
    const timer = setInterval(() => document.visibilityState === 'visible' && void load(), LOOK_MS);
    return () => clearInterval(timer);
  }, [load]);
  return { sets, problem, load };
}

function useSetAct(element: Element) {
  const { scene, signing } = useStage();
  const { choice } = usePageSubject();
  const [busy, setBusy] = useState(false);
  const act = async (what: SetAct, more: { readonly name?: string; readonly setId?: string }): Promise<boolean> => {
    setBusy(true);
    const done = await call<SetWritten>('POST', `/panels/${scene.panel.id}/elements/${element.id}/sets`, {
      act: what,
      ...more,
      ...(choice ? { subject: choice.number } : {}),
      ...(signing.session === undefined ? {} : { session: signing.session }),
    });
    setBusy(false);
    if (!done.ok) toast.error(done.problem.message, { description: done.problem.remedy, duration: 15_000 });
    else if (done.value.failed.length > 0)
      toast.warning(`${done.value.done} / ${done.value.of}`, { description: done.value.failed.join(' '), duration: Infinity });
    else if (what === 'load') toast.success(scene.say('{1} values are written', String(done.value.done)));
    return done.ok;
  };
  return { act, busy };
}

interface StoreDialogProps {
  readonly first: string;
  readonly sets: readonly StoredSet[];
  readonly onStore: (name: string, setId: string | undefined) => void;
  readonly onClose: () => void;
}

function StoreDialog({ first, sets, onStore, onClose }: StoreDialogProps) {
  const { say } = useStage().scene;
  const [name, setName] = useState(first);
  const [isShifted, setShifted] = useState(false);
  const known = sets.find((one) => one.name.toLowerCase() === name.trim().toLowerCase());
  const key = (pressed: string): void => {
    if (pressed === '⇧') setShifted(!isShifted);
    else
      setName(
        pressed === '⌫'
          ? [...name].slice(0, -1).join('')
          : pressed === 'C'
            ? ''
            : `${name}${pressed === 'space' ? ' ' : pressed}`.slice(0, LONGEST_SET_NAME),
      );
  };
  return (
    <Dialog title={say('Store')} onClose={onClose} wide>
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          if (name.trim() !== '') onStore(name.trim(), known?.id);
        }}
      >
        <label className="flex flex-col gap-1 text-[13px] font-semibold">
          {say('Name of the set')}
          <input
            autoFocus
            className="input input-lg w-full"
            inputMode="none"
            maxLength={LONGEST_SET_NAME}
            value={name}
            onChange={(e) => setName(e.target.value)}
          />
        </label>
        <p className="min-h-6" aria-live="polite">
          {known ? <span className="is-look">◑ {say('The values of “{1}” are replaced', known.name)}</span> : null}
        </p>
        <KeyRows rows={letterRows(isShifted)} onKey={key} icons={{}} />
        <div className="flex justify-end gap-2">
          <button type="button" className="btn btn-lg btn-ghost" onClick={onClose}>
            {say('Cancel')}
          </button>
          <button type="submit" className="btn btn-lg btn-primary" disabled={name.trim() === ''}>
            {say('Store')}
          </button>
        </div>
      </form>
    </Dialog>
  );
}
