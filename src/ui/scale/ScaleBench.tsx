'use client';
/** The scale of the selected tag: its rule, a calculator both ways, and the line with the live point. */
import { useMemo, useState } from 'react';
import type { Tag } from '@/core/project/entities.ts';
import { scaleFor } from '@/core/scaling/durationScale.ts';
import { countWorth, faultsShown, MOST_STEPS, scaleTraits, type Scale } from '@/core/scaling/scale.ts';
import type { SignalDefinition } from '@/core/signal.ts';
import { parseDataType } from '@/core/value/dataType.ts';
import { addressOf } from '@/core/project/tagSource.ts';
import { useChange, useProject } from '../live/LiveContext.tsx';
import { selectTag, useSelectedTag } from '../live/selection.ts';
import { Empty, Field } from '../parts/Field.tsx';
import { TagPicker } from '../parts/TagPicker.tsx';
import { Calculator } from './Calculator.tsx';
import { FromReadings } from './FromReadings.tsx';
import { FromTransmitter } from './FromTransmitter.tsx';
import { ScaleChart } from './ScaleChart.tsx';
import { TestValues } from './TestValues.tsx';
import { formOf, readForm, type ScaleForm, type StepForm } from './scaleForm.ts';
import { StepEditor } from './StepEditor.tsx';

const isNumber = (tag: Tag): boolean => !/^(BOOL|STRING)/.test(tag.type);

export function ScaleBench() {
  const project = useProject();
  const selected = useSelectedTag();
  const current = selected === null ? null : project.tag(selected);
  const tag = current && isNumber(current) ? current : (project.tags.find(isNumber) ?? null);
  if (!tag)
    return (
      <Empty title="No numbers to scale yet">
        <p>A scale turns raw counts into engineering units. Import a list first.</p>
        <a className="btn btn-primary" href="/lists">
          Import a list
        </a>
      </Empty>
    );
  return (
    <div className="flex h-full flex-col gap-3">
      <h1 className="sr-only">Scale</h1>
      <div className="flex items-center gap-3">
        <TagPicker value={tag.id} only={isNumber} onPick={(t) => selectTag(t.id)} label="Tag to scale" />
        <span className="quiet">
          {tag.type} · {addressOf(tag)} · {tag.comment}
        </span>
      </div>
      <ScaleOf key={tag.id} tag={tag} />
    </div>
  );
}

function ScaleOf({ tag }: { readonly tag: Tag }) {
  const project = useProject();
  const stored = project.scale(tag.id)?.scale ?? null;
  const storedForm = useMemo(() => formOf(tag, stored), [tag, stored]);
  const [draft, setDraft] = useState<ScaleForm | null>(null);
  const [base, setBase] = useState(storedForm);
  // A change from elsewhere (another page, undo) shows at once unless something is being typed here.
  if (base !== storedForm) {
    setBase(storedForm);
    setDraft(null);
  }
  const form = draft ?? storedForm;
  const read = useMemo(() => readForm(form), [form]);
  const effective = project.effective(tag.id);
  const type = parseDataType(tag.type);
  const scale = read.ok && type.ok ? scaleFor(type.value, read.value.scale, read.value.unit) : null;
  const problem = !read.ok ? read.problem : scale && !scale.ok ? scale.problem : null;
  const def: SignalDefinition | null = effective.ok
    ? {
        ...effective.value.def,
        ...(read.ok && scale?.ok ? { ...read.value, scale: scale.value } : {}),
      }
    : null;
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[minmax(20rem,1fr)_minmax(18rem,0.9fr)_1.4fr] items-start gap-3 overflow-auto">
      <RuleForm tag={tag} form={form} isChanged={draft !== null} onForm={setDraft} onKept={() => setDraft(null)} problem={problem} />
      {def ? (
        <div className="flex flex-col gap-3">
          <Calculator def={def} />
          <TestValues name={tag.name} def={def} />
          <FromTransmitter unit={form.unit} onSteps={(steps) => setDraft({ ...form, steps })} />
          <FromReadings tagId={tag.id} unit={form.unit} onStep={(step) => setDraft({ ...form, steps: [step] })} />
        </div>
      ) : (
        <p className="is-bad">{effective.ok ? null : effective.problem.message}</p>
      )}
      {def ? <ScaleChart tagId={tag.id} def={def} /> : null}
    </div>
  );
}

interface RuleFormProps {
  readonly tag: Tag;
  readonly form: ScaleForm;
  readonly isChanged: boolean;
  readonly onForm: (form: ScaleForm) => void;
  readonly onKept: () => void;
  readonly problem: { readonly message: string; readonly place?: string } | null;
}

