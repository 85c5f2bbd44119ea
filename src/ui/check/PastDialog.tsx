'use client';
/** The past: which devices are recorded, and what some tags were at a moment, as it was shown then and as the mapping of now shows it. */
import { useEffect, useState } from 'react';
import { MOST_HOURS, MOST_MEGABYTES, MOST_PAST_TAGS, type PastValue, type RecorderState } from '@/core/check/recording/settings.ts';
import { counted } from '@/core/counted.ts';
import type { Tag } from '@/core/project/entities.ts';
import { deviceIdOf } from '@/core/project/tagSource.ts';
import type { Problem } from '@/core/result.ts';
import { call } from '../live/api.ts';
import { useProject } from '../live/LiveContext.tsx';
import { CloseRow } from '../parts/CloseRow.tsx';
import { Dialog } from '../parts/Dialog.tsx';
import { Field } from '../parts/Field.tsx';
import { dayAndTime } from '../parts/moment.ts';

/** Of a tag alone, around the moment. */
const AROUND_MS = 10 * 60_000;
const SHOWN = 200;

export function PastDialog({ tags, tag, onClose }: { readonly tags: readonly Tag[]; readonly tag: Tag | null; readonly onClose: () => void }) {
  const [state, setState] = useState<RecorderState | null>(null);
  const [problem, setProblem] = useState<Problem | null>(null);
  useEffect(() => {
    const stop = new AbortController();
    void call<RecorderState>('GET', '/recorder', undefined, stop.signal).then((done) => {
      if (stop.signal.aborted) return;
      if (done.ok) setState(done.value);
      else setProblem(done.problem);
    });
    return () => stop.abort();
  }, []);
  return (
    <Dialog title="The past" onClose={onClose} wide>
      {problem ? (
        <p role="alert" className="mb-2">
          <strong className="is-bad">{problem.message}</strong> {problem.remedy}
        </p>
      ) : null}
      {state === null ? (
        problem ? null : (
          <p className="quiet">Loading …</p>
        )
      ) : (
        <>
          <Recorded state={state} onState={setState} onProblem={setProblem} />
          <Look state={state} tags={tags} tag={tag} onProblem={setProblem} />
        </>
      )}
      <CloseRow onClose={onClose} />
    </Dialog>
  );
}

/** What is recorded, and how much of it is kept. */
function Recorded({
  state,
  onState,
  onProblem,
}: {
  readonly state: RecorderState;
  readonly onState: (state: RecorderState) => void;
  readonly onProblem: (problem: Problem | null) => void;
}) {
  const project = useProject();
  const [hours, setHours] = useState(String(state.settings.hours));
  const [megabytes, setMegabytes] = useState(String(state.settings.megabytes));
  const { deviceIds } = state.settings;
  const set = async (change: Partial<RecorderState['settings']>): Promise<void> => {
    const done = await call<RecorderState>('POST', '/recorder', { ...state.settings, ...change });
    onProblem(done.ok ? null : done.problem);
    if (done.ok) onState(done.value);
  };
  return (
    <section aria-label="What is recorded" className="text-[13px]">
      <p className="quiet mb-2">
        {deviceIds.length === 0
          ? 'Nothing is recorded. Choose the devices whose bytes are to be kept; nothing is asked of them beside the scan.'
          : `${counted(state.tags, 'tag')} recorded${state.from === null ? '' : `, back to ${dayAndTime(state.from)}`}, ${(state.bytes / 1e6).toFixed(1)} MB.`}
      </p>
      {state.problem === '' ? null : (
        <p role="alert" className="is-bad mb-2">
          {state.problem}
        </p>
      )}
      <div className="flex flex-wrap items-end gap-x-4 gap-y-1">
        {project.devices.map(({ id, name }) => (
          <label key={id} className="flex items-center gap-2">
            <input
              type="checkbox"
              className="checkbox checkbox-sm"
              checked={deviceIds.includes(id)}
              onChange={(e) => void set({ deviceIds: e.target.checked ? [...deviceIds, id] : deviceIds.filter((other) => other !== id) })}
            />
            {name}
          </label>
        ))}
      </div>
      <div className="mt-2 flex gap-4">
        <Field label="Kept for" unit="hours">
          {(ids) => (
            <input
              {...ids}
              type="number"
              className="input input-sm num w-24"
              min={1}
              max={MOST_HOURS}
              value={hours}
              onChange={(e) => setHours(e.target.value)}
              onBlur={() => void set({ hours: Number(hours) })}
            />
          )}
        </Field>
        <Field label="In at most" unit="MB">
          {(ids) => (
            <input
              {...ids}
              type="number"
              className="input input-sm num w-24"
              min={10}
              max={MOST_MEGABYTES}
              value={megabytes}
              onChange={(e) => setMegabytes(e.target.value)}
              onBlur={() => void set({ megabytes: Number(megabytes) })}
            />
          )}
        </Field>
      </div>
    </section>
  );
}

