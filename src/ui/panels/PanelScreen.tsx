'use client';
/** A panel at its own address, full screen and live. It tells checks what it has really drawn. */
import { useEffect, type CSSProperties } from 'react';
import { Toaster } from 'sonner';
import { LiveProvider, useChannelState, useLive, useProject, useStatus } from '../live/LiveContext.tsx';
import type { Drawn } from '../live/liveClient.ts';
import { Boundary } from '../parts/Boundary.tsx';
import { ChangedBack } from '../parts/ChangedBack.tsx';
import { NotReleasedAlarm } from '../parts/NotReleasedAlarm.tsx';
import { TroublesBar } from '../parts/TroublesBar.tsx';
import { PanelElement } from './PanelElement.tsx';

export const ROW_PX = 46;

export function PanelScreen({ panelId, pageId, embedded }: { readonly panelId: string; readonly pageId: string | null; readonly embedded: boolean }) {
  return (
    <LiveProvider needsTags waiting={<p className="quiet grid h-dvh place-items-center">Opening the panel …</p>}>
      <NotReleasedAlarm canAct={false} />
      <TroublesBar />
      <Screen panelId={panelId} pageId={pageId} embedded={embedded} />
      {embedded ? null : <ChangedBack />}
      <Toaster position="top-center" />
    </LiveProvider>
  );
}

function Screen({ panelId, pageId, embedded }: { readonly panelId: string; readonly pageId: string | null; readonly embedded: boolean }) {
  const project = useProject();
  const channel = useChannelState();
  const live = useLive();
  const panel = project.panel(panelId);
  const pages = project.pagesOf(panelId);
  const page = pages.find((p) => p.id === pageId) ?? pages[0];
  useEffect(() => {
    if (!page) return;
    return live.answerDrawn((tagId) => readDrawn(project.elementsOf(tagId).flatMap((e) => (e.pageId === page.id ? e.id : []))));
  }, [live, project, page]);
  if (!panel || !page)
    return (
      <div className="grid h-dvh place-items-center p-6 text-center">
        <p>{panel ? 'This panel has no page yet.' : 'There is no such panel (any more).'} Arrange it in the step Panels.</p>
      </div>
    );
  const elements = project.elementsOn(page.id);
  return (
    <div className="flex min-h-dvh flex-col p-2" data-panel={panel.name} data-channel={channel}>
      <header className="flex items-center gap-3 px-1 pb-2">
        <h1 className="font-semibold">{page.name}</h1>
        <nav className="flex gap-1" aria-label="Pages">
          {pages.length > 1
            ? pages.map((p) => (
                <a
                  key={p.id}
                  href={`/panel/${panelId}?page=${p.id}${embedded ? '&embedded=1' : ''}`}
                  aria-current={p.id === page.id ? 'page' : undefined}
                  className={`btn btn-sm ${p.id === page.id ? 'btn-primary' : 'btn-ghost'}`}
                >
                  {p.name}
                </a>
              ))
            : null}
        </nav>
        <span className="flex-1" />
        {channel === 'silent' ? (
          <strong className="is-bad" role="alert">
            ✕ The server does not answer: values are not live
          </strong>
        ) : (
          <WriteState />
        )}
      </header>
      <main
        inert={embedded}
        // On a phone the things stand two abreast, in the order in which they stand on the page.
        className="grid flex-1 auto-rows-[minmax(92px,auto)] grid-cols-2 content-start gap-2 text-[length:clamp(12px,1.25vw,17px)] max-sm:text-[14px] sm:auto-rows-[46px] sm:grid-cols-12"
      >
        {elements.map((element) => (
          <div
            key={element.id}
            className="sm:[grid-column:var(--column)] sm:[grid-row:var(--row)]"
            style={
              {
                '--column': `${element.x + 1} / span ${element.w}`,
                '--row': `${element.y + 1} / span ${element.h}`,
              } as CSSProperties
            }
          >
            <Boundary name={element.label || element.kind} isSmall>
              <PanelElement element={element} live={!embedded} />
            </Boundary>
          </div>
        ))}
        {elements.length === 0 ? <p className="quiet col-span-12">Nothing on this page yet.</p> : null}
      </main>
    </div>
  );
}

function WriteState() {
  const unlocked = useStatus()?.unlocked ?? [];
  return unlocked.length === 0 ? <span className="quiet text-xs">writing locked</span> : <span className="is-look text-xs">writing open</span>;
}

/** The page's own text, as a person sees it, with the sample it was drawn from. */
function readDrawn(elementIds: readonly string[]): readonly Drawn[] {
  return elementIds.flatMap((elementId) => {
    const drawn = document.querySelector<HTMLElement>(`[data-element="${CSS.escape(elementId)}"]`);
    return drawn
      ? [
          {
            elementId,
            text: drawn.innerText,
            sample: Number(drawn.dataset.sample ?? 0),
            visibility: document.visibilityState === 'visible' ? 'visible' : 'hidden',
          } as const,
        ]
      : [];
  });
}
