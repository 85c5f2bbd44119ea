/** A project file as it was sent, made into a model; what does not hold is refused before anything that runs is touched. */
import { panelStart } from '@/mapping/hosting/panelStart.ts';
import { projectDigest } from '@/mapping/hosting/panelProject.ts';
import { readProjectFile, type PictureData } from '@/core/projectFile/projectFile.ts';
import type { Hosted } from '@/core/hosting/messages.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import { ProjectModel } from '@/model/projectModel.ts';

export interface LoadedProject {
  readonly model: ProjectModel;
  readonly pictures: readonly PictureData[];
  readonly about: Pick<Hosted, 'digest' | 'projectName' | 'panelId' | 'panelName' | 'tags' | 'pages'>;
}

export function loadProject(zip: Uint8Array, panelId: string): Result<LoadedProject> {
  const read = readProjectFile(zip);
  if (!read.ok) return read;
  const { entities, pictures, name } = read.value;
  const panel = entities.find(({ kind, entity }) => kind === 'panel' && entity.id === panelId);
  if (!panel) return fail('no-panel', 'The project that was sent does not have the panel.', 'Send it again.');
  const model = new ProjectModel();
  const planned = model.plan(entities.map(({ kind, entity: { id, ...set } }) => ({ kind, id, set })));
  if (!planned.ok) return planned;
  model.apply(planned.value);
  const start = panelStart(model.get('panel', panelId), model.pagesOf(panelId));
  if (!start.ok) return start;
  return ok({
    model,
    pictures,
    about: {
      digest: projectDigest(entities),
      projectName: name,
      panelId,
      panelName: model.get('panel', panelId)?.name ?? '',
      tags: model.count('tag'),
      pages: model.pagesOf(panelId).length,
    },
  });
}
