'use client';
/** The panels of the project, to open one full screen: where a phone or panel arrives. */
import type { ListedPanel } from '@/core/panel/scene.ts';
import { useLoaded } from '../parts/useLoaded.ts';

export function PanelChooser() {
  const loaded = useLoaded<{ readonly panels: readonly ListedPanel[] }>('/panels');
  return (
    <main className="mx-auto flex max-w-md flex-col gap-3 p-6">
      <h1 className="text-lg font-semibold">Panels</h1>
      {loaded.problem ? (
        <p className="is-bad" role="alert">
          ✕ {loaded.problem}
        </p>
      ) : null}
      {loaded.value?.panels.length === 0 ? <p className="quiet">There is no panel yet. Make one in the step Panels.</p> : null}
      {loaded.value?.panels.map((panel) => (
        <a key={panel.id} href={`/panel/${panel.id}`} className="card-flat hover:border-primary block p-4 font-medium">
          {panel.name} <span className="quiet font-normal">· {panel.pages.length === 1 ? '1 page' : `${panel.pages.length} pages`}</span>
        </a>
      ))}
    </main>
  );
}
