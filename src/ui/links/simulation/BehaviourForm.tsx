'use client';
/** What one simulated tag does. */
import { useState } from 'react';
import type { Simulation, Tag } from '@/core/project/entities.ts';
import { BEHAVIOUR_KINDS, BEHAVIOUR_WORDS, checkBehaviour, ENDS, type Behaviour, type BehaviourKind } from '@/core/simulation/behaviour.ts';
import { readSequence } from '@/core/simulation/sequenceFile.ts';
import { counted } from '@/core/counted.ts';
import type { Problem } from '@/core/result.ts';
import { useChange, useProject } from '../../live/LiveContext.tsx';
import { BoundField } from '../../panels/editor/BoundField.tsx';
import { Field } from '../../parts/Field.tsx';
import { FileDrop } from '../../parts/FileDrop.tsx';
import { TagPicker } from '../../parts/TagPicker.tsx';
import { END_WORDS } from './behaviourInWords.ts';

type Fields = Readonly<Record<string, unknown>>;

/** What a form begins with: the tag's own range, where it has one. */
function beginning(kind: BehaviourKind, tag: Tag): Fields {
  const [low, high] = [tag.rangeLow ?? 0, tag.rangeHigh ?? 100];
  switch (kind) {
    case 'hold':
      return { value: '' };
    case 'ramp':
      return { from: low, to: high, seconds: 60, end: 'back' };
    case 'sine':
      return { low, high, seconds: 60 };
    case 'random':
      return { low, high, seconds: 5, isSmooth: true };
    case 'follow':
      return { tagId: '', factor: 1, shift: 0 };
    case 'sequence':
      return { steps: [], end: 'again', isSmooth: false };
    case 'script':
      return { gives: { by: '' } };
  }
}

const NUMBER_LABELS: Readonly<Record<string, readonly [label: string, unit?: string]>> = {
  from: ['From'],
  to: ['To'],
  low: ['Lowest'],
  high: ['Highest'],
  seconds: ['Time', 's'],
  factor: ['Times'],
  shift: ['Plus'],
};

interface BehaviourFormProps {
  readonly tag: Tag;
  readonly simulation: Simulation | null;
  readonly onDone: () => void;
}

