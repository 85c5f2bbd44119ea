'use client';
/** A map of the pages of a panel: what buttons lead from where to where; a page opens from here. */
import { reachedPages, waysFrom } from '@/core/panel/ways.ts';
import { startPage, type Scene } from '@/core/panel/scene.ts';
import type { Page } from '@/core/project/entities.ts';
import { CloseRow } from '../../parts/CloseRow.tsx';
import { Dialog } from '../../parts/Dialog.tsx';

const WIDE = 148;
const HIGH = 40;
const STEP_X = 208;
const STEP_Y = 84;
const ACROSS = 4;

interface PageWaysDialogProps {
  readonly scene: Scene;
  readonly onPage: (id: string) => void;
  readonly onClose: () => void;
}

interface Place {
  readonly page: Page;
  readonly x: number;
  readonly y: number;
}

export function PageWaysDialog({ scene, onPage, onClose }: PageWaysDialogProps) {
  const { panel, pages } = scene;
  const start = startPage(scene);
  const ways = new Map(pages.map(({ id }) => [id, waysFrom(scene, id)]));
  const reached = reachedPages(scene, (id) => ways.get(id) ?? waysFrom(scene, id));
  const places: readonly Place[] = pages.map((page, i) => ({ page, x: (i % ACROSS) * STEP_X, y: Math.floor(i / ACROSS) * STEP_Y }));
  const placeOf = (id: string): Place | undefined => places.find(({ page }) => page.id === id);
  const arrows = places.flatMap((from) => (ways.get(from.page.id)?.to ?? []).flatMap((id) => ({ from, to: placeOf(id) ?? null })));
  const gone = arrows.filter(({ to }) => to === null).length;
  const [width, height] = [Math.min(ACROSS, pages.length) * STEP_X, Math.ceil(pages.length / ACROSS) * STEP_Y];
  return (
    <Dialog title={`Pages of ${panel.name}`} onClose={onClose} wide>
      <p className="quiet mb-3 text-sm">
        {panel.hasBar ? 'The bar leads to every page. ' : 'There is no bar: pages are reached by buttons alone. '}
        Arrows are buttons that lead to a page; ⇄ turns to the next or the one before, ↩ goes back.
      </p>
      <div className="overflow-auto">
        <svg width={width} height={height} viewBox={`-8 -8 ${width} ${height}`} role="group" aria-label="Map of pages">
          <defs>
            <marker id="way" viewBox="0 0 8 8" refX={7} refY={4} markerWidth={7} markerHeight={7} orient="auto-start-reverse">
              <path d="M0 0L8 4L0 8z" fill="var(--color-secondary)" />
            </marker>
          </defs>
          {arrows.map(({ from, to }, i) =>
            to === null ? null : (
              <path key={i} d={curve(from, to)} fill="none" stroke="var(--color-secondary)" strokeWidth={1.5} markerEnd="url(#way)" />
            ),
          )}
          {places.map(({ page, x, y }) => {
            const { isTurned = false, goesBack = false } = ways.get(page.id) ?? {};
            const isLost = !panel.hasBar && !reached.has(page.id);
            return (
              <foreignObject key={page.id} x={x} y={y} width={WIDE} height={HIGH}>
                <button
                  type="button"
                  className={`flex h-full w-full items-center justify-center gap-1 rounded-md border px-2 text-[13px] font-semibold ${isLost ? 'border-warning is-look border-dashed' : 'border-base-300 bg-base-100'}`}
                  onClick={() => onPage(page.id)}
                >
                  {isLost ? <span>◑</span> : null}
                  <span className="truncate">{page.name}</span>
                  {page.id === start?.id ? <span className="quiet font-normal">start</span> : null}
                  {isTurned ? <span title="turns to the next or the one before">⇄</span> : null}
                  {goesBack ? <span title="goes back">↩</span> : null}
                </button>
              </foreignObject>
            );
          })}
        </svg>
      </div>
      {gone > 0 ? <p className="is-bad mt-2 text-sm">✕ {gone === 1 ? 'A button leads' : `${gone} buttons lead`} to a page that is gone.</p> : null}
      {!panel.hasBar && reached.size < pages.length ? (
        <p className="is-look mt-2 text-sm">◑ No button leads to {pages.flatMap(({ id, name }) => (reached.has(id) ? [] : name)).join(', ')}.</p>
      ) : null}
      <CloseRow onClose={onClose} />
    </Dialog>
  );
}

/** From edge to edge, bent so that a way there and a way back lie apart. */
function curve(from: Place, to: Place): string {
  const [ax, ay] = [from.x + WIDE / 2, from.y + HIGH / 2];
  const [bx, by] = [to.x + WIDE / 2, to.y + HIGH / 2];
  if (from === to) return `M${ax - 20} ${from.y} c-10 -26 50 -26 40 0`;
  const [sx, sy] = edge(ax, ay, bx, by);
  const [ex, ey] = edge(bx, by, ax, ay);
  const [mx, my] = [(sx + ex) / 2 + (ey - sy) * 0.16, (sy + ey) / 2 - (ex - sx) * 0.16];
  return `M${sx} ${sy} Q${mx} ${my} ${ex} ${ey}`;
}

/** Where the line from the middle of a page to another point leaves it. */
function edge(x: number, y: number, toX: number, toY: number): readonly [number, number] {
  const [dx, dy] = [toX - x, toY - y];
  const part = Math.min(dx === 0 ? Infinity : (WIDE / 2 + 3) / Math.abs(dx), dy === 0 ? Infinity : (HIGH / 2 + 3) / Math.abs(dy));
  return [x + dx * part, y + dy * part];
}