/** The value of a field for a local date and time. */
function localText(ms: number): string {
  const date = new Date(ms - new Date(ms).getTimezoneOffset() * 60_000);
  return date.toISOString().slice(0, 19);
}

/** What tags were at a moment. */
function Look({
  state,
  tags,
  tag,
  onProblem,
}: {
  readonly state: RecorderState;
  readonly tags: readonly Tag[];
  readonly tag: Tag | null;
  readonly onProblem: (problem: Problem | null) => void;
}) {
  const project = useProject();
  const [moment, setMoment] = useState(() => localText(Date.now() - 60_000));
  const [values, setValues] = useState<readonly PastValue[] | null>(null);
  const [isOne, setIsOne] = useState(false);
  const recorded = tags.filter((each) => state.settings.deviceIds.includes(deviceIdOf(each) ?? ''));
  const look = async (alone: boolean): Promise<void> => {
    const at = new Date(moment).getTime();
    const done =
      alone && tag
        ? await call<readonly PastValue[]>('POST', '/recorder/history', { tagId: tag.id, from: at - AROUND_MS, to: at + AROUND_MS })
        : await call<readonly PastValue[]>('POST', '/recorder/look', { moment: at, tagIds: recorded.slice(0, MOST_PAST_TAGS).map(({ id }) => id) });
    onProblem(done.ok ? null : done.problem);
    setIsOne(alone);
    if (done.ok) setValues(done.value);
  };
  if (state.settings.deviceIds.length === 0) return null;
  return (
    <section aria-label="What was" className="border-base-300 mt-3 border-t pt-3 text-[13px]">
      <form
        className="flex flex-wrap items-end gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          void look(false);
        }}
      >
        <label className="flex flex-col gap-1 font-semibold">
          Moment
          <input type="datetime-local" step={1} className="input input-sm num" value={moment} required onChange={(e) => setMoment(e.target.value)} />
        </label>
        <button type="submit" className="btn btn-sm btn-primary" disabled={recorded.length === 0 || moment === ''}>
          Look at {counted(recorded.length, 'tag')}
        </button>
        {tag && state.settings.deviceIds.includes(deviceIdOf(tag) ?? '') ? (
          <button type="button" className="btn btn-sm" disabled={moment === ''} onClick={() => void look(true)}>
            What {tag.name} was around it
          </button>
        ) : null}
      </form>
      {values === null ? null : values.length === 0 ? (
        <p className="quiet mt-2">Nothing was recorded of them then.</p>
      ) : (
        <div className="mt-2 max-h-72 overflow-auto">
          <table className="w-full">
            <thead>
              <tr className="border-base-300 bg-base-100 sticky top-0 border-b text-left">
                <th className="py-1 pr-3 font-semibold">{isOne ? 'When' : 'Tag'}</th>
                <th className="pr-3 text-right font-semibold">Was shown</th>
                <th className="pr-3 text-right font-semibold">By the mapping of now</th>
                <th className="pr-3 font-semibold">Bytes</th>
                {isOne ? null : <th className="font-semibold">Since</th>}
              </tr>
            </thead>
            <tbody>
              {values.slice(0, SHOWN).map((value) => {
                const one = project.tag(value.tagId);
                const unit = one?.unit ? ` ${one.unit}` : '';
                return (
                  <tr key={`${value.tagId} ${value.at}`} className="border-base-300 border-b" data-past={one?.name}>
                    <td className="py-0.5 pr-3">{isOne ? dayAndTime(value.at) : (one?.name ?? 'a tag that is gone')}</td>
                    <td className="num pr-3 text-right">{value.raw === '' ? `– ${value.reason}` : `${value.shown}${value.isChanged ? '' : unit}`}</td>
                    <td className={`num pr-3 text-right ${value.isChanged && value.shown !== value.byNow ? 'is-look font-semibold' : ''}`}>
                      {value.raw === '' ? '' : `${value.byNow}${unit}`}
                    </td>
                    <td className="num pr-3">{value.raw.toUpperCase()}</td>
                    {isOne ? null : <td className="quiet">{dayAndTime(value.at)}</td>}
                  </tr>
                );
              })}
            </tbody>
          </table>
          {values.length > SHOWN ? <p className="quiet">And {values.length - SHOWN} more.</p> : null}
        </div>
      )}
    </section>
  );
}