export function BehaviourForm({ tag, simulation, onDone }: BehaviourFormProps) {
  const project = useProject();
  const change = useChange();
  const [kind, setKind] = useState<BehaviourKind>(simulation?.behaviour.kind ?? 'sine');
  const [fields, setFields] = useState<Fields>(() => (simulation ? fieldsOf(simulation.behaviour) : beginning('sine', tag)));
  const [runTagId, setRunTagId] = useState(simulation?.runTagId ?? null);
  const [problem, setProblem] = useState<Problem | null>(null);
  const set = (more: Fields): void => {
    setFields({ ...fields, ...more });
    setProblem(null);
  };
  const keep = async (): Promise<void> => {
    const numbers = Object.fromEntries(
      Object.entries(fields).map(([name, value]) => [name, name in NUMBER_LABELS && typeof value === 'string' ? numberIn(value) : value]),
    );
    const made = checkBehaviour({ kind, ...numbers });
    if (!made.ok) return setProblem(made.problem);
    const done = await change(`what ${tag.name} does while it is simulated`, [
      { kind: 'simulation', id: tag.id, set: { behaviour: made.value, runTagId } },
    ]);
    if (done.ok) onDone();
    else setProblem(done.problem);
  };
  const at = (place: string): string | undefined => (problem?.place?.split('.').at(-1) === place ? problem.message : undefined);
  const text = (name: string): string => {
    const value = fields[name];
    return typeof value === 'string' || typeof value === 'number' ? String(value) : '';
  };
  return (
    <form
      className="hairline mb-4 rounded p-3"
      aria-label={`What ${tag.name} does`}
      noValidate
      onSubmit={(e) => {
        e.preventDefault();
        void keep();
      }}
    >
      <div className="grid grid-cols-4 items-start gap-3">
        <Field label={tag.name}>
          {(ids) => (
            <select
              {...ids}
              className="select select-sm w-full"
              value={kind}
              onChange={(e) => {
                const chosen = e.target.value as BehaviourKind;
                setKind(chosen);
                setFields(chosen === simulation?.behaviour.kind ? fieldsOf(simulation.behaviour) : beginning(chosen, tag));
                setProblem(null);
              }}
            >
              {BEHAVIOUR_KINDS.map((one) => (
                <option key={one} value={one}>
                  {BEHAVIOUR_WORDS[one]}
                </option>
              ))}
            </select>
          )}
        </Field>
        {kind === 'hold' ? (
          <Field label="Value" help="As it would be entered; what is written takes its place." error={at('value')}>
            {(ids) => <input {...ids} className="input input-sm w-full" value={text('value')} onChange={(e) => set({ value: e.target.value })} />}
          </Field>
        ) : null}
        {Object.keys(fields)
          .filter((name) => name in NUMBER_LABELS)
          .map((name) => (
            <Field
              key={name}
              label={NUMBER_LABELS[name]?.[0] ?? name}
              unit={NUMBER_LABELS[name]?.[1] ?? (name === 'factor' ? undefined : tag.unit || undefined)}
              error={at(name)}
            >
              {(ids) => (
                <input
                  {...ids}
                  className="input input-sm num w-full"
                  inputMode="decimal"
                  value={text(name)}
                  onChange={(e) => set({ [name]: e.target.value })}
                />
              )}
            </Field>
          ))}
        {kind === 'ramp' || kind === 'sequence' ? (
          <Field label="At the end" error={at('end')}>
            {(ids) => (
              <select {...ids} className="select select-sm w-full" value={text('end')} onChange={(e) => set({ end: e.target.value })}>
                {ENDS.filter((end) => kind === 'ramp' || end !== 'back').map((end) => (
                  <option key={end} value={end}>
                    {END_WORDS[end]}
                  </option>
                ))}
              </select>
            )}
          </Field>
        ) : null}
        {kind === 'random' || kind === 'sequence' ? (
          <label className="mt-7 flex items-center gap-2 text-[13px]">
            <input
              type="checkbox"
              className="checkbox checkbox-sm"
              checked={fields.isSmooth === true}
              onChange={(e) => set({ isSmooth: e.target.checked })}
            />
            glides from one to the next
          </label>
        ) : null}
      </div>
      {kind === 'follow' ? (
        <div className="mt-2">
          <p className="mb-1 text-[13px] font-semibold">The tag that it follows</p>
          <TagPicker
            label="The tag that it follows"
            value={text('tagId') || null}
            only={({ id }) => id !== tag.id}
            onPick={({ id }) => set({ tagId: id })}
          />
          {at('tagId') ? (
            <p className="is-bad text-xs" role="alert">
              {at('tagId')}
            </p>
          ) : null}
        </div>
      ) : null}
      {kind === 'sequence' ? <Sequence steps={fields.steps as never} onSteps={(steps) => set({ steps })} onProblem={setProblem} /> : null}
      {kind === 'script' ? (
        <div className="mt-2">
          <BoundField
            label="Expression"
            value={fields.gives as never}
            takesNumber={false}
            wanted={null}
            onKeep={(gives) => set({ gives: gives ?? { by: '' } })}
          />
        </div>
      ) : null}
      <div className="mt-2 flex items-end gap-3">
        <div className="flex-1">
          <p className="mb-1 text-[13px] font-semibold">Runs while this bit is on</p>
          <TagPicker label="Runs while this bit is on" value={runTagId} only={({ type }) => type === 'BOOL'} onPick={({ id }) => setRunTagId(id)} />
        </div>
        {runTagId === null ? (
          <span className="quiet mb-1 text-xs">always, without one</span>
        ) : (
          <button type="button" className="btn btn-sm btn-ghost" onClick={() => setRunTagId(null)}>
            Always
          </button>
        )}
        <button type="button" className="btn btn-sm" onClick={onDone}>
          Cancel
        </button>
        <button type="submit" className="btn btn-sm btn-primary">
          Keep
        </button>
      </div>
      {problem ? (
        <p className="is-bad mt-2" role="alert">
          ✕ {problem.message} {problem.remedy}
        </p>
      ) : null}
      <p className="sr-only">{project.pathOf(tag)}</p>
    </form>
  );
}

interface SequenceProps {
  readonly steps: readonly { readonly at: number; readonly value: string }[];
  readonly onSteps: (steps: SequenceProps['steps']) => void;
  readonly onProblem: (problem: Problem) => void;
}

/** From a CSV that is dropped or pasted. */
function Sequence({ steps, onSteps, onProblem }: SequenceProps) {
  const take = (text: string): void => {
    const read = readSequence(text);
    if (read.ok) onSteps(read.value);
    else onProblem({ ...read.problem, message: `${read.problem.place ? `${read.problem.place}: ` : ''}${read.problem.message}` });
  };
  return (
    <div className="mt-2 flex items-center gap-3">
      <FileDrop
        label="Sequence file"
        ask="Drop a CSV here, or choose it: seconds and value"
        accept=".csv,text/csv,text/plain"
        chosen={steps.length === 0 ? null : `${counted(steps.length, 'step')} over ${steps.at(-1)?.at ?? 0} s`}
        onFile={(file) => void file.text().then(take)}
      />
      <textarea
        className="textarea textarea-sm num h-16 flex-1"
        aria-label="Paste the sequence"
        placeholder={'0; 20\n60; 85\n120; 20'}
        onChange={(e) => e.target.value.trim() !== '' && take(e.target.value)}
      />
    </div>
  );
}

function fieldsOf(behaviour: Behaviour): Fields {
  const { kind: _kind, ...fields } = behaviour;
  return fields;
}

function numberIn(text: string): number {
  return text.trim() === '' ? NaN : Number(text.trim().replace(',', '.'));
}
