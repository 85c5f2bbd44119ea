/** The project and its state as a page needs them at first. */
import type { DrivenValue, Isolation } from '@/core/check/driving/drivenValue.ts';
import type { Status, Trouble } from '@/core/live/status.ts';
import { listsOf, type FirstSnapshot, type ListedKind, type Snapshot } from '@/core/project/snapshot.ts';
import { addedManifests } from '@/drivers/descriptions.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import type { Proofs } from './checks/proofs.ts';
import type { PanelWork } from './panelWork.ts';
import type { ProjectService } from './projectService.ts';

export function snapshotOf(model: ProjectModel, projects: ProjectService, proofs: Proofs): Snapshot {
  const project = model.all('project')[0];
  if (!project) throw new Error('A loaded model has its project.');
  return {
    revision: projects.revision,
    project,
    ...listsOf((kind) => model.all(kind)),
    proofs: proofs.all(),
    drivers: addedManifests(),
  };
}

/** Tags above which a page gets them after its first screen. */
const FIRST_TAGS = 2000;

/** The same without its tags, where there are many. */
export function firstOf(model: ProjectModel, projects: ProjectService, proofs: Proofs): FirstSnapshot {
  const count = model.count('tag');
  if (count <= FIRST_TAGS) return snapshotOf(model, projects, proofs);
  const project = model.all('project')[0];
  if (!project) throw new Error('A loaded model has its project.');
  const isLater = (kind: ListedKind): boolean => kind === 'tag' || kind === 'scale' || kind === 'member';
  const on = Object.fromEntries(model.all('device').map(({ id }) => [id, model.tagCountOn(id)]));
  return {
    revision: projects.revision,
    project,
    ...listsOf((kind) => (isLater(kind) ? [] : model.all(kind))),
    proofs: [],
    drivers: addedManifests(),
    coming: { count, on },
  };
}

export function statusOf(
  { engine, guard, holds, exchange, kept }: Pick<PanelWork, 'engine' | 'guard' | 'holds' | 'exchange' | 'kept'>,
  troubles: { readonly all: readonly Trouble[] },
  driving: { readonly values: readonly DrivenValue[]; readonly isolated: readonly Isolation[] },
): Status {
  return {
    serverTime: engine.clock.now(),
    values: engine.live.counts,
    links: engine.linkStatus(),
    devices: engine.deviceStatus(),
    unlocked: guard.all(),
    notReleased: holds.notReleased,
    driven: driving.values,
    isolated: driving.isolated,
    troubles: troubles.all,
    panels: exchange.all(),
    kept: kept(),
  };
}
