'use client';
/** A calculator both ways: it calls the same two functions as everything else. */
import { useState } from 'react';
import { engineeringText, followWire, parseFor, parseRaw, planWrite, rawText, type SignalDefinition, type WireValue } from '@/core/signal.ts';
import type { Radix } from '@/core/value/radix.ts';
import { useRadix } from '../live/radix.ts';
import { Field } from '../parts/Field.tsx';

export function Calculator({ def }: { readonly def: SignalDefinition }) {
  const radix = useRadix();
  const [raw, setRaw] = useState('');
  const [eng, setEng] = useState('');
  const forward = raw.trim() === '' ? null : fromRaw(def, raw);
  const back = eng.trim() === '' ? null : fromEngineering(def, eng, radix);
  const unit = def.unit ? ` ${def.unit}` : '';
  return (
    <section aria-label="Calculator" className="card-flat flex flex-col gap-2 p-4">
      <h2 className="font-semibold">Calculator</h2>
      <Field
        label="Raw value"
        unit={def.type.kind === 'integer' ? 'counts' : def.type.name}
        error={forward && 'problem' in forward ? forward.problem : undefined}
      >
        {(ids) => <input {...ids} className="input input-sm num w-full" value={raw} placeholder="11248" onChange={(e) => setRaw(e.target.value)} />}
      </Field>
      <p aria-live="polite">
        is{' '}
        <strong className="num text-base" data-calculated="eng">
          {forward && 'text' in forward ? `${forward.text}${unit}` : '–'}
        </strong>
        {forward && 'note' in forward && forward.note ? <span className="is-look"> {forward.note}</span> : null}
      </p>
      <hr className="border-base-300 my-1" />
      <Field label="Engineering value" unit={def.unit || undefined} error={back && 'problem' in back ? back.problem : undefined}>
        {(ids) => <input {...ids} className="input input-sm num w-full" value={eng} placeholder="61.0" onChange={(e) => setEng(e.target.value)} />}
      </Field>
      <p aria-live="polite">
        is raw{' '}
        <strong className="num text-base" data-calculated="raw">
          {back && 'text' in back ? back.text : '–'}
        </strong>
        {back && 'note' in back && back.note ? <span className="quiet">, which is really {back.note}</span> : null}
      </p>
    </section>
  );
}

type Answer = { readonly text: string; readonly note: string } | { readonly problem: string };

function fromRaw(def: SignalDefinition, text: string): Answer {
  const bare: SignalDefinition = { ...def, scale: { kind: 'none' }, range: null, bit: null };
  const parsed = parseRaw(bare.type, text);
  if (!parsed.ok) return { problem: parsed.problem.message };
  // Through the wire's own type: what the controller cannot hold is refused here too.
  const held = planWrite(bare, parsed.value);
  if (!held.ok && held.problem.code !== 'byte-alone') return { problem: held.problem.message };
  const wire: WireValue = !held.ok
    ? { kind: 'text', text }
    : def.isTyped
      ? { kind: 'typed', value: held.value.raw }
      : { kind: 'bytes', bytes: held.value.bytes };
  const stages = followWire(def, wire);
  return stages.eng === null
    ? { problem: stages.broken?.problem.message ?? 'No value.' }
    : { text: stages.text, note: stages.broken?.problem.message ?? '' };
}

function fromEngineering(def: SignalDefinition, text: string, radix: Radix): Answer {
  const parsed = parseFor(def, text);
  if (!parsed.ok) return { problem: parsed.problem.message };
  const plan = planWrite({ ...def, range: null }, parsed.value);
  if (!plan.ok) return { problem: plan.problem.message };
  const achieved = engineeringText({ ...def, decimals: null }, plan.value.achieved);
  return { text: rawText(def.type, plan.value.raw, radix), note: `${achieved}${def.unit ? ` ${def.unit}` : ''}` };
}
