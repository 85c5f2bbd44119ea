'use client';
/** A page while it is arranged: elements are moved and sized on the grid by mouse, or by the fields of their settings. */
import GridLayout, { getCompactor, useContainerWidth, type Layout } from 'react-grid-layout';
import 'react-grid-layout/css/styles.css';
import { PAGE_COLUMNS } from '@/core/project/kinds/element.ts';
import type { Element, Page } from '@/core/project/entities.ts';
import { useChange, useProject } from '../live/LiveContext.tsx';
import { selectTag } from '../live/selection.ts';
import { PanelElement } from './PanelElement.tsx';
import { ROW_PX } from './PanelScreen.tsx';

const STAYS_WHERE_PUT = getCompactor(null, false, true);

export function PageCanvas({
  page,
  selected,
  onSelect,
}: {
  readonly page: Page;
  readonly selected: string | null;
  readonly onSelect: (id: string) => void;
}) {
  const project = useProject();
  const change = useChange();
  const { width, containerRef, mounted } = useContainerWidth();
  const elements = project.elementsOn(page.id);
  const layout = elements.map((e) => ({ i: e.id, x: e.x, y: e.y, w: e.w, h: e.h }));
  const keep = (next: Layout): void => {
    const moved = next.filter((place) => {
      const e = elements.find((one) => one.id === place.i);
      return e && (e.x !== place.x || e.y !== place.y || e.w !== place.w || e.h !== place.h);
    });
    if (moved.length > 0)
      void change(
        moved.length === 1 ? `element moved on ${page.name}` : `elements moved on ${page.name}`,
        moved.map(({ i, x, y, w, h }) => ({ kind: 'element', id: i, set: { x, y, w, h } })),
      );
  };
  return (
    <div ref={containerRef} className="card-flat min-h-64 bg-[radial-gradient(var(--color-base-300)_1px,transparent_1px)] bg-[size:24px_24px]">
      {mounted ? (
        <GridLayout
          width={width}
          layout={layout}
          gridConfig={{ cols: PAGE_COLUMNS, rowHeight: ROW_PX, margin: [8, 8], containerPadding: [8, 8], maxRows: 200 }}
          dragConfig={{ enabled: true, bounded: true, threshold: 4 }}
          resizeConfig={{ enabled: true, handles: ['se'] }}
          compactor={STAYS_WHERE_PUT}
          onLayoutChange={keep}
        >
          {elements.map((element) => (
            <div
              key={element.id}
              role="group"
              tabIndex={0}
              aria-current={selected === element.id || undefined}
              aria-label={`${element.label || element.kind}, column ${element.x + 1}, row ${element.y + 1}`}
              className={`cursor-move ${selected === element.id ? 'outline-primary rounded-md outline-2' : ''}`}
              onMouseDown={() => choose(element, onSelect)}
              onFocus={() => choose(element, onSelect)}
            >
              <div inert className="h-full">
                <PanelElement element={element} live={false} />
              </div>
            </div>
          ))}
        </GridLayout>
      ) : null}
      {elements.length === 0 ? <p className="quiet p-8 text-center">An empty page: choose above what to put on it.</p> : null}
    </div>
  );
}

function choose(element: Element, onSelect: (id: string) => void): void {
  onSelect(element.id);
  if (element.tagId !== null) selectTag(element.tagId);
}
