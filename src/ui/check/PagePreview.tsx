'use client';
/** The panel page that shows the tag, really drawn here, so that a check has something to compare with. */
import { useProject } from '../live/LiveContext.tsx';

const WIDTH = 1000;
const SCALE = 0.47;

export function PagePreview({ tagId }: { readonly tagId: string | null }) {
  const project = useProject();
  const element = tagId === null ? null : (project.elementsOf(tagId)[0] ?? null);
  const page = element ? project.page(element.pageId) : null;
  if (!page)
    return tagId === null ? null : (
      <p className="card-flat quiet p-4">No panel page shows this tag, so only the value itself can be checked. Put it on a page in Panels.</p>
    );
  const rows = Math.max(...project.elementsOn(page.id).map((e) => e.y + e.h), 4);
  const height = 60 + rows * 54;
  return (
    <section aria-label="Page that shows the tag" className="card-flat overflow-hidden p-2">
      <h2 className="mb-1 font-semibold">
        {page.name} <span className="quiet font-normal">as it is drawn now</span>
      </h2>
      <div style={{ height: height * SCALE, overflow: 'hidden' }}>
        <iframe
          title={`Panel page ${page.name}`}
          src={`/panel/${page.panelId}?page=${page.id}&embedded=1`}
          style={{ width: WIDTH, height, transform: `scale(${SCALE})`, transformOrigin: 'top left', border: 0 }}
        />
      </div>
    </section>
  );
}
