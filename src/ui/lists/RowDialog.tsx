'use client';
/** One row of a list as it stands, why it is not understood, and its cells to be put right. */
import { useState } from 'react';
import { COLUMN_WORDS, type ColumnKey } from '@/core/taglist/columns.ts';
import type { Correction } from '@/core/taglist/draft.ts';
import type { UnderstoodRow } from '@/core/taglist/understand.ts';
import { Dialog } from '../parts/Dialog.tsx';
import { Field } from '../parts/Field.tsx';

const ALWAYS: readonly ColumnKey[] = ['name', 'address', 'type'];

interface RowDialogProps {
  readonly row: UnderstoodRow;
  readonly deviceId: string;
  readonly isBusy: boolean;
  readonly onCorrect: (correction: Correction) => void;
  readonly onClose: () => void;
}

export function RowDialog({ row, deviceId, isBusy, onCorrect, onClose }: RowDialogProps) {
  const { cells, problems, notes } = row;
  const keys = [...new Set([...ALWAYS, ...(Object.keys(cells) as ColumnKey[])])];
  const [typed, setTyped] = useState<Readonly<Partial<Record<ColumnKey, string>>>>({});
  const changed = Object.fromEntries(Object.entries(typed).filter(([key, text]) => text !== (cells[key as ColumnKey] ?? '')));
  const name = row.asListed ?? cells.name ?? '';
  return (
    <Dialog title={`Row ${row.row}${name ? `, ${name}` : ''}`} onClose={onClose} wide>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          onCorrect({ name, cells: changed });
          onClose();
        }}
      >
        <ul className="mb-3 flex flex-col gap-1" aria-label="What is wrong with it">
          {problems.map((p, i) => (
            <li key={i}>
              <strong className="is-bad">{p.message}</strong> {p.remedy} <span className="quiet num">{p.place}</span>{' '}
              {p.setting ? (
                <a className="link" href={`/links?device=${deviceId}&setting=${p.setting}`}>
                  Open the protocol options
                </a>
              ) : null}
            </li>
          ))}
          {notes.map((note) => (
            <li key={note} className="is-look">
              {note}
            </li>
          ))}
        </ul>
        <div className="grid max-h-80 grid-cols-3 gap-x-3 overflow-auto">
          {keys.map((key) => (
            <Field key={key} label={COLUMN_WORDS[key].replace(/^./, (c) => c.toUpperCase())}>
              {(ids) => (
                <input
                  {...ids}
                  className="input input-sm num w-full"
                  maxLength={1000}
                  value={typed[key] ?? cells[key] ?? ''}
                  onChange={(e) => setTyped({ ...typed, [key]: e.target.value })}
                />
              )}
            </Field>
          ))}
        </div>
        <p className="quiet">
          {name === ''
            ? 'A row without a name cannot be told apart from others: put it right in the list itself.'
            : 'What is put right here is kept with the source and stands for these cells in the next version of the list too.'}
        </p>
        <div className="mt-4 flex justify-end gap-2">
          <button type="button" className="btn btn-sm btn-ghost" onClick={onClose}>
            Close
          </button>
          <button type="submit" className="btn btn-sm btn-primary" disabled={isBusy || name === '' || Object.keys(changed).length === 0}>
            Correct the row
          </button>
        </div>
      </form>
    </Dialog>
  );
}
