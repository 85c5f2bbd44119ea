'use client';
/** The fewest values at which every plausible mistake would show another text than the mapping; what no value tells apart is named. */
import { useState } from 'react';
import { wordsOf } from '@/core/check/explained.ts';
import { tellingValues } from '@/core/check/mistakes/tellingValues.ts';
import type { Tag } from '@/core/project/entities.ts';
import { useProject } from '../live/LiveContext.tsx';
import { cellsOf } from '@/mapping/cells.ts';
import { SetValues } from './driving/SetValues.tsx';
import { SeenSoFar } from './SeenSoFar.tsx';

interface ValuesToTryProps {
  readonly tag: Tag;
  readonly who: string;
  readonly runId: string | null;
}

export function ValuesToTry({ tag, who, runId }: ValuesToTryProps) {
  const [isOpen, setIsOpen] = useState(false);
  return (
    <details className="mt-2 text-[13px]" onToggle={(e) => setIsOpen(e.currentTarget.open)}>
      <summary className="quiet cursor-pointer">Values that tell mistakes apart</summary>
      {isOpen ? <Told tag={tag} who={who} runId={runId} /> : null}
    </details>
  );
}

function Told({ tag, who, runId }: ValuesToTryProps) {
  const project = useProject();
  const effective = project.effective(tag.id);
  if (!effective.ok) return <p className="is-bad">{effective.problem.message}</p>;
  const { def } = effective.value;
  const { values, hidden, alike, mistakes } = tellingValues(def, cellsOf(effective.value), def.range);
  const unit = tag.unit === '' ? '' : ` ${tag.unit}`;
  const said = (all: readonly (typeof hidden)[number][]): string => all.map((mistake) => wordsOf({ mistakes: [mistake] })).join('; ');
  return (
    <div className="mt-1 flex flex-col gap-1" data-telling>
      {values.length === 0 ? (
        <p className="quiet">No value of it tells one mistake from another.</p>
      ) : (
        <p>
          Look where it is about <span className="num font-semibold">{values.map(({ shown }) => `${shown}${unit}`).join(', then ')}</span>: each of{' '}
          {mistakes} plausible mistakes would show another number {values.length === 1 ? 'there' : 'at one of them'}.
        </p>
      )}
      {def.range === null ? <p className="quiet">Chosen from all that its type holds; give the tag its expected range to stay within it.</p> : null}
      {hidden.length > 0 ? <p className="quiet">No value in its range would show: {said(hidden)}.</p> : null}
      {alike.length > 0 ? <p className="quiet">Not told from each other: {alike.map((group) => said(group)).join(' / ')}.</p> : null}
      <SeenSoFar tag={tag} signal={effective.value} />
      <SetValues tag={tag} signal={effective.value} who={who} runId={runId} />
    </div>
  );
}
