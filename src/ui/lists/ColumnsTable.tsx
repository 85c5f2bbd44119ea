'use client';
/** What each column of a list holds; and where one that holds several things is split. */
import { COLUMN_KEYS, COLUMN_WORDS, type ColumnGuess, type ColumnKey } from '@/core/taglist/columns.ts';
import type { DraftChoices, DraftSummary } from '@/core/taglist/draft.ts';
import { Splits } from './Splits.tsx';

interface ColumnsTableProps {
  readonly summary: DraftSummary;
  readonly choices: DraftChoices;
  readonly isBusy: boolean;
  readonly onChange: (changed: Partial<DraftChoices>) => void;
}

export function ColumnsTable({ summary, choices, isBusy, onChange }: ColumnsTableProps) {
  const { columns } = summary;
  const choose = (at: number, key: ColumnKey | ''): void =>
    onChange({
      headerAt: summary.headerAt,
      columns: columns.map((c, i) => (i === at ? key : (c.key ?? ''))),
      headings: columns.map((c) => c.heading),
    });
  return (
    <div className="overflow-x-auto">
      <table className="w-full" aria-label="Columns of the list">
        <thead>
          <tr className="quiet text-left">
            <th className="pr-3">Heading</th>
            {columns.map((c, at) => (
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
            {columns.map((c, at) => (
              <td key={at} className="pr-3 align-top">
                <select
                  aria-label={`What column ${at + 1} holds`}
                  className={`select select-xs min-w-28 ${c.confidence < 0.7 && c.key ? 'is-look' : ''}`}
                  disabled={isBusy}
                  value={c.key ?? ''}
                  onChange={(e) => choose(at, e.target.value as ColumnKey | '')}
                >
                  <option value="">excluded</option>
                  {COLUMN_KEYS.map((key) => (
                    <option key={key} value={key}>
                      {COLUMN_WORDS[key]}
                    </option>
                  ))}
                </select>
                <span className={`block text-xs whitespace-nowrap ${c.confidence < 0.7 && c.key ? 'is-look' : 'quiet'}`}>{sureness(c)}</span>
              </td>
            ))}
          </tr>
          <tr>
            <th scope="row" className="quiet pr-3 text-left font-normal">
              Such as
            </th>
            {columns.map((c, at) => (
              <td key={at} className="num max-w-44 truncate pr-3" title={c.samples.join(' · ')}>
                {c.samples[0] ?? ''}
              </td>
            ))}
          </tr>
          <tr>
            <th scope="row" className="quiet pr-3 text-left font-normal">
              Split
            </th>
            <td colSpan={columns.length} className="pt-1">
              <Splits
                columns={columns}
                splits={choices.splits ?? []}
                isBusy={isBusy}
                onChange={(splits) => onChange({ splits, columns: undefined, headings: undefined })}
              />
            </td>
          </tr>
        </tbody>
      </table>
    </div>
  );
}

function sureness({ key, why, confidence }: ColumnGuess): string {
  if (why === 'chosen') return 'chosen';
  if (!key) return 'not known';
  return `by ${why}, ${Math.round(confidence * 100)} %`;
}
