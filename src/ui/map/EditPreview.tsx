'use client';
/** What an edit of many cells would do: what does not fit comes first, with its reason. Nothing is kept until it is said. */
import { TriangleAlert } from 'lucide-react';
import { counted } from '@/core/counted.ts';
import type { PlannedEdits, PlannedRow } from './gridEdits.ts';

const SHOWN = 300;

export function EditPreview({ planned }: { readonly planned: PlannedEdits }) {
  const wrong = planned.rows.filter(({ problem }) => problem !== null);
  const good = planned.rows.filter(({ problem }) => problem === null);
  const rows = [...wrong, ...good].slice(0, SHOWN);
  if (planned.rows.length === 0) return <p className="quiet py-3">Nothing would change.</p>;
  return (
    <>
      <p className="mb-1 text-[13px]" role="status">
        {counted(good.length, 'tag')} would {good.length > 0 && good.every(({ isNew }) => isNew) ? 'be made' : 'change'}
        {wrong.length > 0 ? (
          <span className="is-bad">
            {' · '}
            <TriangleAlert size={13} aria-hidden className="inline" /> {wrong.length} do not fit
          </span>
        ) : null}
      </p>
      <div className="border-base-300 max-h-64 overflow-y-auto border text-[13px]">
        <table className="table-xs w-full" aria-label="Changes">
          <tbody>
            {rows.map((row) => (
              <PreviewRow key={row.tag.id} row={row} />
            ))}
          </tbody>
        </table>
        {planned.rows.length > SHOWN ? <p className="quiet p-2">and {planned.rows.length - SHOWN} more</p> : null}
      </div>
    </>
  );
}

function PreviewRow({ row: { tag, isNew, cells, problem } }: { readonly row: PlannedRow }) {
  return (
    <tr className="border-base-300 border-b align-top" data-preview={tag.name} data-unfit={problem !== null || undefined}>
      <td className="max-w-48 truncate" title={tag.name}>
        {isNew ? <em className="quiet">new</em> : tag.name}
      </td>
      <td className="num">
        {cells.map(({ title, before, after }) => (
          <span key={title} className="mr-4 inline-block">
            <span className="quiet font-sans">{title}</span> {before === '' ? '' : <s className="quiet">{before}</s>} {after === '' ? '–' : after}
          </span>
        ))}
      </td>
      <td className="is-bad">{problem ? `${problem.message} ${problem.remedy ?? ''}` : ''}</td>
    </tr>
  );
}
