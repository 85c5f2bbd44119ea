'use client';
/** How a list is read, and what is chosen of it: every guess with its confidence, and every one can be changed. */
import { useState } from 'react';
import { COLUMN_KEYS, COLUMN_WORDS, type ColumnGuess, type ColumnKey } from '@/core/taglist/columns.ts';
import type { DraftChoices, DraftSummary } from '@/core/taglist/draft.ts';
import { EVERYTHING } from '@/core/taglist/choose.ts';
import { DELIMITERS, ENCODINGS, type Delimiter, type Encoding } from '@/core/taglist/written.ts';
import { Field } from '../parts/Field.tsx';

const DELIMITER_WORDS: Readonly<Record<Delimiter, string>> = { ',': 'comma', ';': 'semicolon', '\t': 'tab', '|': 'pipe' };

interface ReadingChoicesProps {
  readonly summary: DraftSummary;
  readonly choices: DraftChoices;
  readonly isBusy: boolean;
  readonly onChange: (choices: DraftChoices) => void;
}

export function ReadingChoices({ summary, choices, isBusy, onChange }: ReadingChoicesProps) {
  const change = (changed: Partial<DraftChoices>): void => onChange({ ...choices, ...changed });
  const columnsNow = summary.columns.map((c) => c.key ?? '');
  return (
    <section aria-label="How the list is read" className="card-flat flex flex-col gap-3 p-3 text-[13px]">
      <div className="grid grid-cols-[1.6fr_0.8fr_1fr_0.9fr_1fr] gap-4">
        <Field
          label="Encoding"
          help={
            summary.encodingConfidence >= 1
              ? 'Certain.'
              : `Guessed, ${Math.round(summary.encodingConfidence * 100)} % sure: look at the letters below.`
          }
        >
          {(ids) => (
            <select
              {...ids}
              className="select select-sm w-full"
              disabled={isBusy}
              value={summary.encoding}
              onChange={(e) => change({ encoding: e.target.value as Encoding })}
            >
              {ENCODINGS.map(([id, words]) => (
                <option key={id} value={id}>
                  {words}
                </option>
              ))}
            </select>
          )}
        </Field>
        <Field label="Columns are parted by">
          {(ids) => (
            <select
              {...ids}
              className="select select-sm w-full"
              disabled={isBusy}
              value={summary.delimiter}
              onChange={(e) => change({ delimiter: e.target.value as Delimiter, columns: undefined, headerAt: undefined })}
            >
              {DELIMITERS.map((d) => (
                <option key={d} value={d}>
                  {DELIMITER_WORDS[d]}
                </option>
              ))}
            </select>
          )}
        </Field>
        <Field label="Headings" help="The row that names the columns.">
          {(ids) => (
            <select
              {...ids}
              className="select select-sm w-full"
              disabled={isBusy}
              value={summary.headerAt}
              onChange={(e) => change({ headerAt: Number(e.target.value), columns: undefined })}
            >
              <option value={-1}>there are none</option>
              {[...new Set([...Array.from({ length: 10 }, (_, i) => i), summary.headerAt])]
                .filter((at) => at >= 0)
                .map((at) => (
                  <option key={at} value={at}>
                    in row {at + 1}
                  </option>
                ))}
            </select>
          )}
        </Field>
        <Field label="Decimals" help="In the ranges.">
          {(ids) => (
            <select
              {...ids}
              className="select select-sm w-full"
              disabled={isBusy}
              value={summary.decimalComma ? 'comma' : 'point'}
              onChange={(e) => change({ decimalComma: e.target.value === 'comma' })}
            >
              <option value="point">0.5 point</option>
              <option value="comma">0,5 comma</option>
            </select>
          )}
        </Field>
        <TypedField
          label="Before every name"
          help="Keeps names of like devices apart."
          value={choices.prefix ?? ''}
          isBusy={isBusy}
          onSet={(prefix) => change({ prefix })}
        />
      </div>
      {summary.accented.length > 0 ? (
        <p className="truncate" data-accented>
          <span className="quiet">Letters of the file:</span> {summary.accented.join(' · ')}
        </p>
      ) : null}
      <div className="grid grid-cols-2 gap-4">
        <TypedField
          label="Bring in only"
          help="Patterns of names with * and ?, parted by spaces; empty brings all. Kept for the next version of the list."
          value={(choices.rule?.include ?? []).join(' ')}
          isBusy={isBusy}
          onSet={(text) => change({ rule: { ...EVERYTHING, ...choices.rule, include: patternsOf(text) } })}
        />
        <TypedField
          label="But not"
          help="Such as *_tmp Spare*"
          value={(choices.rule?.exclude ?? []).join(' ')}
          isBusy={isBusy}
          onSet={(text) => change({ rule: { ...EVERYTHING, ...choices.rule, exclude: patternsOf(text) } })}
        />
      </div>
      {columnsNow.includes('panel') ? (
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            className="checkbox checkbox-sm"
            disabled={isBusy}
            checked={choices.rule?.onlyForPanels ?? false}
            onChange={(e) => change({ rule: { ...EVERYTHING, ...choices.rule, onlyForPanels: e.target.checked } })}
          />
          Only what the controller&apos;s program marks for panels
        </label>
      ) : null}
      <div className="overflow-x-auto">
        <table className="w-full" aria-label="Columns of the list">
          <thead>
            <tr className="quiet text-left">
              <th className="pr-3">Heading</th>
              {summary.columns.map((c, at) => (
                <th key={at} className="max-w-44 truncate pr-3 font-semibold" title={c.heading}>
                  {c.heading || `column ${at + 1}`}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            <tr>
              <th scope="row" className="quiet pr-3 text-left font-normal">
                Holds
              </th>
              {summary.columns.map((c, at) => (
                <td key={at} className="pr-3">
                  <select
                    aria-label={`What column ${at + 1} holds`}
                    className={`select select-xs min-w-28 ${c.confidence < 0.7 && c.key ? 'is-look' : ''}`}
                    disabled={isBusy}
                    value={c.key ?? ''}
                    onChange={(e) =>
                      change({
                        headerAt: summary.headerAt,
                        columns: columnsNow.map((key, i) => (i === at ? (e.target.value as ColumnKey | '') : key)),
                      })
                    }
                  >
                    <option value="">left out</option>
                    {COLUMN_KEYS.map((key) => (
                      <option key={key} value={key}>
                        {COLUMN_WORDS[key]}
                      </option>
                    ))}
                  </select>
                  <span className={`block text-xs ${c.confidence < 0.7 && c.key ? 'is-look' : 'quiet'}`}>{sureness(c)}</span>
                </td>
              ))}
            </tr>
            <tr>
              <th scope="row" className="quiet pr-3 text-left font-normal">
                Such as
              </th>
              {summary.columns.map((c, at) => (
                <td key={at} className="num max-w-44 truncate pr-3" title={c.samples.join(' · ')}>
                  {c.samples[0] ?? ''}
                </td>
              ))}
            </tr>
          </tbody>
        </table>
      </div>
    </section>
  );
}

function sureness({ key, why, confidence }: ColumnGuess): string {
  if (why === 'chosen') return 'chosen';
  if (!key) return 'heading not known';
  return `by its ${why}, ${Math.round(confidence * 100)} %`;
}

function patternsOf(text: string): readonly string[] {
  return text.split(/\s+/).filter(Boolean);
}

/** A text that counts when it is left or entered: each change reads the list anew. */
function TypedField({
  label,
  help,
  value,
  isBusy,
  onSet,
}: {
  readonly label: string;
  readonly help: string;
  readonly value: string;
  readonly isBusy: boolean;
  readonly onSet: (text: string) => void;
}) {
  const [typed, setTyped] = useState<string | null>(null);
  const set = (): void => {
    if (typed !== null && typed !== value) onSet(typed);
    setTyped(null);
  };
  return (
    <Field label={label} help={help}>
      {(ids) => (
        <input
          {...ids}
          className="input input-sm w-full"
          readOnly={isBusy}
          value={typed ?? value}
          onChange={(e) => setTyped(e.target.value)}
          onBlur={set}
          onKeyDown={(e) => {
            if (e.key === 'Enter') set();
            if (e.key === 'Escape') setTyped(null);
          }}
        />
      )}
    </Field>
  );
}
