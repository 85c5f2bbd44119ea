'use client';
/** What explains that a witness saw something else: whose fault it may be, what each explanation predicts, and its cure. */
import { useState } from 'react';
import type { ToldExplanation } from '@/core/check/explained.ts';
import type { CheckResult, WitnessKind } from '@/core/check/proof.ts';
import type { Tag } from '@/core/project/entities.ts';
import { useChange, useProject } from '../live/LiveContext.tsx';
import { remedyOf } from '../signalPath/signalPath.ts';

const SHOWN = 4;

interface ExplanationsProps {
  readonly tag: Tag;
  readonly result: CheckResult;
  readonly witness: WitnessKind;
  /** The mapping was changed. */
  readonly onCured: (words: string) => Promise<void>;
  /** Before the tag is removed. */
  readonly onRemove: (words: string) => Promise<void>;
  /** Whose fault it is taken to be, with what explains it; null where no run keeps it. */
  readonly onFinding: ((side: 'mapping' | 'panel' | 'unknown', words: string) => Promise<void>) | null;
}

export function Explanations({ tag, result, witness, onCured, onRemove, onFinding }: ExplanationsProps) {
  const [isAll, setIsAll] = useState(false);
  const { explanations, next, isUnexplained } = result;
  if (isUnexplained)
    return (
      <div className="my-2" data-unexplained>
        <p className="is-look">
          ◑ None of the mistakes that are looked for explains it: no order, type, neighbour, shift, factor, unit or decimal point, nor two of them at
          once.
        </p>
        <p className="quiet">Look whether the right tag was compared, and look again at another value: what was misread explains nothing.</p>
        {onFinding ? (
          <button type="button" className="btn btn-xs mt-1" onClick={() => void onFinding('unknown', 'Nothing that is looked for explains it.')}>
            Keep it as a finding
          </button>
        ) : null}
      </div>
    );
  if (explanations.length === 0) return null;
  const shown = isAll ? explanations : explanations.slice(0, SHOWN);
  return (
    <div className="my-2 flex flex-col gap-2" data-explanations>
      <p className="font-semibold">
        {explanations.length === 1 ? 'One thing explains it' : `${explanations.length} things explain it, the simplest first`}
      </p>
      <ol className="flex flex-col gap-1">
        {shown.map((each, i) => (
          <Line
            key={each.words}
            tag={tag}
            place={i + 1}
            explanation={each}
            isOurs={witness !== 'panel'}
            onCured={onCured}
            onRemove={onRemove}
            onFinding={onFinding}
          />
        ))}
      </ol>
      {explanations.length > SHOWN ? (
        <button type="button" className="btn btn-xs btn-ghost self-start" onClick={() => setIsAll(!isAll)}>
          {isAll ? 'Fewer' : `All ${explanations.length}`}
        </button>
      ) : null}
      {next !== null ? (
        <p className="quiet">
          To decide, look again where it is about <span className="num">{next}</span>
          {tag.unit === '' ? '' : ` ${tag.unit}`}: each of them would show another number there.
        </p>
      ) : explanations.length > 1 ? (
        <p className="quiet">To decide, look again when it shows another value: what explains it by chance falls away.</p>
      ) : null}
    </div>
  );
}

function Line({
  tag,
  place,
  explanation,
  isOurs,
  onCured,
  onRemove,
  onFinding,
}: {
  readonly tag: Tag;
  readonly place: number;
  readonly explanation: ToldExplanation;
  readonly isOurs: boolean;
  readonly onCured: ExplanationsProps['onCured'];
  readonly onRemove: ExplanationsProps['onRemove'];
  readonly onFinding: ExplanationsProps['onFinding'];
}) {
  const project = useProject();
  const change = useChange();
  const remedy = remedyOf(project, tag, explanation.cure);
  const cure = async (): Promise<void> => {
    if (!remedy) return;
    if (explanation.cure?.removes) await onRemove(`${explanation.words}; the tag was removed`);
    const done = await change(remedy.label, remedy.changes);
    if (done.ok && !explanation.cure?.removes) await onCured(`${explanation.words}: ${remedy.label}`);
  };
  return (
    <li className="border-base-300 grid grid-cols-[1.2rem_1fr_auto] items-baseline gap-x-2 border-t pt-1">
      <span className="num quiet">{place}</span>
      <span>
        {explanation.words}, which gives <span className="num">{explanation.text}</span>
        {explanation.predicts === null ? null : (
          <span className="quiet">
            {' '}
            · next it would show <span className="num">{explanation.predicts}</span>
          </span>
        )}
        {explanation.alike.length > 0 ? <span className="quiet block text-xs">no value tells it from: {explanation.alike.join('; ')}</span> : null}
      </span>
      <span className="flex gap-1">
        {remedy ? (
          <button
            type="button"
            className={`btn btn-xs ${isOurs && place === 1 ? 'btn-warning' : ''}`}
            title={remedy.label}
            onClick={() => void cure()}
          >
            {isOurs ? remedy.button : 'Our mapping'}
          </button>
        ) : null}
        {onFinding && !isOurs ? (
          <button
            type="button"
            className="btn btn-xs btn-warning"
            title="Keeps it as a finding against the panel; our mapping stays"
            onClick={() => void onFinding('panel', explanation.words)}
          >
            The panel
          </button>
        ) : null}
      </span>
    </li>
  );
}
