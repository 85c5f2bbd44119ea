'use client';
/** A run in front of a panel: one tag at a time, large; what the panel shows is tapped or typed, and the next one comes. */
import { ArrowLeft, ArrowRight, Check, SkipForward, X } from 'lucide-react';
import { useEffect, useState } from 'react';
import type { CheckResult } from '@/core/check/proof.ts';
import { WITNESSES } from '@/core/check/proof.ts';
import { nextOpen, type RunEntry, type RunLook } from '@/core/check/run.ts';
import type { Problem } from '@/core/result.ts';
import { call } from '../../live/api.ts';
import { rememberedName, rememberName } from '../../live/selection.ts';
import { PhotoButton, Photos } from '../PhotoButton.tsx';
import { countsInWords } from '../RunBar.tsx';
import { useRun, type RunInHand, type RunNow } from '../useRun.ts';

export function PhoneRun({ id }: { readonly id: string }) {
  const run = useRun(id);
  const [who, setWho] = useState('');
  const [isNamed, setIsNamed] = useState(false);
  const [at, setAt] = useState<string | null>(null);
  useEffect(() => {
    // eslint-disable-next-line react-hooks/set-state-in-effect -- the name is known in the browser only
    setWho(rememberedName());
  }, []);
  if (!run.now)
    return (
      <Frame>
        {run.problem ? (
          <p role="alert">
            <strong className="is-bad">{run.problem.message}</strong> {run.problem.remedy}
          </p>
        ) : (
          <p className="quiet">Opening the run …</p>
        )}
      </Frame>
    );
  const { now } = run;
  const entry = now.entries.find(({ tagId }) => tagId === at);
  if (!isNamed)
    return (
      <Frame>
        <h1 className="text-xl font-semibold">{now.run.name}</h1>
        <p className="quiet">
          {now.counts.all} tags against {WITNESSES[now.run.witness]} · {countsInWords(now.counts)}
        </p>
        <form
          className="mt-6 flex flex-col gap-3"
          onSubmit={(e) => {
            e.preventDefault();
            rememberName(who.trim());
            setAt(nextOpen(now.entries, null));
            setIsNamed(true);
          }}
        >
          <label className="flex flex-col gap-1 font-semibold">
            Who looks?
            <input className="input input-lg w-full" value={who} maxLength={60} placeholder="Your name" onChange={(e) => setWho(e.target.value)} />
          </label>
          <button type="submit" className="btn btn-primary btn-lg" disabled={who.trim() === '' || now.run.endedAt !== null}>
            {now.run.endedAt === null ? 'Begin' : 'The run was ended'}
          </button>
        </form>
      </Frame>
    );
  if (!entry || now.run.endedAt !== null)
    return (
      <Frame>
        <h1 className="text-xl font-semibold">{now.run.endedAt === null ? 'All tags were looked at' : 'The run was ended'}</h1>
        <p className="quiet">{countsInWords(now.counts)}</p>
        <ul className="mt-4 flex flex-col gap-2">
          {now.entries
            .filter(({ state }) => state === 'failed' || state === 'skipped')
            .map((each) => (
              <li key={each.tagId}>
                <button type="button" className="btn btn-outline w-full justify-between" onClick={() => setAt(each.tagId)}>
                  {now.labels[each.tagId]?.name ?? 'a tag that is gone'}{' '}
                  <span className="is-bad">{each.state === 'failed' ? 'differs' : 'skipped'}</span>
                </button>
              </li>
            ))}
        </ul>
      </Frame>
    );
  return <One key={entry.tagId} run={run} now={now} entry={entry} who={who.trim()} onGo={setAt} />;
}

function Frame({ children }: { readonly children: React.ReactNode }) {
  return <main className="mx-auto flex min-h-dvh max-w-md flex-col gap-2 p-4">{children}</main>;
}

