'use client';
/** The panel page that shows the tag, really drawn here, so that a check has something to compare with. */
import { ELEMENTS } from '@/core/panel/kinds.ts';
import type { Page, Panel } from '@/core/project/entities.ts';
import { useProject } from '../live/LiveContext.tsx';

/** As wide as it is drawn here. */
const WIDTH = 470;

export function PagePreview({ tagId }: { readonly tagId: string | null }) {
  const project = useProject();
  const element = tagId === null ? null : (project.elementsOf(tagId).find(({ kind }) => ELEMENTS[kind].showsText) ?? null);
  const page = element ? project.page(element.pageId) : null;
  const panel = element ? project.panelOf(element) : null;
  if (!page || !panel)
    return tagId === null ? null : (
      <p className="card-flat quiet p-4">No panel page shows this tag, so only the value itself can be checked. Put it on a page in Panels.</p>
    );
  return <Drawn page={page} panel={panel} label="Page that shows the tag" said="as it is drawn now" />;
}

/** A page that is drawn for a run that goes by itself. */
export function DrawnForRun({ pageId }: { readonly pageId: string }) {
  const project = useProject();
  const page = project.page(pageId);
  const panel = page && project.panel(page.panelId);
  return page && panel ? (
    <Drawn key={pageId} page={page} panel={panel} label="Page that is checked" said="is drawn, and compared with the wire" />
  ) : null;
}

function Drawn({ page, panel, label, said }: { readonly page: Page; readonly panel: Panel; readonly label: string; readonly said: string }) {
  // As wide as the panel itself: a narrower one would be taken for a phone.
  const scale = WIDTH / panel.width;
  return (
    <section aria-label={label} className="card-flat overflow-hidden p-2">
      <h2 className="mb-1 font-semibold">
        {page.name} <span className="quiet font-normal">{said}</span>
      </h2>
      <div style={{ height: panel.height * scale, overflow: 'hidden' }}>
        <iframe
          title={`Panel page ${page.name}`}
          src={`/panel/${page.panelId}?page=${page.id}&embedded=1`}
          style={{ width: Math.max(panel.width, 640), height: panel.height, transform: `scale(${scale})`, transformOrigin: 'top left', border: 0 }}
        />
      </div>
    </section>
  );
}
