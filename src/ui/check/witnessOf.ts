/** The control channel that tells a tag's value without our mapping: its group's, or its device's; empty for none. */
import type { Tag } from '@/core/project/entities.ts';
import type { ProjectView } from '../live/project.ts';

export function witnessOf(project: ProjectView, tag: Tag): string {
  return project.inheritedBy(tag.groupId).witnessUrl ?? project.deviceOf(tag)?.witnessUrl ?? '';
}
