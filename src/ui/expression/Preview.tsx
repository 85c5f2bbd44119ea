'use client';
/** What an expression comes to with the values of now, before anything is kept. */
import { useEffect, useMemo, useState } from 'react';
import { Evaluation, type Input } from '@/core/expression/evaluate.ts';
import { numberText } from '@/core/expression/functions.ts';
import { KIND_WORDS, type Value } from '@/core/expression/tree.ts';
import { isDecimal, decimalNumber } from '@/core/value/decimal.ts';
import { fromJson } from '@/core/value/engineering.ts';
import { useProject } from '../live/LiveContext.tsx';
import { useLive } from '../live/liveHooks.ts';
import type { TagView } from '../live/liveClient.ts';
import { readingOf } from './reading.ts';

const EVERY_MS = 500;

/** @param leads what a value means where it is an index */
export function Preview({ text, leads }: { readonly text: string; readonly leads?: ((value: Value) => string) | undefined }) {
  const project = useProject();
  const live = useLive();
  const reading = useMemo(() => readingOf(project, text), [project, text]);
  const [now, setNow] = useState('');
  useEffect(() => {
    if (!reading.ok) return undefined;
    const { program } = reading;
    const evaluation = new Evaluation(program);
    const leave = program.inputs.map((id) => live.onTag(id, () => undefined));
    const look = (): void => {
      const outcome = evaluation.next(
        program.inputs.map((id) => inputOf(live.view(id))),
        live.now(),
      );
      if (outcome.kind === 'value') setNow(`${numberText(outcome.value, null)}${leads ? `: ${leads(outcome.value)}` : ''}`);
      else if (outcome.kind === 'none') setNow(outcome.message);
      else setNow(`– : ${project.tag(program.inputs[outcome.input] ?? '')?.name ?? 'a tag'} has no good value`);
    };
    look();
    const timer = setInterval(look, EVERY_MS);
    return () => {
      clearInterval(timer);
      for (const each of leave) each();
    };
  }, [reading, live, project, leads]);
  if (text.trim() === '') return <p className="quiet text-xs">Ctrl+Space offers tags and functions.</p>;
  if (!reading.ok)
    return (
      <p className="is-bad text-xs" role="alert">
        {reading.problem.message} {reading.problem.remedy}
      </p>
    );
  const { kind, unit, doubts } = reading.checked;
  return (
    <p className="text-xs" role="status">
      Gives {kind === null ? 'a value' : KIND_WORDS[kind]}
      {unit ? ` in ${unit}` : ''}, now <span className="num font-semibold">{now}</span>
      {doubts.map(({ message, remedy }) => (
        <span key={message} className="is-look block">
          {message} {remedy}
        </span>
      ))}
    </p>
  );
}

function inputOf(view: TagView | null): Input {
  const json = view && view.level !== 'bad' ? view.sample?.eng : null;
  const value = json ? fromJson(json) : null;
  if (!value?.ok) return { value: null, isDoubted: false };
  return { value: isDecimal(value.value) ? decimalNumber(value.value) : value.value, isDoubted: view?.level === 'uncertain' };
}
