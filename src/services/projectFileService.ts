/** Exports the whole project to a file, and imports one as a single change that can be undone. */
import type { Applied } from '@/core/project/snapshot.ts';
import { inSlices } from '@/core/inSlices.ts';
import { comparingProject, readingProjectFile, writingProjectFile, type Difference } from '@/core/projectFile/projectFile.ts';
import type { Snapshot } from '@/core/project/snapshot.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import type { CheckService } from './checkService.ts';
import type { ProjectService } from './projectService.ts';

export interface ProjectFilePreview {
  readonly name: string;
  readonly exportedAt: string;
  readonly differences: readonly Difference[];
  readonly newProofs: number;
}

export class ProjectFileService {
  readonly #model: ProjectModel;
  readonly #projects: ProjectService;
  readonly #checks: CheckService;
  readonly #snapshot: () => Snapshot;

  constructor(model: ProjectModel, projects: ProjectService, checks: CheckService, snapshot: () => Snapshot) {
    this.#model = model;
    this.#projects = projects;
    this.#checks = checks;
    this.#snapshot = snapshot;
  }

  async exportFile(): Promise<{ readonly name: string; readonly zip: Uint8Array }> {
    const snapshot = this.#snapshot();
    return { name: snapshot.project.name, zip: await inSlices(writingProjectFile(snapshot, this.#projects.time)) };
  }

  /** What importing the file would do; nothing is changed. */
  async preview(zip: Uint8Array): Promise<Result<ProjectFilePreview>> {
    const file = await inSlices(readingProjectFile(zip));
    if (!file.ok) return file;
    const { differences, changes } = await inSlices(comparingProject(this.#snapshot(), file.value));
    const planned = await this.#model.planInSlices(changes);
    if (!planned.ok) return planned;
    const { name, exportedAt, proofs } = file.value;
    return ok({ name, exportedAt, differences, newProofs: proofs.filter((p) => !this.#checks.knows(p)).length });
  }

  /** All or nothing. Proofs that come with it are added to the records, which are never undone. */
  async importFile(zip: Uint8Array, commandId: string): Promise<Result<Applied>> {
    const file = await inSlices(readingProjectFile(zip));
    if (!file.ok) return file;
    const { changes } = await inSlices(comparingProject(this.#snapshot(), file.value));
    const label = `project ${file.value.name} imported`.slice(0, 200);
    const done = changes.length > 0 ? await this.#projects.execute({ id: commandId, label, changes }, 'engineer') : null;
    if (done && !done.ok) return done;
    const news = file.value.proofs.filter((p) => !this.#checks.knows(p));
    for (const proof of news) await this.#checks.addProof(proof);
    if (!done && news.length === 0) return fail('nothing-new', 'The project is the same as the file already.');
    return done ?? ok({ revision: this.#projects.revision, label, changes: [] });
  }
}
