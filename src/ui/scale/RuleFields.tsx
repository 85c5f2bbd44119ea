'use client';
/** The steps of a scale with unit and decimals: of a tag, or of a scale that many share. */
import { countWorth, faultsShown, MOST_STEPS, scaleTraits, unitGiven, type Scale } from '@/core/scaling/scale.ts';
import { parseDataType } from '@/core/value/dataType.ts';
import { Field } from '../parts/Field.tsx';
import { readRule, type RuleForm, type StepForm } from './scaleForm.ts';
import { StepEditor } from './StepEditor.tsx';

interface RuleFieldsProps {
  readonly form: RuleForm;
  /** Of the tag; empty where no tag is at hand. */
  readonly typeName: string;
  readonly errorAt: (place: string) => string | undefined;
  readonly onForm: (part: Partial<RuleForm>) => void;
}

export function RuleFields({ form, typeName, errorAt, onForm }: RuleFieldsProps) {
  const setStep = (at: number, step: StepForm | null): void =>
    onForm(withSteps(form, step ? [...form.steps.slice(0, at), step, ...form.steps.slice(at + 1)] : form.steps.filter((_, i) => i !== at)));
  const read = readRule(form);
  const input = (label: string, key: 'unit' | 'decimals', help?: string) => (
    <Field label={label} error={errorAt(key)} help={help}>
      {(ids) => (
        <input
          {...ids}
          className={`input input-sm w-full ${key === 'decimals' ? 'num' : ''} ${errorAt(key) ? 'input-error' : ''}`}
          maxLength={20}
          value={form[key]}
          onChange={(e) => onForm({ [key]: e.target.value })}
        />
      )}
    </Field>
  );
  return (
    <>
      {[...form.steps, null].slice(0, MOST_STEPS).map((step, i) => (
        <StepEditor
          key={i}
          step={step}
          isFirst={i === 0}
          unit={i === form.steps.length - 1 ? form.unit : ''}
          errorAt={(field) => errorAt(`${i}.${field}`)}
          onStep={(next) => setStep(i, next)}
        />
      ))}
      {read.ok && form.steps.length > 0 ? (
        <p className="quiet col-span-2 mb-1 text-xs">{traitsInWords(read.value.scale, form.unit, typeName)}</p>
      ) : null}
      {input('Unit', 'unit')}
      {input('Decimals', 'decimals', 'Empty: as many as are significant.')}
    </>
  );
}

/** The unit follows the steps, where they say which it is, unless somebody wrote another one. */
function withSteps(form: RuleForm, steps: readonly StepForm[]): Partial<RuleForm> {
  const [before, now] = [unitOfSteps(form.steps), unitOfSteps(steps)];
  return now !== null && now !== before && (form.unit.trim() === '' || form.unit.trim() === before || before === null)
    ? { steps, unit: now }
    : { steps };
}

function unitOfSteps(steps: readonly StepForm[]): string | null {
  const read = readRule({ steps, unit: '', decimals: '' });
  return read.ok ? unitGiven(read.value.scale) : null;
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
