'use client';
/** Size, theme, start page and bar of a panel. */
import { BAR_PX, FINGER_MM, PANEL_SIZES, pixelsPerMm } from '@/core/panel/sizes.ts';
import { THEMES, type Theme } from '@/core/project/kinds/panel.ts';
import type { Page, Panel } from '@/core/project/entities.ts';
import { useChange } from '../../live/LiveContext.tsx';
import { CloseRow } from '../../parts/CloseRow.tsx';
import { Dialog } from '../../parts/Dialog.tsx';
import { NumberField } from './NumberField.tsx';

const THEME_WORDS: Readonly<Record<Theme, string>> = { day: 'by day', night: 'by night', browser: 'as the browser has it' };

export function PanelSettings({ panel, pages, onClose }: { readonly panel: Panel; readonly pages: readonly Page[]; readonly onClose: () => void }) {
  const change = useChange();
  const set = (what: string, fields: Partial<Panel>): void =>
    void change(`${what} of ${panel.name} changed`, [{ kind: 'panel', id: panel.id, set: { ...fields } }]);
  const known = PANEL_SIZES.findIndex(
    ({ width, height, diagonal }) =>
      diagonal === panel.diagonal && [`${width} ${height}`, `${height} ${width}`].includes(`${panel.width} ${panel.height}`),
  );
  return (
    <Dialog title={`Settings of ${panel.name}`} onClose={onClose}>
      <div className="flex flex-col gap-3">
        <label className="flex flex-col gap-0.5 text-xs font-semibold">
          Glass
          <select
            className="select select-sm"
            value={known}
            onChange={(e) => {
              const size = PANEL_SIZES[Number(e.target.value)];
              if (size) set('size', panel.height > panel.width ? { width: size.height, height: size.width, diagonal: size.diagonal } : size);
            }}
          >
            <option value={-1}>another size</option>
            {PANEL_SIZES.map(({ width, height, diagonal }, i) => (
              <option key={`${width} ${height} ${diagonal}`} value={i}>
                {width} × {height}, {diagonal} inches
              </option>
            ))}
          </select>
        </label>
        <div className="grid grid-cols-4 items-end gap-2">
          <NumberField label="Width" value={panel.width} min={160} max={4000} onKeep={(width) => width !== undefined && set('width', { width })} />
          <NumberField
            label="Height"
            value={panel.height}
            min={160}
            max={4000}
            onKeep={(height) => height !== undefined && set('height', { height })}
          />
          <label className="flex flex-col gap-0.5 text-xs font-semibold">
            Diagonal, inches
            <input
              key={panel.diagonal}
              className="input input-sm num"
              inputMode="decimal"
              defaultValue={panel.diagonal}
              onBlur={(e) => {
                const diagonal = Number(e.target.value);
                if (diagonal >= 1 && diagonal <= 100 && diagonal !== panel.diagonal) set('diagonal', { diagonal });
                else e.target.value = String(panel.diagonal);
              }}
            />
          </label>
          <button type="button" className="btn btn-sm" onClick={() => set('direction', { width: panel.height, height: panel.width })}>
            Turn it
          </button>
        </div>
        <p className="quiet text-xs">
          A finger needs {FINGER_MM} mm: {Math.ceil(FINGER_MM * pixelsPerMm(panel))} pixels here.
        </p>
        <label className="flex flex-col gap-0.5 text-xs font-semibold">
          Colours
          <select className="select select-sm" value={panel.theme} onChange={(e) => set('colours', { theme: e.target.value as Theme })}>
            {THEMES.map((theme) => (
              <option key={theme} value={theme}>
                {THEME_WORDS[theme]}
              </option>
            ))}
          </select>
        </label>
        <label className="flex flex-col gap-0.5 text-xs font-semibold">
          Start page
          <select
            className="select select-sm"
            value={panel.startPageId ?? ''}
            onChange={(e) => set('start page', { startPageId: e.target.value || null })}
          >
            <option value="">the first</option>
            {pages.map(({ id, name }) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
          </select>
        </label>
        <label className="flex items-center gap-2 text-xs font-semibold">
          <input type="checkbox" className="checkbox checkbox-sm" checked={panel.hasBar} onChange={(e) => set('bar', { hasBar: e.target.checked })} />
          A bar of {BAR_PX} pixels at its top, with the way to all pages
        </label>
      </div>
      <CloseRow onClose={onClose} />
    </Dialog>
  );
}
