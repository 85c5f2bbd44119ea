'use client';
/** Makes rows and columns of what is chosen; says before what would come of it. */
import { useMemo, useState } from 'react';
import { toast } from 'sonner';
import { v7 as uuid } from 'uuid';
import { counted } from '@/core/counted.ts';
import { MOST_COPIES, multiplied, type Multiply } from '@/core/panel/multiply.ts';
import { around } from '@/core/panel/arrange.ts';
import { pageHeight } from '@/core/panel/sizes.ts';
import type { Panel } from '@/core/project/entities.ts';
import { useProject } from '../../live/LiveContext.tsx';
import { Dialog } from '../../parts/Dialog.tsx';
import { nextTag } from './nextTag.ts';
import { NumberField } from './NumberField.tsx';
import type { Chosen } from './useChosen.ts';
import type { Edit } from './useEdit.ts';

interface MultiplyDialogProps {
  readonly panel: Panel;
  readonly chosen: Chosen;
  readonly edit: Edit;
  readonly onClose: () => void;
}

/** Tags of the last copies, so that one sees whether they count as meant. */
const SHOWN = 6;

export function MultiplyDialog({ panel, chosen, edit, onClose }: MultiplyDialogProps) {
  const project = useProject();
  const [spec, setSpec] = useState<Multiply>({ rows: 2, columns: 2, gapX: 8, gapY: 8, countsLabels: true, doublesMasks: false, order: 'rows' });
  const [isBusy, setBusy] = useState(false);
  const set = (part: Partial<Multiply>): void => setSpec((known) => ({ ...known, ...part }));
  const total = spec.rows * spec.columns;
  const tooMany = total * chosen.elements.length > MOST_COPIES;
  const made = useMemo(
    () => (tooMany || isBusy ? null : multiplied(chosen.elements, spec, { newId: uuid, tagAt: (id, n) => nextTag(project, id, n) })),
    [tooMany, isBusy, chosen.elements, spec, project],
  );
  const box = around([...(made?.elements ?? []), ...chosen.elements]);
  const isOutside = box !== null && (box.x + box.w > panel.width || box.y + box.h > pageHeight(panel));
  const samples = (made?.elements ?? []).slice(0, SHOWN);
  const make = async (): Promise<void> => {
    if (!made || made.elements.length === 0) return;
    setBusy(true);
    const done = await edit.put(
      `${chosen.elements.length === 1 ? 'element' : counted(chosen.elements.length, 'element')} multiplied to ${total}`,
      made.elements,
    );
    setBusy(false);
    if (!done) return;
    toast(`${counted(made.elements.length, 'element')} made`);
    onClose();
  };
  // It makes way for them while they are made; where they are refused it is there again as it was.
  if (isBusy) return null;
  return (
    <Dialog title="Multiply" onClose={onClose}>
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          void make();
        }}
      >
        <div className="grid grid-cols-4 gap-2">
          <NumberField label="Rows" value={spec.rows} min={1} max={100} onKeep={(rows) => rows !== undefined && set({ rows })} />
          <NumberField label="Columns" value={spec.columns} min={1} max={100} onKeep={(columns) => columns !== undefined && set({ columns })} />
          <NumberField label="Gap across" value={spec.gapX} min={-500} max={2000} onKeep={(gapX) => gapX !== undefined && set({ gapX })} />
          <NumberField label="Gap down" value={spec.gapY} min={-500} max={2000} onKeep={(gapY) => gapY !== undefined && set({ gapY })} />
        </div>
        <label className="flex flex-col gap-0.5 text-xs font-semibold">
          Counts
          <select className="select select-sm" value={spec.order} onChange={(e) => set({ order: e.target.value as Multiply['order'] })}>
            <option value="rows">along each row</option>
            <option value="columns">down each column</option>
          </select>
        </label>
        <label className="flex items-center gap-2 text-xs font-semibold">
          <input
            type="checkbox"
            className="checkbox checkbox-sm"
            checked={spec.countsLabels}
            onChange={(e) => set({ countsLabels: e.target.checked })}
          />
          Numbers in labels count on
        </label>
        <label className="flex items-center gap-2 text-xs font-semibold">
          <input
            type="checkbox"
            className="checkbox checkbox-sm"
            checked={spec.doublesMasks}
            onChange={(e) => set({ doublesMasks: e.target.checked })}
          />
          Masks are doubled: 1, 2, 4, 8, 10h … 8000h
        </label>
        <p className="quiet text-xs">Tags count on by their names: input_01, input_02; or by their group or device: Stand 1, Stand 2.</p>
        <div aria-live="polite" className="min-h-20 text-[13px]" data-multiply>
          {tooMany ? (
            <p className="is-bad">At most {MOST_COPIES} elements are made at once.</p>
          ) : (
            <>
              <p>
                {counted(made?.elements.length ?? 0, 'element')} more
                {made && made.withoutTag > 0 ? (
                  <span className="is-look"> · ◑ {made.withoutTag} would have no tag: there is none that counts on</span>
                ) : null}
                {isOutside ? <span className="is-look"> · ◑ some lie outside the page</span> : null}
              </p>
              <ol className="quiet num text-xs">
                {samples.map((element) => (
                  <li key={element.id}>
                    {element.label || '·'} {element.tagId === null ? '' : `→ ${project.tag(element.tagId)?.name ?? ''}`}
                  </li>
                ))}
                {(made?.elements.length ?? 0) > SHOWN ? <li>…</li> : null}
              </ol>
            </>
          )}
        </div>
        <div className="flex justify-end gap-2">
          <button type="button" className="btn btn-sm btn-ghost" onClick={onClose}>
            Cancel
          </button>
          <button type="submit" className="btn btn-sm btn-primary" disabled={tooMany || total < 2}>
            Make {total}
          </button>
        </div>
      </form>
    </Dialog>
  );
}
