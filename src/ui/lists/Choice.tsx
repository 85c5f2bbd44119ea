'use client';
/** A choice of a few things for how a list is read, and a text that counts when it is left or entered. */
import { useState } from 'react';
import { Field } from '../parts/Field.tsx';

interface ChoiceProps {
  readonly label: string;
  readonly help?: string;
  readonly value: string;
  readonly options: readonly (readonly [value: string, words: string])[];
  readonly isBusy: boolean;
  readonly onChoose: (value: string) => void;
}

export function Choice({ label, help, value, options, isBusy, onChoose }: ChoiceProps) {
  return (
    <Field label={label} {...(help ? { help } : {})}>
      {(ids) => (
        <select {...ids} className="select select-sm w-full" disabled={isBusy} value={value} onChange={(e) => onChoose(e.target.value)}>
          {options.map(([id, words]) => (
            <option key={id} value={id}>
              {words}
            </option>
          ))}
        </select>
      )}
    </Field>
  );
}

interface TypedProps {
  readonly label: string;
  readonly help: string;
  readonly value: string;
  readonly isBusy: boolean;
  readonly onSet: (text: string) => void;
}

/** Each change reads the list anew, so not every key is one. */
export function Typed({ label, help, value, isBusy, onSet }: TypedProps) {
  const [typed, setTyped] = useState<string | null>(null);
  const set = (): void => {
    if (typed !== null && typed !== value) onSet(typed);
    setTyped(null);
  };
  return (
    <Field label={label} help={help}>
      {(ids) => (
        <input
          {...ids}
          className="input input-sm w-full"
          readOnly={isBusy}
          value={typed ?? value}
          onChange={(e) => setTyped(e.target.value)}
          onBlur={set}
          onKeyDown={(e) => {
            if (e.key === 'Enter') set();
            if (e.key === 'Escape') setTyped(null);
          }}
        />
      )}
    </Field>
  );
}