/** One tag. */
function One({
  run,
  now,
  entry,
  who,
  onGo,
}: {
  readonly run: RunInHand;
  readonly now: RunNow;
  readonly entry: RunEntry;
  readonly who: string;
  /** Null: all were looked at. */
  readonly onGo: (tagId: string | null) => void;
}) {
  const { tagId } = entry;
  const label = now.labels[tagId];
  const place = now.entries.findIndex((each) => each.tagId === tagId);
  const [look, setLook] = useState<RunLook | null>(null);
  const [text, setText] = useState('');
  const [note, setNote] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<Problem | null>(null);
  const [result, setResult] = useState<CheckResult | null>(null);
  useEffect(() => {
    const stop = new AbortController();
    const ask = (): void =>
      void call<RunLook>('GET', `/checks/runs/${now.run.id}/tags/${tagId}`, undefined, stop.signal).then((done) => {
        if (!stop.signal.aborted && done.ok) setLook(done.value);
      });
    ask();
    const timer = setInterval(ask, 1500);
    return () => {
      clearInterval(timer);
      stop.abort();
    };
  }, [now.run.id, tagId]);
  /** To the next that nobody has looked at; skipped ones are listed at the end. */
  const go = (entries = now.entries): void => {
    const to = nextOpen(entries, tagId);
    onGo(entries.find((each) => each.tagId === to)?.state === 'open' ? to : null);
  };
  const compare = async (seen: string): Promise<void> => {
    setBusy(true);
    setProblem(null);
    const { witness, how } = now.run;
    const where = witness === 'channel' || witness === 'page' ? 'display' : witness;
    const done = await run.check(tagId, { kind: 'typed', text: seen, who, where, how });
    const after = await run.reload();
    setBusy(false);
    if (!done.ok) setProblem(done.problem);
    else if (done.value.proof && done.value.proof.outcome !== 'failed') go(after?.entries);
    else setResult(done.value);
  };
  const say = async (step: 'skipped' | 'note', words: string): Promise<void> => {
    const said = await run.say(tagId, who, { step, words });
    setNote(null);
    if (step === 'skipped') go(said.ok ? said.value.entries : undefined);
  };
  const choices = [...(look?.choices ?? []), ...(label?.states ?? [])].filter((each, i, all) => all.indexOf(each) === i);
  return (
    <Frame>
      <header className="flex items-center gap-2 text-sm">
        <span className="num">
          {place + 1}/{now.counts.all}
        </span>
        <progress
          className="progress progress-primary flex-1"
          value={now.counts.all - now.counts.open}
          max={now.counts.all}
          aria-label="Tags looked at"
        />
        <span className="quiet">{now.counts.failed} differ</span>
      </header>
      <h1 className="text-2xl leading-tight font-semibold break-words" data-phone-tag>
        {label?.name ?? 'A tag that is gone'}
      </h1>
      <p className="quiet break-words">{label?.where}</p>
      {result ? (
        <section aria-live="polite" className="card-flat mt-2 flex flex-col gap-2 p-3">
          {result.tooLittle ? (
            <p className="is-look">◑ {result.tooLittle}</p>
          ) : (
            <p className="is-bad text-lg">
              <X size={18} className="inline" aria-hidden /> {result.proof?.seen.sentence}
            </p>
          )}
          {result.explanations.slice(0, 2).map((each) => (
            <p key={each.words}>
              {each.words} would give <span className="num">{each.text}</span>
            </p>
          ))}
          {result.isUnexplained ? <p>Nothing that is looked for explains it. Is it the right value?</p> : null}
          <div className="grid grid-cols-2 gap-2">
            <button type="button" className="btn btn-outline btn-lg" onClick={() => setResult(null)}>
              Look again
            </button>
            <button type="button" className="btn btn-lg btn-primary" onClick={() => go()}>
              Next <ArrowRight size={18} aria-hidden />
            </button>
          </div>
        </section>
      ) : (
        <>
          <p className="mt-2 font-semibold">
            What does {WITNESSES[now.run.witness]} show{label?.unit ? `, in ${label.unit}` : ''}?
          </p>
          {look?.driven ? (
            <p className="is-look">
              ✋ Set from here to <span className="num">{look.driven}</span> for this check
            </p>
          ) : null}
          {look && !look.isGood ? <p className="is-bad">{look.quality}</p> : null}
          <div className="grid grid-cols-2 gap-2" role="group" aria-label="It shows">
            {choices.map((each) => (
              <button key={each} type="button" className="btn btn-outline num h-16 text-xl" disabled={busy} onClick={() => void compare(each)}>
                {each}
              </button>
            ))}
          </div>
          <form
            className="mt-2 flex gap-2"
            onSubmit={(e) => {
              e.preventDefault();
              if (text.trim() !== '') void compare(text.trim());
            }}
          >
            <input
              aria-label="Something else"
              className="input input-xl num h-16 min-w-0 flex-1 text-xl"
              inputMode={(label?.states.length ?? 0) > 0 ? 'text' : 'decimal'}
              placeholder="Something else"
              autoComplete="off"
              value={text}
              onChange={(e) => setText(e.target.value)}
            />
            <button type="submit" className="btn btn-primary h-16 w-16" disabled={busy || text.trim() === ''} aria-label="Compare">
              <Check size={22} aria-hidden />
            </button>
          </form>
          {problem ? (
            <p role="alert">
              <strong className="is-bad">{problem.message}</strong> {problem.remedy}
            </p>
          ) : null}
          {busy ? <p className="quiet">Comparing …</p> : null}
        </>
      )}
      <span className="flex-1" />
      {note === null ? null : (
        <form
          className="flex gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            if (note.trim() !== '') void say('note', note.trim());
          }}
        >
          <input aria-label="Note" className="input input-lg min-w-0 flex-1" value={note} maxLength={400} onChange={(e) => setNote(e.target.value)} />
          <button type="submit" className="btn btn-lg" disabled={note.trim() === ''}>
            Keep
          </button>
        </form>
      )}
      <Photos digests={entry.photos} />
      <footer className="grid grid-cols-4 gap-2">
        <button
          type="button"
          className="btn btn-lg"
          disabled={place <= 0}
          onClick={() => onGo(now.entries[place - 1]?.tagId ?? tagId)}
          aria-label="Back"
        >
          <ArrowLeft size={18} aria-hidden />
        </button>
        <button type="button" className="btn btn-outline btn-lg" onClick={() => setNote(note === null ? '' : null)}>
          Note
        </button>
        <PhotoButton isOff={busy} className="btn btn-outline btn-lg px-2" onTaken={(photo) => run.photo(tagId, who, '', photo)} />
        <button type="button" className="btn btn-outline btn-lg px-2" disabled={busy} onClick={() => void say('skipped', '')}>
          Skip <SkipForward size={18} aria-hidden />
        </button>
      </footer>
    </Frame>
  );
}
