import type { Tag } from '@/core/project/entities.ts';
import { withPoint, type PointSource } from '@/core/project/tagSource.ts';
import type { ProjectModel } from '@/model/projectModel.ts';

/** What a change of a tag's point sets. */
export function pointSet(model: Pick<ProjectModel, 'get'>, tagId: string, change: Partial<PointSource>): Partial<Tag> {
  const tag = model.get('tag', tagId);
  if (!tag) throw new Error('No such tag.');
  return withPoint(tag, change);
}
