'use client';
/** Columns that hold several things: where each is split, and a form for one split more. */
import { useState } from 'react';
import type { DraftSummary } from '@/core/taglist/draft.ts';
import { MOST_PARTS, partsOf, type Split } from '@/core/taglist/splits.ts';

interface SplitsProps {
  readonly columns: DraftSummary['columns'];
  readonly splits: readonly Split[];
  readonly isBusy: boolean;
  readonly onChange: (splits: readonly Split[]) => void;
}

type SplitKind = 'text' | 'widths' | 'pattern';
const SPLIT_KINDS: readonly (readonly [SplitKind, string, string])[] = [
  ['text', 'at a text', 'such as : or a space'],
  ['widths', 'by widths', 'characters of each part: 4, 2'],
  ['pattern', 'by a pattern', '* is a part: DB*.W*'],
];

export function Splits({ columns, splits, isBusy, onChange }: SplitsProps) {
  const [isOpen, setOpen] = useState(false);
  const [column, setColumn] = useState(0);
  const [kind, setKind] = useState<SplitKind>('text');
  const [text, setText] = useState(':');
  const [parts, setParts] = useState('2');
  const split = splitOf(column, kind, text, parts);
  return (
    <div className="flex flex-wrap items-center gap-2">
      {splits.map((s, i) => (
        <span key={i} className="hairline inline-flex items-center gap-2 rounded px-2" data-split={i}>
          {inWords(s)}
          {/* Later splits count the columns that this one makes, so only the last can be undone alone. */}
          {i === splits.length - 1 ? (
            <button type="button" className="btn btn-xs btn-ghost" disabled={isBusy} onClick={() => onChange(splits.slice(0, -1))}>
              Join again
            </button>
          ) : null}
        </span>
      ))}
      {isOpen ? (
        <form
          className="flex flex-wrap items-center gap-2"
          aria-label="Split a column"
          onSubmit={(e) => {
            e.preventDefault();
            if (!split) return;
            setOpen(false);
            onChange([...splits, split]);
          }}
        >
          <select aria-label="Column to split" className="select select-xs w-40" value={column} onChange={(e) => setColumn(Number(e.target.value))}>
            {columns.map((c, at) => (
              <option key={at} value={at}>
                {c.heading || `column ${at + 1}`}
              </option>
            ))}
          </select>
          <select aria-label="How it is split" className="select select-xs w-28" value={kind} onChange={(e) => setKind(e.target.value as SplitKind)}>
            {SPLIT_KINDS.map(([id, words]) => (
              <option key={id} value={id}>
                {words}
              </option>
            ))}
          </select>
          <input
            aria-label="Split at"
            className="input input-xs num w-44"
            placeholder={SPLIT_KINDS.find(([id]) => id === kind)?.[2]}
            value={text}
            onChange={(e) => setText(e.target.value)}
          />
          {kind === 'text' ? (
            <label className="flex items-center gap-1">
              into
              <input aria-label="Number of parts" className="input input-xs num w-12" value={parts} onChange={(e) => setParts(e.target.value)} />{' '}
              columns
            </label>
          ) : null}
          <button type="submit" className="btn btn-xs btn-primary" disabled={isBusy || !split}>
            Split
          </button>
          <button type="button" className="btn btn-xs btn-ghost" onClick={() => setOpen(false)}>
            Cancel
          </button>
        </form>
      ) : (
        <button type="button" className="btn btn-xs" disabled={isBusy || columns.length === 0} onClick={() => setOpen(true)}>
          Split a column
        </button>
      )}
    </div>
  );
}

function splitOf(column: number, kind: SplitKind, text: string, parts: string): Split | null {
  if (kind === 'text') {
    const count = Number(parts);
    return text !== '' && Number.isInteger(count) && count >= 2 && count <= MOST_PARTS ? { column, at: text, parts: count } : null;
  }
  if (kind === 'widths') {
    const widths = text
      .split(/[,;\s]+/)
      .filter(Boolean)
      .map(Number);
    return widths.length > 0 && widths.length < MOST_PARTS && widths.every((w) => Number.isInteger(w) && w > 0 && w <= 400)
      ? { column, widths }
      : null;
  }
  return text.includes('*') && text.split('*').length - 1 <= MOST_PARTS ? { column, pattern: text } : null;
}

function inWords(split: Split): string {
  const into = `into ${partsOf(split)}`;
  if ('at' in split) return `Column ${split.column + 1} at “${split.at}” ${into}`;
  if ('widths' in split) return `Column ${split.column + 1} after ${split.widths.join(', ')} characters ${into}`;
  return `Column ${split.column + 1} by “${split.pattern}” ${into}`;
}
