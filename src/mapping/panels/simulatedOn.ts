/** Which devices of a panel are none: a panel that shows simulated values has to say so. */
import type { Element, Tag } from '@/core/project/entities.ts';
import type { SceneSubjects } from '@/core/panel/subjects.ts';
import { tagsUsedBy } from '@/core/panel/uses.ts';
import { deviceIdOf } from '@/core/project/tagSource.ts';
import type { SimulatedOn } from '@/core/panel/scene.ts';

interface SimulatedProject {
  tag(id: string): Tag | null;
  device(id: string): { readonly name: string; readonly isSimulated: boolean } | null;
}

/** @param subjects of its pages: whatever is chosen is shown some time */
export function simulatedOn(project: SimulatedProject, elements: () => Iterable<Element>, subjects: () => Iterable<SceneSubjects>): SimulatedOn {
  const tagIds = new Set([...elements()].flatMap(tagsUsedBy));
  for (const { choices } of subjects()) for (const { tags } of choices) for (const id of tags.values()) if (id !== null) tagIds.add(id);
  const deviceIds = new Set<string>();
  for (const id of tagIds) {
    const tag = project.tag(id);
    const deviceId = tag && deviceIdOf(tag);
    if (deviceId) deviceIds.add(deviceId);
  }
  const devices = [...deviceIds].flatMap((id) => project.device(id) ?? []);
  const names = devices.filter(({ isSimulated }) => isSimulated).map(({ name }) => name);
  return { names: names.sort((a, b) => a.localeCompare(b, 'en')), isAll: names.length > 0 && names.length === devices.length };
}