function RuleForm({ tag, form, isChanged, onForm, onKept, problem }: RuleFormProps) {
  const change = useChange();
  const project = useProject();
  const error = (place: string): string | undefined => (problem?.place === place ? problem.message : undefined);
  const set = (part: Partial<ScaleForm>): void => onForm({ ...form, ...part });
  const keep = async (): Promise<void> => {
    const read = readForm(form);
    if (!read.ok || problem) return;
    const { scale, unit, decimals, range } = read.value;
    const hadScale = project.scale(tag.id) !== null;
    const done = await change(`scale of ${tag.name} changed`, [
      { kind: 'tag', id: tag.id, set: { unit, decimals, rangeLow: range?.low ?? null, rangeHigh: range?.high ?? null } },
      ...(scale.kind === 'none'
        ? hadScale
          ? [{ kind: 'scale' as const, id: tag.id, set: null }]
          : []
        : [{ kind: 'scale' as const, id: tag.id, set: { scale } }]),
    ]);
    if (done.ok) onKept();
  };
  const setStep = (at: number, step: StepForm | null): void =>
    set({ steps: step ? [...form.steps.slice(0, at), step, ...form.steps.slice(at + 1)] : form.steps.filter((_, i) => i !== at) });
  const read = readForm(form);
  const text = (label: string, key: 'decimals' | 'low' | 'high', unit?: string, help?: string) => (
    <Field label={label} unit={unit} error={error(key)} help={help}>
      {(ids) => (
        <input
          {...ids}
          className={`input input-sm num w-full ${error(key) ? 'input-error' : ''}`}
          value={form[key]}
          onChange={(e) => set({ [key]: e.target.value })}
        />
      )}
    </Field>
  );
  return (
    <form
      aria-label="Scale"
      className="card-flat grid grid-cols-2 gap-x-3 gap-y-1 p-4"
      noValidate
      onSubmit={(e) => {
        e.preventDefault();
        void keep();
      }}
    >
      {[...form.steps, null]
        .slice(0, MOST_STEPS)
        .map((step, i) =>
          step || i === 0 || form.steps[i - 1] ? (
            <StepEditor
              key={i}
              step={step}
              isFirst={i === 0}
              unit={i === form.steps.length - 1 ? form.unit : ''}
              errorAt={(field) => error(`${i}.${field}`)}
              onStep={(next) => setStep(i, next)}
            />
          ) : null,
        )}
      {read.ok && form.steps.length > 0 ? (
        <p className="quiet col-span-2 mb-1 text-xs">{traitsInWords(read.value.scale, form.unit, tag.type)}</p>
      ) : null}
      <Field label="Unit" error={error('unit')}>
        {(ids) => (
          <input
            {...ids}
            className={`input input-sm w-full ${error('unit') ? 'input-error' : ''}`}
            maxLength={20}
            value={form.unit}
            onChange={(e) => set({ unit: e.target.value })}
          />
        )}
      </Field>
      {text('Decimals', 'decimals', undefined, 'Empty: as many as are significant.')}
      {text('Expected from', 'low', form.unit)}
      {text('to', 'high', form.unit, 'Outside, the value is marked; writes are refused.')}
      {problem && !problem.place ? <p className="is-bad col-span-2">{problem.message}</p> : null}
      <div className="col-span-2 flex justify-end gap-2">
        <button type="button" className="btn btn-sm btn-ghost" disabled={!isChanged} onClick={onKept}>
          Discard changes
        </button>
        <button type="submit" className="btn btn-sm btn-primary" disabled={!isChanged || problem !== null}>
          Apply scale
        </button>
      </div>
    </form>
  );
}

const INVERSE_WORDS = {
  unique: 'each value leads to one raw value',
  chosen: 'where several raw values give a value, one is chosen',
  none: 'no value can be written back',
} as const;
const EXACTNESS_WORDS = { exact: 'no digit is lost', rounded: 'to 15 digits', approximate: 'a curve, as near as its numbers are known' } as const;

/** What the scale says of itself: its way back, how exact it is, and what one count is worth near 0. */
function traitsInWords(scale: Scale, unit: string, typeName: string): string {
  const { inverse, exactness, limits } = scaleTraits(scale);
  const worth = countWorth(scale, 0);
  const count = worth > 0 ? `a count is ${Number(worth.toPrecision(3))}${unit ? ` ${unit}` : ''} near 0` : '';
  const type = parseDataType(typeName);
  const faults = type.ok && type.value.kind === 'integer' ? faultsShown(scale, Number(type.value.min), Number(type.value.max)) : null;
  const hidden = faults && !faults.broken ? `its least count is no broken wire yet: this ${typeName} cannot show one` : '';
  return [hidden, INVERSE_WORDS[inverse], EXACTNESS_WORDS[exactness], limits, count].filter(Boolean).join(' · ');
}
