'use client';
/** A calculator both ways: it calls the same two functions as everything else, and writes the formula out in the numbers at hand. */
import { useState } from 'react';
import { rawOfShown, shownOfRaw } from '@/core/conversion.ts';
import { workedOut } from '@/core/scaling/scale.ts';
import type { SignalDefinition } from '@/core/signal.ts';
import { useRadix } from '../live/radix.ts';
import { Field } from '../parts/Field.tsx';

export function Calculator({ def }: { readonly def: SignalDefinition }) {
  const radix = useRadix();
  const [raw, setRaw] = useState('');
  const [eng, setEng] = useState('');
  const forward = raw.trim() === '' ? null : shownOfRaw(def, raw);
  const back = eng.trim() === '' ? null : rawOfShown(def, eng, radix);
  const unit = def.unit ? ` ${def.unit}` : '';
  return (
    <section aria-label="Calculator" className="card-flat flex flex-col gap-2 p-4">
      <h2 className="font-semibold">Calculator</h2>
      <Field
        label="Raw value"
        unit={def.type.kind === 'integer' ? 'counts' : def.type.name}
        error={forward && !forward.ok ? forward.problem.message : undefined}
      >
        {(ids) => <input {...ids} className="input input-sm num w-full" value={raw} placeholder="11248" onChange={(e) => setRaw(e.target.value)} />}
      </Field>
      <p aria-live="polite">
        is{' '}
        <strong className="num text-base" data-calculated="eng">
          {forward?.ok ? `${forward.value.text}${unit}` : '–'}
        </strong>
        {forward?.ok && forward.value.note ? <span className="is-look"> {forward.value.note}</span> : null}
      </p>
      {forward?.ok && typeof forward.value.raw !== 'string' ? <Worked def={def} raw={Number(forward.value.raw)} /> : null}
      <hr className="border-base-300 my-1" />
      <Field label="Engineering value" unit={def.unit || undefined} error={back && !back.ok ? back.problem.message : undefined}>
        {(ids) => <input {...ids} className="input input-sm num w-full" value={eng} placeholder="61.0" onChange={(e) => setEng(e.target.value)} />}
      </Field>
      <p aria-live="polite">
        is raw{' '}
        <strong className="num text-base" data-calculated="raw">
          {back?.ok ? back.value.raw : '–'}
        </strong>
        {back?.ok ? (
          <span className="quiet">
            , which is really {back.value.achieved}
            {unit}
          </span>
        ) : null}
      </p>
    </section>
  );
}

/** Step by step, as somebody would work it out by hand. */
function Worked({ def, raw }: { readonly def: SignalDefinition; readonly raw: number }) {
  // A step that only looks at the value says nothing here.
  const steps = workedOut(def.scale, raw).filter(({ formula, value }) => formula !== String(value));
  return steps.length === 0 ? null : (
    <ol className="num quiet text-xs" aria-label="Worked out">
      {steps.map(({ formula, value }, i) => (
        <li key={i} className="break-words" data-worked={i}>
          {formula} = {Number.isNaN(value) ? 'no value' : value}
        </li>
      ))}
    </ol>
  );
}
