/** How many elements of the project use a state list or a picture. */
import { statesOf } from '@/core/panel/elementText.ts';
import type { State } from '@/core/panel/states.ts';
import { picturesUsedBy } from '@/core/panel/uses.ts';
import type { Element } from '@/core/project/entities.ts';

interface Holding {
  readonly elements: Iterable<Element>;
  stateList(id: string): { readonly states: readonly State[] } | null;
}

export function usesOfStates(project: Holding, stateListId: string): number {
  return [...project.elements].filter(({ settings }) => settings.stateListId === stateListId).length;
}

/** It may be shown: as that of the element, or of one of its states. */
export function usesOfPicture(project: Holding, pictureId: string): number {
  const statesIn = (id: string): readonly State[] | null => project.stateList(id)?.states ?? null;
  return [...project.elements].filter((element) => picturesUsedBy(element, statesOf(element, { statesIn })).includes(pictureId)).length;
}
