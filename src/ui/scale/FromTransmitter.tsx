'use client';
/** A scale from what is written on a transmitter and on the card that it is wired to. */
import { useState } from 'react';
import { stepsOf } from '@/core/scaling/scale.ts';
import { SIGNALS, transmitterScale } from '@/core/scaling/transmitter.ts';
import { decimalNumber, parseDecimal } from '@/core/value/decimal.ts';
import { Field } from '../parts/Field.tsx';
import { stepForm, type StepForm } from './scaleForm.ts';
import { RAW_SPANS } from './stepFields.ts';

const CARD_SPANS = RAW_SPANS.filter(([low]) => Number.isInteger(low));

interface FromTransmitterProps {
  readonly unit: string;
  readonly onSteps: (steps: readonly StepForm[]) => void;
}

export function FromTransmitter({ unit, onSteps }: FromTransmitterProps) {
  const [from, setFrom] = useState('0');
  const [to, setTo] = useState('');
  const [gives, setGives] = useState(0);
  const [card, setCard] = useState(1);
  const [span, setSpan] = useState(0);
  const number = (text: string): number => {
    const decimal = parseDecimal(text);
    return decimal ? decimalNumber(decimal) : NaN;
  };
  const [given, taken, [rawLow, rawHigh] = [0, 0]] = [SIGNALS[gives], SIGNALS[card], CARD_SPANS[span] ?? [0, 0]];
  const scale = given && taken ? transmitterScale({ from: number(from), to: number(to), gives: given, rawLow, rawHigh, card: taken }) : null;
  const chosen = (label: string, value: number, words: readonly string[], onValue: (value: number) => void, error?: string) => (
    <Field label={label} error={error}>
      {(ids) => (
        <select {...ids} className="select select-sm w-full" value={value} onChange={(e) => onValue(Number(e.target.value))}>
          {words.map((text, i) => (
            <option key={text} value={i}>
              {text}
            </option>
          ))}
        </select>
      )}
    </Field>
  );
  const typed = (label: string, value: string, onValue: (value: string) => void) => (
    <Field label={label} unit={unit}>
      {(ids) => <input {...ids} className="input input-sm num w-full" value={value} onChange={(e) => onValue(e.target.value)} />}
    </Field>
  );
  const signals = SIGNALS.map(({ words }) => words);
  return (
    <details className="card-flat p-4" data-transmitter>
      <summary className="cursor-pointer font-semibold">From a transmitter</summary>
      <div className="mt-2 grid grid-cols-2 gap-x-3 gap-y-1">
        {typed('It measures from', from, setFrom)}
        {typed('to', to, setTo)}
        {chosen('It gives', gives, signals, setGives)}
        {chosen('The card is for', card, signals, setCard, scale && !scale.ok && scale.problem.place === 'card' ? scale.problem.message : undefined)}
        <div className="col-span-2">
          {chosen(
            'and counts',
            span,
            CARD_SPANS.map(([, , words]) => words),
            setSpan,
          )}
        </div>
        <div className="col-span-2 flex justify-end">
          <button
            type="button"
            className="btn btn-xs btn-primary"
            disabled={!scale?.ok}
            onClick={() => {
              if (scale?.ok) onSteps(stepsOf(scale.value).map(stepForm));
            }}
          >
            Use these steps
          </button>
        </div>
      </div>
    </details>
  );
}
