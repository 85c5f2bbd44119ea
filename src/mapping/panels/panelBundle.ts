/** A panel as it is sent to a glass: its own pages, elements, state lists and tags, and nothing else of the project. */
import type { Element, Page, Panel } from '@/core/project/entities.ts';
import { panelTag, sceneTag, type PanelTag } from '@/core/panel/panelTag.ts';
import { byHeight, type Scene, type ScenePicture, type SceneTag } from '@/core/panel/scene.ts';
import { statesOf } from '@/core/panel/elementText.ts';
import { picturesUsedBy, tagsUsedBy } from '@/core/panel/uses.ts';
import type { State } from '@/core/panel/states.ts';

export interface PanelBundle {
  /** The page whose elements these are, while those of the others are still to come; null for all. */
  readonly only: string | null;
  readonly panel: Panel;
  readonly pages: readonly Page[];
  readonly elements: readonly Element[];
  readonly tags: readonly PanelTag[];
  readonly stateLists: Readonly<Record<string, readonly State[]>>;
  readonly pictures: Readonly<Record<string, ScenePicture>>;
}

/** @param only a page, for what it needs alone */
export function bundleOf(scene: Scene, only: string | null = null): PanelBundle {
  const elements = scene.pages.flatMap(({ id }) => (only === null || id === only ? scene.elementsOn(id) : []));
  const tags = new Map<string, PanelTag>();
  const stateLists: Record<string, readonly State[]> = {};
  const pictures: Record<string, ScenePicture> = {};
  for (const element of elements) {
    for (const id of tagsUsedBy(element)) {
      const tag = tags.has(id) ? null : scene.tag(id);
      if (tag) tags.set(id, panelTag(tag));
    }
    const { stateListId } = element.settings;
    const states = typeof stateListId === 'string' ? scene.statesIn(stateListId) : null;
    if (typeof stateListId === 'string' && states) stateLists[stateListId] = states;
    for (const id of picturesUsedBy(element, statesOf(element, { units: [], statesIn: scene.statesIn }))) {
      const picture = scene.picture(id);
      if (picture) pictures[id] = { name: picture.name, width: picture.width, height: picture.height, digest: picture.digest };
    }
  }
  return { only, panel: scene.panel, pages: scene.pages, elements, tags: [...tags.values()], stateLists, pictures };
}

/** The inverse of {@link bundleOf}. */
export function sceneIn({ only, panel, pages, elements, tags, stateLists, pictures }: PanelBundle): Scene {
  const byPage = new Map<string, Element[]>(pages.map(({ id }) => [id, []]));
  for (const element of elements) byPage.get(element.pageId)?.push(element);
  for (const on of byPage.values()) on.sort(byHeight);
  const byId = new Map<string, SceneTag>();
  for (const tag of tags) {
    const made = sceneTag(tag);
    byId.set(tag.id, made.ok ? made.value : { id: tag.id, name: tag.name, def: null, problem: made.problem.message, canWrite: false });
  }
  return {
    panel,
    pages,
    isHere: (pageId) => only === null || pageId === only,
    elementsOn: (pageId) => byPage.get(pageId) ?? [],
    tag: (id) => byId.get(id) ?? null,
    statesIn: (id) => stateLists[id] ?? null,
    picture: (id) => pictures[id] ?? null,
  };
}
