'use client';
/** A scale from what somebody has seen: raw values, and what they were. */
import { useState } from 'react';
import { fitLine } from '@/core/scaling/fit.ts';
import { formatValue } from '@/core/value/engineering.ts';
import { useTagView } from '../live/liveHooks.ts';
import { Field } from '../parts/Field.tsx';
import { readPairs, type StepForm } from './scaleForm.ts';

interface FromReadingsProps {
  readonly tagId: string;
  readonly unit: string;
  readonly onStep: (step: StepForm) => void;
}

export function FromReadings({ tagId, unit, onStep }: FromReadingsProps) {
  const [text, setText] = useState('');
  const view = useTagView(tagId);
  const rawNow = view?.sample?.raw && view.level !== 'bad' ? String(view.sample.raw.value) : null;
  const pairs = readPairs(text);
  const readings = pairs.ok ? pairs.value.map(([raw, seen]) => ({ raw, seen })) : [];
  const fit = pairs.ok ? fitLine(readings) : pairs;
  const short = (value: number): string => formatValue(Number(value.toPrecision(4)), null);
  return (
    <details className="card-flat p-4" data-readings>
      <summary className="cursor-pointer font-semibold">From readings</summary>
      <div className="mt-2">
        <Field
          label="Readings, one a line"
          help={`The raw value, then what was really there${unit ? ` in ${unit}` : ''}: by a gauge, or the controller’s own display.`}
          error={text.trim() !== '' && !fit.ok ? fit.problem.message : undefined}
        >
          {(ids) => (
            <textarea
              {...ids}
              className="textarea textarea-sm num h-24 w-full"
              value={text}
              spellCheck={false}
              onChange={(e) => setText(e.target.value)}
            />
          )}
        </Field>
        <button
          type="button"
          className="btn btn-xs btn-outline"
          disabled={rawNow === null}
          onClick={() => setText(`${text}${text === '' || text.endsWith('\n') ? '' : '\n'}${rawNow ?? ''} `)}
        >
          Take the raw value of now
        </button>
        {fit.ok ? (
          <div aria-live="polite" className="mt-2">
            <p>
              Gain <span className="num font-semibold">{fit.value.gain}</span>, offset <span className="num font-semibold">{fit.value.offset}</span>
            </p>
            <ul>
              {readings.map(({ raw, seen }, i) => (
                <li key={`${i} ${raw}`} className={fit.value.outlier === i ? 'is-look' : 'quiet'}>
                  <span className="num">
                    {raw}: {seen}, {short(fit.value.residuals[i] ?? 0)} off
                  </span>
                  {fit.value.outlier === i ? ' does not fit the others: read it again' : ''}
                </li>
              ))}
            </ul>
            <button
              type="button"
              className="btn btn-xs btn-primary mt-1"
              onClick={() => onStep({ kind: 'gain', fields: { gain: String(fit.value.gain), offset: String(fit.value.offset) } })}
            >
              Use as the scale
            </button>
          </div>
        ) : null}
      </div>
    </details>
  );
}
