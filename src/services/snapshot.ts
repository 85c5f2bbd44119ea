/** The project and its state as a page needs them at first. */
import type { Status } from '@/core/live/status.ts';
import { listsOf, type Snapshot } from '@/core/project/snapshot.ts';
import { addedManifests } from '@/drivers/descriptions.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import type { Engine } from '@/runtime/engine.ts';
import type { WriteGuard } from '@/runtime/writeGuard.ts';
import type { CheckService } from './checkService.ts';
import type { HoldService } from './holdService.ts';
import type { ProjectService } from './projectService.ts';
import type { TroubleService } from './troubleService.ts';

export function snapshotOf(model: ProjectModel, projects: ProjectService, checks: CheckService): Snapshot {
  const project = model.all('project')[0];
  if (!project) throw new Error('A loaded model has its project.');
  return {
    revision: projects.revision,
    project,
    ...listsOf((kind) => model.all(kind)),
    proofs: checks.proofs(),
    drivers: addedManifests(),
  };
}

export function statusOf(engine: Engine, guard: WriteGuard, holds: HoldService, troubles: TroubleService): Status {
  return {
    serverTime: engine.clock.now(),
    values: engine.live.counts,
    links: engine.linkStatus(),
    devices: engine.deviceStatus(),
    unlocked: guard.all(),
    notReleased: holds.notReleased,
    troubles: troubles.all,
  };
}
