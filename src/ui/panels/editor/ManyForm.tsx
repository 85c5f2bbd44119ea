'use client';
/** What is done with several elements at once. */
import {
  AlignCenterHorizontal,
  AlignCenterVertical,
  AlignEndHorizontal,
  AlignEndVertical,
  AlignHorizontalSpaceAround,
  AlignStartHorizontal,
  AlignStartVertical,
  AlignVerticalSpaceAround,
} from 'lucide-react';
import { ALIGNMENTS, type Alignment } from '@/core/panel/arrange.ts';
import type { Chosen } from './useChosen.ts';
import type { Edit } from './useEdit.ts';

const ICONS: Readonly<Record<Alignment, typeof AlignStartVertical>> = {
  left: AlignStartVertical,
  centre: AlignCenterVertical,
  right: AlignEndVertical,
  top: AlignStartHorizontal,
  middle: AlignCenterHorizontal,
  bottom: AlignEndHorizontal,
};

export function ManyForm({ chosen, edit }: { readonly chosen: Chosen; readonly edit: Edit }) {
  const isGrouped = chosen.elements.some(({ group }) => group !== '');
  return (
    <div className="flex flex-col gap-3" role="group" aria-label="Settings of several elements">
      <strong>{chosen.elements.length} elements</strong>
      <p className="quiet text-xs">Lines and sizes follow the one that was chosen first: {chosen.elements[0]?.label || 'it has no label'}.</p>
      <div>
        <span className="text-xs font-semibold">Bring into line</span>
        <div className="flex flex-wrap gap-1">
          {(Object.keys(ALIGNMENTS) as Alignment[]).map((to) => {
            const Icon = ICONS[to];
            return (
              <button
                key={to}
                type="button"
                className="btn btn-sm btn-square"
                title={ALIGNMENTS[to]}
                aria-label={`Align ${ALIGNMENTS[to]}`}
                onClick={() => edit.align(to)}
              >
                <Icon size={16} aria-hidden />
              </button>
            );
          })}
        </div>
      </div>
      <div>
        <span className="text-xs font-semibold">Space and size</span>
        <div className="flex flex-wrap gap-1">
          <button type="button" className="btn btn-sm" onClick={() => edit.distribute('x')}>
            <AlignHorizontalSpaceAround size={16} aria-hidden /> Equal gaps across
          </button>
          <button type="button" className="btn btn-sm" onClick={() => edit.distribute('y')}>
            <AlignVerticalSpaceAround size={16} aria-hidden /> Equal gaps down
          </button>
          <button type="button" className="btn btn-sm" onClick={() => edit.sameSize()}>
            Same size
          </button>
        </div>
      </div>
      <div className="flex flex-wrap gap-1">
        {isGrouped ? (
          <button type="button" className="btn btn-sm" onClick={() => edit.ungroup()}>
            Ungroup
          </button>
        ) : (
          <button type="button" className="btn btn-sm" onClick={() => edit.group()}>
            Group
          </button>
        )}
      </div>
    </div>
  );
}
