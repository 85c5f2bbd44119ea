'use client';
/** The panels of the project, to open one full screen: where a phone or panel arrives. */
import { LiveProvider, useChannelState, useProject } from '../live/LiveContext.tsx';

export function PanelChooser() {
  return (
    <LiveProvider needsTags waiting={<p className="quiet grid h-dvh place-items-center">Opening …</p>}>
      <Choices />
    </LiveProvider>
  );
}

function Choices() {
  const project = useProject();
  const channel = useChannelState();
  return (
    <main className="mx-auto flex max-w-md flex-col gap-3 p-6">
      <h1 className="text-lg font-semibold">{project.project.name}</h1>
      {channel === 'silent' ? (
        <p className="is-bad" role="alert">
          ✕ The server does not answer.
        </p>
      ) : null}
      {project.panels.length === 0 ? <p className="quiet">There is no panel yet. Make one in the step Panels.</p> : null}
      {project.panels.map((panel) => (
        <a key={panel.id} href={`/panel/${panel.id}`} className="card-flat hover:border-primary block p-4 font-medium">
          {panel.name} <span className="quiet font-normal">· {project.pagesOf(panel.id).length} pages</span>
        </a>
      ))}
    </main>
  );
}
