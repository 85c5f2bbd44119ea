'use client';
/** In which unit a panel shows the tags of each unit that it has. */
import { useState } from 'react';
import type { Panel } from '@/core/project/entities.ts';
import { conversionText } from '@/core/units/unitLine.ts';
import { unitsLike } from '@/core/units/unitsLike.ts';
import { useChange, useProject } from '../live/LiveContext.tsx';
import { Dialog } from '../parts/Dialog.tsx';

export function PanelUnits({ panel, onClose }: { readonly panel: Panel; readonly onClose: () => void }) {
  const project = useProject();
  const change = useChange();
  const [problem, setProblem] = useState<string | null>(null);
  const counts = new Map<string, number>(panel.units.map(({ from }) => [from, 0]));
  for (const page of project.pagesOf(panel.id))
    for (const { tagId } of project.elementsOn(page.id)) {
      const unit = project.tag(tagId ?? '')?.unit ?? '';
      if (unit !== '') counts.set(unit, (counts.get(unit) ?? 0) + 1);
    }
  const show = async (from: string, to: string): Promise<void> => {
    const others = panel.units.filter((unit) => unit.from !== from);
    const units = to === '' ? others : [...others, { from, to }];
    const done = await change(`${from} of ${panel.name} shown in ${to || from}`, [{ kind: 'panel', id: panel.id, set: { units } }]);
    setProblem(done.ok ? null : done.problem.message);
  };
  const rows = [...counts].sort(([a], [b]) => a.localeCompare(b));
  return (
    <Dialog title={`Units of ${panel.name}`} onClose={onClose}>
      <p className="quiet mb-3">
        The controller keeps its unit, and this panel shows another one: values, ends, limits and entries. What is written is converted back.
      </p>
      {rows.length === 0 ? (
        <p className="quiet py-4 text-center">Nothing on its pages has a unit yet. Give tags their units in Map or Scale.</p>
      ) : null}
      {rows.length > 0 ? (
        <table className="table-sm w-full" aria-label="Units">
          <thead>
            <tr className="text-left text-xs">
              <th scope="col">Tags in</th>
              <th scope="col">Shown in</th>
              <th scope="col">so that</th>
            </tr>
          </thead>
          <tbody>
            {rows.map(([from, count]) => {
              const to = panel.units.find((unit) => unit.from === from)?.to ?? '';
              const choices = unitsLike(from);
              return (
                <tr key={from} data-unit={from}>
                  <td className="num">
                    {from} <span className="quiet font-sans text-xs">{count === 0 ? 'none now' : `${count} on its pages`}</span>
                  </td>
                  <td>
                    {choices.length === 0 ? (
                      <span className="quiet">no other unit is known for it</span>
                    ) : (
                      <select
                        className="select select-sm w-32"
                        aria-label={`Shown instead of ${from}`}
                        value={to}
                        onChange={(e) => void show(from, e.target.value)}
                      >
                        <option value="">{from}, as it is</option>
                        {[...new Set([...(to === '' ? [] : [to]), ...choices])].map((unit) => (
                          <option key={unit} value={unit}>
                            {unit}
                          </option>
                        ))}
                      </select>
                    )}
                  </td>
                  <td className="num quiet">{to === '' ? '' : conversionText(from, to)}</td>
                </tr>
              );
            })}
          </tbody>
        </table>
      ) : null}
      {problem ? <p className="is-bad mt-2">{problem}</p> : null}
      <div className="mt-4 text-right">
        <button type="button" className="btn btn-sm btn-primary" onClick={onClose}>
          Close
        </button>
      </div>
    </Dialog>
  );
}
