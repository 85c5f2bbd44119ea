'use client';
/** One tag against a witness: what a person sees at the controller, or the control channel of a simulated device. */
import { useState } from 'react';
import type { Tag } from '@/core/project/entities.ts';
import { useChange, useProject } from '../live/LiveContext.tsx';
import { Field } from '../parts/Field.tsx';
import { dayAndTime } from '../parts/moment.ts';
import { ConsistentMark, ProofMark } from '../parts/StateMark.tsx';
import { remedyOf } from '../signalPath/signalPath.ts';
import type { CheckResult } from '@/core/check/proof.ts';
import type { Result } from '@/core/result.ts';
import { witnessOf } from './witnessOf.ts';

const PAGE_WORDS = {
  consistent: 'drew the sample rightly',
  differs: 'drew something else',
  hidden: 'is hidden, so nothing was drawn',
  'sample-gone': 'shows a sample that is no longer kept: check again',
} as const;

interface ProofCardProps {
  readonly tag: Tag;
  readonly who: string;
  readonly outcome: Result<CheckResult> | null;
  readonly onCheck: (witness: Record<string, string>) => Promise<void>;
}

export function ProofCard({ tag, who, outcome, onCheck }: ProofCardProps) {
  const project = useProject();
  const [seen, setSeen] = useState('');
  const [busy, setBusy] = useState(false);
  const proof = project.proofOf(tag.id);
  const hasControl = witnessOf(project, tag) !== '';
  const nobody = who.trim() === '';
  const run = async (witness: Record<string, string>): Promise<void> => {
    setBusy(true);
    await onCheck(witness);
    setBusy(false);
  };
  const problem = outcome && !outcome.ok ? outcome.problem : null;
  return (
    <section aria-label={`Check of ${tag.name}`} className="card-flat p-4">
      <div className="mb-2 flex items-center gap-3">
        <h2 className="truncate text-base font-semibold">{tag.name}</h2>
        <ProofMark state={proof.state} />
      </div>
      {proof.last ? (
        <p className="quiet mb-2 text-[13px]">
          {proof.last.seen.sentence} {proof.last.witness}, {proof.last.who}, {dayAndTime(proof.last.at)}
          {proof.state === 'changed' ? ' — its signal path has changed since.' : ''}
          {proof.state === 'elsewhere' ? ' — that was in another installation: check it at this machine.' : ''}
        </p>
      ) : (
        <p className="quiet mb-2 text-[13px]">
          Reading and showing the same number proves little: a wrong word order agrees with itself. Let somebody or something see the value that does
          not use this mapping.
        </p>
      )}
      <form
        className="flex items-start gap-2"
        noValidate
        onSubmit={(e) => {
          e.preventDefault();
          if (!nobody && seen.trim() !== '') void run({ kind: 'typed', text: seen.trim(), who: who.trim() });
        }}
      >
        <div className="flex-1">
          <Field
            label="What you see at the controller"
            unit={tag.unit || undefined}
            error={problem?.place === 'witness' ? problem.message : undefined}
            help={nobody ? 'Say above who checks.' : 'As you read it there, with all its decimals.'}
          >
            {(ids) => <input {...ids} className="input input-sm num w-full" value={seen} onChange={(e) => setSeen(e.target.value)} />}
          </Field>
        </div>
        <button type="submit" className="btn btn-sm btn-primary mt-6" disabled={busy || nobody || seen.trim() === ''}>
          Compare
        </button>
      </form>
      <div className="mt-1 flex gap-2">
        {hasControl ? (
          <button
            type="button"
            className="btn btn-sm btn-outline"
            disabled={busy || nobody}
            onClick={() => void run({ kind: 'control', who: who.trim() })}
          >
            Ask the control channel
          </button>
        ) : null}
        <button type="button" className="btn btn-sm btn-ghost" disabled={busy} onClick={() => void run({ kind: 'none' })}>
          Only compare wire and panel
        </button>
      </div>
      <div aria-live="polite" className="mt-3">
        {busy ? <p className="quiet">Comparing readings …</p> : null}
        {problem && problem.place !== 'witness' ? (
          <p role="alert">
            <strong className="is-bad">{problem.message}</strong> {problem.remedy}
          </p>
        ) : null}
        {outcome?.ok && !busy ? <Outcome tag={tag} result={outcome.value} /> : null}
      </div>
    </section>
  );
}

function Outcome({ tag, result }: { readonly tag: Tag; readonly result: CheckResult }) {
  const project = useProject();
  const change = useChange();
  const effective = project.effective(tag.id);
  return (
    <div className="border-base-300 border-t pt-2 text-[13px]" data-outcome>
      {result.proof ? (
        <p className={result.proof.agrees ? 'is-good' : 'is-bad'}>
          {result.proof.agrees ? '✓' : '✕'} {result.proof.seen.sentence}
        </p>
      ) : null}
      {result.tooLittle ? <p className="is-look">◑ {result.tooLittle}</p> : null}
      {result.suggestions.length > 0 && effective.ok ? (
        <ul className="my-2 flex flex-col gap-1">
          {result.suggestions.slice(0, 3).map((s) => {
            const remedy = remedyOf(tag, effective.value.def, s);
            return (
              <li key={`${s.setting} ${s.value}`} className="is-look flex items-center gap-2">
                <span>◑ {s.sentence}</span>
                <button type="button" className="btn btn-xs btn-warning" onClick={() => void change(remedy.label, remedy.changes)}>
                  {remedy.button}
                </button>
              </li>
            );
          })}
        </ul>
      ) : null}
      <p className="flex items-center gap-2">
        Wire and panel: <ConsistentMark consistent={result.consistent} />
      </p>
      <ul className="quiet">
        {result.pages.map((page, i) => (
          <li key={`${page.elementId} ${i}`}>
            {page.pageName}, {page.label || 'element'}: {PAGE_WORDS[page.verdict]}{' '}
            <span className="num">
              ({page.drawn}, sample {page.sample}
              {page.verdict === 'differs' ? `, expected ${page.expected}` : ''})
            </span>
          </li>
        ))}
      </ul>
    </div>
  );
}
