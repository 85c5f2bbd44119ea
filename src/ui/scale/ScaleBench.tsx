'use client';
/** The scale of the selected tag: its rule, its ranges, a calculator both ways, and the line with the live point. */
import Link from 'next/link';
import { useMemo, useState } from 'react';
import type { Tag } from '@/core/project/entities.ts';
import { addressOf } from '@/core/project/tagSource.ts';
import { sameJson } from '@/core/project/sameJson.ts';
import { ok, type Problem } from '@/core/result.ts';
import { scaleFor } from '@/core/scaling/durationScale.ts';
import { AS_IS, textsOf } from '@/core/scaling/scale.ts';
import type { SignalDefinition } from '@/core/signal.ts';
import { limitsAlong, rangeAlong, unitChange, type UnitChange } from '@/core/units/unitChange.ts';
import { isNumberType, parseDataType } from '@/core/value/dataType.ts';
import { useChange, useProject } from '../live/LiveContext.tsx';
import { selectTag, useSelectedTag } from '../live/selection.ts';
import { Empty } from '../parts/Field.tsx';
import { TagPicker } from '../parts/TagPicker.tsx';
import { Calculator } from './Calculator.tsx';
import { ErrorBudgetCard } from './ErrorBudget.tsx';
import { FromReadings } from './FromReadings.tsx';

import { FromTransmitter } from './FromTransmitter.tsx';
import { RangesFields } from './RangesFields.tsx';
import { RuleFields } from './RuleFields.tsx';
import { ScaleChart } from './ScaleChart.tsx';
import { SharedChoice } from './SharedChoice.tsx';
import { TestValues } from './TestValues.tsx';
import { formOf, readForm, type ScaleForm, type ScaleSettings, type StepForm } from './scaleForm.ts';

const isNumber = ({ type }: Tag): boolean => isNumberType(type);

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
        <span className="quiet min-w-0 truncate">
          {tag.type} · {addressOf(tag) || tag.source.kind} · {tag.comment}
        </span>
        <Link className="btn btn-sm btn-outline ml-auto" href="/scale/shared">
          Shared scales{project.sharedScales.length > 0 ? ` · ${project.sharedScales.length}` : ''}
        </Link>
      </div>
      <ScaleOf key={tag.id} tag={tag} />
    </div>
  );
}

