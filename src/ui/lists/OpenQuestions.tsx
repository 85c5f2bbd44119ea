'use client';
/** What a list leaves open and only the engineer knows: words for types, plain numbers, what numbers count from. */
import type { AddressRule } from '@/core/taglist/addressRule.ts';
import { countingSignInWords } from '@/core/taglist/countingSigns.ts';
import type { DraftChoices, DraftSummary } from '@/core/taglist/draft.ts';
import { DATA_TYPE_NAMES } from '@/core/value/dataType.ts';

interface OpenQuestionsProps {
  readonly summary: DraftSummary;
  readonly choices: DraftChoices;
  readonly isBusy: boolean;
  readonly onChange: (changed: Partial<DraftChoices>) => void;
}

const SHOWN = 12;

export function OpenQuestions({ summary, choices, isBusy, onChange }: OpenQuestionsProps) {
  const { typeWords, plainNumbers, counting } = summary;
  const rule = (changed: AddressRule): void => onChange(changed);
  const asksNumbers = plainNumbers > 0 || choices.plainNumbers !== undefined;
  const asksBase = counting !== null || choices.countsFrom !== undefined || choices.plainNumbers !== undefined;
  if (!asksNumbers && !asksBase && typeWords.length === 0) return null;
  return (
    <div className="flex flex-col gap-2" data-questions>
      {asksNumbers || asksBase ? (
        <div className="flex flex-wrap items-center gap-4">
          {asksNumbers ? (
            <label className={`flex items-center gap-2 ${choices.plainNumbers === undefined ? 'is-look' : ''}`}>
              {choices.plainNumbers === undefined ? `${plainNumbers} addresses are plain numbers. They name` : 'Plain numbers name'}
              <select
                aria-label="What plain numbers name"
                className="select select-xs w-44"
                disabled={isBusy}
                value={choices.plainNumbers ?? ''}
                onChange={(e) => rule({ plainNumbers: summary.areas.find((area) => area.value === e.target.value)?.value })}
              >
                <option value="">not said</option>
                {summary.areas.map(({ value, words }) => (
                  <option key={value} value={value}>
                    {words}
                  </option>
                ))}
              </select>
            </label>
          ) : null}
          {asksBase ? (
            <label className={`flex items-center gap-2 ${counting ? 'is-look' : ''}`}>
              {counting ? `${countingSignInWords(counting)}. Numbers count from` : 'Numbers of this list count from'}
              <select
                aria-label="What numbers of the list count from"
                className="select select-xs w-40"
                disabled={isBusy}
                value={choices.countsFrom ?? ''}
                onChange={(e) => rule({ countsFrom: e.target.value === '' ? undefined : e.target.value === '0' ? 0 : 1 })}
              >
                <option value="">as the device does</option>
                <option value="0">0</option>
                <option value="1">1</option>
              </select>
            </label>
          ) : null}
        </div>
      ) : null}
      {typeWords.length > 0 ? (
        <div className="flex flex-wrap items-center gap-x-4 gap-y-1" aria-label="Words for data types">
          <span className="quiet">Words for data types:</span>
          {typeWords.slice(0, SHOWN).map(({ word, type, count }) => (
            <label key={word} className={`flex items-center gap-1 ${type === null ? 'is-bad' : ''}`}>
              <span className="num">{word}</span> ({count}) is
              <select
                aria-label={`What ${word} stands for`}
                className="select select-xs w-28"
                disabled={isBusy}
                value={type ?? ''}
                onChange={(e) => onChange({ typeWords: { ...choices.typeWords, [word]: e.target.value } })}
              >
                {type === null ? <option value="">not known</option> : null}
                {[...new Set([...(type === null ? [] : [type]), ...DATA_TYPE_NAMES])].map((name) => (
                  <option key={name} value={name}>
                    {name}
                  </option>
                ))}
              </select>
            </label>
          ))}
          {typeWords.length > SHOWN ? <span className="quiet">and {typeWords.length - SHOWN} more</span> : null}
        </div>
      ) : null}
    </div>
  );
}
