'use client';
/** What is said of a tag in a run beside what was seen: skipped, waived, a note; and what was noted before. */
import { useState } from 'react';
import { LONGEST_NOTE } from '@/core/check/run.ts';
import type { Tag } from '@/core/project/entities.ts';
import { PhotoButton, Photos } from './PhotoButton.tsx';
import type { RunInHand, Said } from './useRun.ts';

export function RunNotes({
  tag,
  who,
  run,
  onNext,
}: {
  readonly tag: Tag;
  readonly who: string;
  readonly run: RunInHand;
  readonly onNext: (() => void) | null;
}) {
  const [words, setWords] = useState('');
  const entry = run.now?.entries.find(({ tagId }) => tagId === tag.id);
  if (!entry || !run.now) return null;
  const isEnded = run.now.run.endedAt !== null;
  const say = async (said: Said, goesOn: boolean): Promise<void> => {
    const done = await run.say(tag.id, who, said);
    if (!done.ok) return;
    setWords('');
    if (goesOn) onNext?.();
  };
  const isSilent = words.trim() === '';
  return (
    <div className="border-base-300 mt-3 border-t pt-2 text-[13px]">
      {entry.side ? (
        <p data-finding-kept>
          Finding: {entry.side === 'panel' ? 'the panel' : entry.side === 'mapping' ? 'the mapping' : 'not known whose fault'} — {entry.finding}
        </p>
      ) : null}
      {entry.cure === '' ? null : <p>Cured: {entry.cure}</p>}
      {entry.notes.map((note, i) => (
        <p key={`${i} ${note}`} className="quiet">
          “{note}”
        </p>
      ))}
      <Photos digests={entry.photos} />
      {isEnded ? (
        <p className="quiet">The run was ended.</p>
      ) : (
        <div className="mt-1 flex flex-wrap items-center gap-2">
          <input
            aria-label="Note or reason"
            className="input input-sm min-w-40 flex-1"
            placeholder="Note, or why it is waived"
            maxLength={LONGEST_NOTE}
            value={words}
            onChange={(e) => setWords(e.target.value)}
          />
          <button
            type="button"
            className="btn btn-sm"
            disabled={who === '' || isSilent}
            onClick={() => void say({ step: 'note', words: words.trim() }, false)}
          >
            Note
          </button>
          <PhotoButton
            isOff={who === ''}
            className="btn btn-sm"
            onTaken={async (photo) => {
              const problem = await run.photo(tag.id, who, words.trim(), photo);
              if (problem === null) setWords('');
              return problem;
            }}
          />
          <button
            type="button"
            className="btn btn-sm"
            disabled={who === '' || isSilent}
            title="It will not be checked: say why"
            onClick={() => void say({ step: 'waived', words: words.trim() }, true)}
          >
            Waive
          </button>
          <button type="button" className="btn btn-sm" disabled={who === ''} onClick={() => void say({ step: 'skipped', words: words.trim() }, true)}>
            Skip
          </button>
        </div>
      )}
    </div>
  );
}