function ScaleOf({ tag }: { readonly tag: Tag }) {
  const project = useProject();
  const change = useChange();
  const stored = project.scale(tag.id);
  const storedForm = useMemo(() => formOf(tag, stored), [tag, stored]);
  const [draft, setDraft] = useState<ScaleForm | null>(null);
  const [base, setBase] = useState(storedForm);
  // A change from elsewhere (another page, undo) shows at once unless something is being typed here.
  if (base !== storedForm) {
    setBase(storedForm);
    setDraft(null);
  }
  const form = draft ?? storedForm;
  const typed = useMemo(() => readForm(form), [form]);
  // A scale that only goes on into another unit takes along what is said in the old one, as long as nobody types there.
  const converted = useMemo(
    () => (typed.ok && sameJson(form.ranges, storedForm.ranges) ? unitChange(stored?.scale ?? AS_IS, typed.value.scale) : null),
    [typed, form.ranges, storedForm, stored],
  );
  const read = useMemo(() => (typed.ok && converted ? ok(settingsAlong(typed.value, converted)) : typed), [typed, converted]);
  const effective = project.effective(tag.id);
  const type = parseDataType(tag.type);
  const scale = read.ok && type.ok ? scaleFor(type.value, read.value.scale, read.value.unit) : null;
  const problem: Problem | null = !read.ok ? read.problem : scale && !scale.ok ? scale.problem : null;
  const def = useMemo((): SignalDefinition | null => {
    if (!effective.ok) return null;
    if (!read.ok || !type.ok) return effective.value.def;
    const own = scaleFor(type.value, read.value.scale, read.value.unit);
    return own.ok ? definitionOf(effective.value.def, tag, { ...read.value, scale: own.value }) : effective.value.def;
    // The type follows from the tag.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [effective, read, tag]);
  const errorAt = (place: string): string | undefined => (problem?.place === place ? problem.message : undefined);
  const keep = async (): Promise<void> => {
    if (!read.ok || problem) return;
    const { scale: own, unit, decimals, range, rawRange, display, limits } = read.value;
    const done = await change(`scale of ${tag.name} changed`, [
      {
        kind: 'tag',
        id: tag.id,
        set: { unit, decimals, rangeLow: range?.low ?? null, rangeHigh: range?.high ?? null, rawRange, displayRange: display, limits },
      },
      ...(own.kind === 'none' && form.sharedId === null
        ? stored
          ? [{ kind: 'scale' as const, id: tag.id, set: null }]
          : []
        : [{ kind: 'scale' as const, id: tag.id, set: { scale: own, sharedId: form.sharedId } }]),
    ]);
    if (done.ok) setDraft(null);
  };
  const setSteps = (steps: readonly StepForm[]): void => setDraft({ ...form, sharedId: null, steps });
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[minmax(20rem,1fr)_minmax(18rem,0.9fr)_1.4fr] grid-rows-[minmax(0,1fr)] gap-3">
      <form
        aria-label="Scale"
        className="flex min-h-0 flex-col gap-3 overflow-auto"
        noValidate
        onSubmit={(e) => {
          e.preventDefault();
          void keep();
        }}
      >
        <div className="card-flat bg-base-100 sticky top-0 z-10 flex items-center gap-2 px-4 py-2">
          <h2 className="font-semibold">{draft === null ? 'Scale' : 'Not applied yet'}</h2>
          <button type="button" className="btn btn-sm btn-ghost ml-auto" disabled={draft === null} onClick={() => setDraft(null)}>
            Discard changes
          </button>
          <button type="submit" className="btn btn-sm btn-primary" disabled={draft === null || problem !== null}>
            Apply scale
          </button>
        </div>
        <div className="card-flat p-4 pt-3">
          <SharedChoice form={form} tag={tag} isChanged={draft !== null} onForm={setDraft} />
          <fieldset disabled={form.sharedId !== null} className="grid grid-cols-2 gap-x-3 gap-y-1">
            <RuleFields form={form} typeName={tag.type} errorAt={errorAt} onForm={(part) => setDraft({ ...form, ...part })} />
          </fieldset>
          {problem && !problem.place ? <p className="is-bad">{problem.message}</p> : null}
        </div>
        <RangesFields
          form={form.ranges}
          def={converted && effective.ok ? effective.value.def : def}
          unit={converted ? converted.from : form.unit}
          note={converted ? `Converted to ${converted.to} when the scale is applied.` : ''}
          errorAt={errorAt}
          onForm={(part) => setDraft({ ...form, ranges: { ...form.ranges, ...part } })}
        />
      </form>
      {def ? (
        <div className="flex min-h-0 flex-col gap-3 overflow-auto">
          <Calculator def={def} />
          <TestValues name={tag.name} def={def} />
          <ErrorBudgetCard def={def} />
          <FromTransmitter unit={form.unit} onSteps={setSteps} />
          <FromReadings tagId={tag.id} unit={form.unit} onStep={(step) => setSteps([step])} />
        </div>
      ) : (
        <p className="is-bad">{effective.ok ? null : effective.problem.message}</p>
      )}
      {def ? <ScaleChart tagId={tag.id} def={def} /> : null}
    </div>
  );
}

function settingsAlong(settings: ScaleSettings, { line }: UnitChange): ScaleSettings {
  const { range, display, limits } = settings;
  return {
    ...settings,
    range: range && rangeAlong(line, range),
    display: display && rangeAlong(line, display),
    limits: limits && limitsAlong(line, limits),
  };
}

/** The signal as it would be with what is typed. */
function definitionOf(def: SignalDefinition, tag: Tag, { scale, unit, decimals, range, rawRange, display, limits }: ScaleSettings): SignalDefinition {
  const names = tag.names.length > 0 ? tag.names : textsOf(scale);
  return {
    ...def,
    scale,
    unit,
    decimals,
    range,
    rawRange: rawRange ?? undefined,
    display: display ?? undefined,
    limits: limits ?? undefined,
    names: names.length > 0 ? names : undefined,
  };
}
