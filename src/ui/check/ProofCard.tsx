'use client';
/** One tag against a witness: what a person sees at the controller or on a panel, or the control channel of a simulated device. */
import { ArrowRight } from 'lucide-react';
import { useRef, useState } from 'react';
import { changedParts, pathParts } from '@/core/check/digest.ts';
import { WITNESSES, type CheckResult, type Proof, type WitnessKind } from '@/core/check/proof.ts';
import type { Tag } from '@/core/project/entities.ts';
import type { Result } from '@/core/result.ts';
import { useProject } from '../live/LiveContext.tsx';
import { Field } from '../parts/Field.tsx';
import { dayAndTime } from '../parts/moment.ts';
import { ConsistentMark, ProofMark } from '../parts/StateMark.tsx';
import { Explanations } from './Explanations.tsx';
import { AS_IT_WAS, HowSeen, toldHow, type HowSeenTexts } from './HowSeen.tsx';
import { RunNotes } from './RunNotes.tsx';
import type { RunInHand } from './useRun.ts';
import { ValuesToTry } from './ValuesToTry.tsx';
import { witnessOf } from './witnessOf.ts';

const PAGE_WORDS = {
  consistent: 'drew the sample rightly',
  differs: 'drew something else',
  hidden: 'is hidden, so nothing was drawn',
  'sample-gone': 'shows a sample that is no longer kept: check again',
} as const;

const FIELD_LABELS: Readonly<Record<WitnessKind, string>> = {
  display: 'What you see at the controller',
  tool: 'What the programming tool shows',
  gauge: 'What the gauge or calibrator shows',
  channel: 'What you see at the controller',
  panel: 'What the other panel shows',
  page: 'What you see at the controller',
};

interface ProofCardProps {
  readonly tag: Tag;
  readonly who: string;
  readonly witness: WitnessKind;
  readonly run: RunInHand;
  readonly outcome: Result<CheckResult> | null;
  readonly onCheck: (witness: object) => Promise<Result<CheckResult>>;
  /** Goes to the next tag of the run; null without one. */
  readonly onNext: (() => void) | null;
}

export function ProofCard({ tag, who, witness, run, outcome, onCheck, onNext }: ProofCardProps) {
  const project = useProject();
  const [seen, setSeen] = useState('');
  const [busy, setBusy] = useState(false);
  const [hint, setHint] = useState('');
  const [howSeen, setHowSeen] = useState<HowSeenTexts>(howKept.texts ?? { ...AS_IT_WAS, how: run.now?.run.how ?? 'observed' });
  const field = useRef<HTMLInputElement>(null);
  const proof = project.proofOf(tag.id);
  const hasControl = witnessOf(project, tag) !== '';
  const nobody = who === '';
  const ask = async (asked: object): Promise<Result<CheckResult>> => {
    setBusy(true);
    setHint('');
    const done = await onCheck(asked);
    setBusy(false);
    if (run.now) void run.reload();
    return done;
  };
  const compare = async (): Promise<void> => {
    const how = toldHow(howSeen);
    if (how === null) return;
    const done = await ask({ kind: 'typed', text: seen.trim(), who, where: typedWhere(witness), ...how });
    // What agrees needs no second look: the run goes on.
    if (onNext && done.ok && done.value.proof && done.value.proof.outcome !== 'failed') onNext();
  };
  const cured = async (words: string): Promise<void> => {
    if (run.now) await run.say(tag.id, who, { step: 'cured', words });
    if (hasControl && (witness === 'channel' || (outcome?.ok && outcome.value.proof?.witness === 'channel'))) {
      await ask({ kind: 'control', who });
      return;
    }
    setSeen('');
    setHint('The mapping was changed: look again.');
    field.current?.focus();
  };
  const removed = async (words: string): Promise<void> => {
    if (run.now) await run.say(tag.id, who, { step: 'waived', words: `${tag.name}: ${words}` });
  };
  const problem = outcome && !outcome.ok ? outcome.problem : null;
  return (
    <section aria-label={`Check of ${tag.name}`} className="card-flat p-4">
      <div className="mb-2 flex items-center gap-3">
        <h2 className="truncate text-base font-semibold" title={tag.name}>
          {tag.name}
        </h2>
        <ProofMark state={proof.state} />
        {onNext ? (
          <button type="button" className="btn btn-xs btn-ghost ml-auto" onClick={onNext}>
            Next <ArrowRight size={13} aria-hidden />
          </button>
        ) : null}
      </div>
      <Past tag={tag} state={proof.state} last={proof.last} />
      <form
        className="flex items-start gap-2"
        noValidate
        onSubmit={(e) => {
          e.preventDefault();
          if (!nobody && seen.trim() !== '' && !busy) void compare();
        }}
      >
        <div className="flex-1">
          <Field
            label={FIELD_LABELS[witness]}
            unit={tag.unit || undefined}
            error={problem?.place === 'witness' ? problem.message : undefined}
            help={nobody ? 'Say above who checks.' : hint || 'As you read it there, with all its decimals. Dashes where it shows none.'}
          >
            {(ids) => (
              <input
                {...ids}
                ref={field}
                className="input input-sm num w-full"
                value={seen}
                autoFocus={run.now !== null}
                autoComplete="off"
                onChange={(e) => setSeen(e.target.value)}
              />
            )}
          </Field>
        </div>
        <button type="submit" className="btn btn-sm btn-primary mt-6" disabled={busy || nobody || seen.trim() === ''}>
          Compare
        </button>
      </form>
      <HowSeen
        texts={howSeen}
        unit={tag.unit}
        onChange={(texts) => {
          setHowSeen(texts);
          // What was set belongs to this tag; how it is done stays.
          howKept.texts = { ...texts, tried: '' };
        }}
      />
      <div className="mt-1 flex flex-wrap gap-2">
        {hasControl ? (
          <button type="button" className="btn btn-sm btn-outline" disabled={busy || nobody} onClick={() => void ask({ kind: 'control', who })}>
            Ask the control channel
          </button>
        ) : null}
        <button type="button" className="btn btn-sm btn-ghost" disabled={busy} onClick={() => void ask({ kind: 'none' })}>
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
        {outcome?.ok && !busy ? (
          <Outcome tag={tag} result={outcome.value} witness={witness} onCured={cured} onRemove={removed} onFinding={findingOf(run, tag, who)} />
        ) : null}
      </div>
      <ValuesToTry tag={tag} who={who} runId={run.now?.run.id ?? null} />
      {run.now ? <RunNotes tag={tag} who={who} run={run} onNext={onNext} /> : null}
    </section>
  );
}

