import type { Tag } from '@/core/project/entities.ts';
import type { ProjectModel } from '@/model/projectModel.ts';

/** The tag of a name, wherever it stands; for projects that have each name once. */
export function tagNamed(model: Pick<ProjectModel, 'all'>, name: string): Tag | null {
  return model.all('tag').find((tag) => tag.name === name) ?? null;
}
