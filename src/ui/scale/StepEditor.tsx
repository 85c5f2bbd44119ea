'use client';
/** One step of a scale: which kind it is, and what that asks for. */
import { ruleOf, STEP_KINDS, type StepKind } from '@/core/scaling/step.ts';
import { Field } from '../parts/Field.tsx';
import { newStep, type StepForm } from './scaleForm.ts';
import { RAW_SPANS, STEP_FIELDS, STEP_WORDS, type StepField } from './stepFields.ts';

interface StepEditorProps {
  /** Null where there is none yet. */
  readonly step: StepForm | null;
  /** The first is the rule of the tag, the others come after it. */
  readonly isFirst: boolean;
  /** The unit of what the chain comes to, where this is its last step. */
  readonly unit: string;
  readonly errorAt: (field: string) => string | undefined;
  /** Null takes the step away. */
  readonly onStep: (step: StepForm | null) => void;
}

export function StepEditor({ step, isFirst, unit, errorAt, onStep }: StepEditorProps) {
  const set = (part: Readonly<Record<string, string>>): void => {
    if (step) onStep({ ...step, fields: { ...step.fields, ...part } });
  };
  return (
    <>
      <div className="col-span-2">
        <Field label={isFirst ? 'Rule' : 'Then'}>
          {(ids) => (
            <select
              {...ids}
              className="select select-sm w-full"
              value={step?.kind ?? 'none'}
              onChange={(e) => onStep(e.target.value === 'none' ? null : newStep(e.target.value as StepKind))}
            >
              <option value="none">{isFirst ? 'no scale: the raw number is the value' : 'nothing more'}</option>
              {STEP_KINDS.map((kind) => (
                <option key={kind} value={kind}>
                  {STEP_WORDS[kind]}
                </option>
              ))}
            </select>
          )}
        </Field>
      </div>
      {step?.kind === 'linear' && isFirst ? <RawSpan onSpan={([low, high]) => set({ rawA: String(low), rawB: String(high) })} /> : null}
      {step
        ? STEP_FIELDS[step.kind].map((field) => (
            <div key={`${step.kind} ${field.key}`} className={field.isWide ? 'col-span-2' : ''}>
              <Field
                label={field.label}
                unit={field.of === 'in' && isFirst ? 'counts' : field.of === 'out' ? unit : undefined}
                error={errorAt(field.key)}
                help={field.help}
              >
                {(ids) => (
                  <Entry
                    ids={ids}
                    field={field}
                    isWrong={errorAt(field.key) !== undefined}
                    value={step.fields[field.key] ?? ''}
                    onValue={(value) => set({ [field.key]: value })}
                  />
                )}
              </Field>
            </div>
          ))
        : null}
      {step ? (
        <p className="quiet col-span-2 -mt-1 mb-1 text-xs" title={ruleOf(step.kind).source}>
          <span className="num">{ruleOf(step.kind).formula}</span> · {ruleOf(step.kind).source}
        </p>
      ) : null}
    </>
  );
}

interface EntryProps {
  readonly ids: { readonly id: string };
  readonly field: StepField;
  readonly isWrong: boolean;
  readonly value: string;
  readonly onValue: (value: string) => void;
}

function Entry({ ids, field, isWrong, value, onValue }: EntryProps) {
  if (field.choices)
    return (
      <select {...ids} className="select select-sm w-full" value={value} onChange={(e) => onValue(e.target.value)}>
        {field.choices.map(([choice, words]) => (
          <option key={choice} value={choice}>
            {words}
          </option>
        ))}
      </select>
    );
  if (field.form === 'pairs')
    return (
      <textarea
        {...ids}
        className={`textarea textarea-sm num h-28 w-full ${isWrong ? 'textarea-error' : ''}`}
        value={value}
        spellCheck={false}
        onChange={(e) => onValue(e.target.value)}
      />
    );
  return (
    <input {...ids} className={`input input-sm num w-full ${isWrong ? 'input-error' : ''}`} value={value} onChange={(e) => onValue(e.target.value)} />
  );
}

/** Fills in the two raw values of a card. */
function RawSpan({ onSpan }: { readonly onSpan: (span: readonly [number, number]) => void }) {
  return (
    <div className="col-span-2">
      <Field label="Raw span of the card">
        {(ids) => (
          <select
            {...ids}
            className="select select-sm w-full"
            value=""
            onChange={(e) => {
              const span = RAW_SPANS[Number(e.target.value)];
              if (span) onSpan([span[0], span[1]]);
            }}
          >
            <option value="">choose one, or enter it below</option>
            {RAW_SPANS.map(([, , words], i) => (
              <option key={words} value={i}>
                {words}
              </option>
            ))}
          </select>
        )}
      </Field>
    </div>
  );
}