/** Of the tag before: the next one is looked at in the same way. */
const howKept: { texts: HowSeenTexts | null } = { texts: null };

function typedWhere(witness: WitnessKind): WitnessKind {
  return witness === 'channel' || witness === 'page' ? 'display' : witness;
}

function findingOf(run: RunInHand, tag: Tag, who: string) {
  return run.now === null
    ? null
    : async (side: 'mapping' | 'panel' | 'unknown', words: string): Promise<void> => {
        await run.say(tag.id, who, { step: 'finding', side, words });
      };
}

/** What was seen of it before, and what has changed since. */
function Past({ tag, state, last }: { readonly tag: Tag; readonly state: string; readonly last: Proof | null }) {
  const project = useProject();
  if (!last)
    return (
      <p className="quiet mb-2 text-[13px]">
        Reading and showing the same number proves little: a wrong word order agrees with itself. Let somebody or something see the value that does
        not use this mapping.
      </p>
    );
  const effective = project.effective(tag.id);
  const changed =
    state === 'changed' && last.more && effective.ok ? changedParts(last.more.path, pathParts(effective.value.origin, effective.value.def)) : [];
  const witness = (WITNESSES as Readonly<Record<string, string>>)[last.witness] ?? last.witness;
  return (
    <div className="quiet mb-2 text-[13px]">
      <p>
        {last.seen.sentence} {last.outcome === 'waived' ? '' : `${capital(witness)}, `}
        {last.who}, {dayAndTime(last.at)}
        {state === 'elsewhere' ? ' — that was in another installation: check it at this machine.' : ''}
        {state === 'changed' && changed.length === 0 ? ' — its signal path has changed since.' : ''}
      </p>
      {changed.length > 0 ? (
        <p className="is-look" data-changed>
          ↺ Since then: {changed.join('; ')}.
        </p>
      ) : null}
      {state === 'proven' && last.more && last.more.open.length > 0 ? (
        <details>
          <summary>Not ruled out by the values seen: {last.more.open.length}</summary>
          <p>{last.more.open.join('; ')}</p>
        </details>
      ) : null}
    </div>
  );
}

function capital(words: string): string {
  return words.charAt(0).toUpperCase() + words.slice(1);
}

function Outcome({
  tag,
  result,
  witness,
  onCured,
  onRemove,
  onFinding,
}: {
  readonly tag: Tag;
  readonly result: CheckResult;
  readonly witness: WitnessKind;
  readonly onCured: (words: string) => Promise<void>;
  /** Before the tag is removed. */
  readonly onRemove: (words: string) => Promise<void>;
  readonly onFinding: ((side: 'mapping' | 'panel' | 'unknown', words: string) => Promise<void>) | null;
}) {
  const { proof } = result;
  return (
    <div className="border-base-300 border-t pt-2 text-[13px]" data-outcome>
      {proof ? (
        <p className={proof.outcome === 'failed' ? 'is-bad' : 'is-good'}>
          {proof.outcome === 'failed' ? '✕' : '✓'} {proof.seen.sentence}
        </p>
      ) : null}
      {result.tooLittle ? <p className="is-look">◑ {result.tooLittle}</p> : null}
      <Explanations
        tag={tag}
        result={result}
        witness={proof?.witness === 'channel' ? 'channel' : witness}
        onCured={onCured}
        onRemove={onRemove}
        onFinding={onFinding}
      />
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
