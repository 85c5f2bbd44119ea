/** A panel of a project as it is drawn: what its elements use, with effective settings. */
import { hasLevels } from '@/core/panel/levels.ts';
import { shownBy } from '@/core/panel/panelAlarms.ts';
import type { Alarm, Device, Element, Link, Operator, Page, Panel, PanelWord, Picture, StateList, Tag } from '@/core/project/entities.ts';
import { AS_WRITTEN, byHeight, isOfGlass, type Scene, type SceneTag } from '@/core/panel/scene.ts';
import type { SceneSubjects } from '@/core/panel/subjects.ts';
import { tagsUsedBy } from '@/core/panel/uses.ts';
import type { Wording } from '@/core/panel/wording.ts';
import type { Result } from '@/core/result.ts';
import { subjectsOf, type SubjectsProject } from './subjectTags.ts';
import { simulatedOn } from './simulatedOn.ts';
import type { EffectiveSignal } from '../effective.ts';

export interface PanelsProject extends SubjectsProject {
  panel(id: string): Panel | null;
  pagesOf(panelId: string): readonly Page[];
  elementsOn(pageId: string): readonly Element[];
  wordsOf(panelId: string): readonly PanelWord[];
  tag(id: string): Tag | null;
  effective(tagId: string): Result<EffectiveSignal>;
  stateList(id: string): StateList | null;
  picture(id: string): Picture | null;
  wording(code: string): Wording;
  readonly operators: readonly Operator[];
  readonly alarms: readonly Alarm[];
  readonly links: Iterable<Link>;
  device(id: string): Device | null;
}

/** Null for a panel that is gone. */
export function sceneOf(project: PanelsProject, panelId: string): Scene | null {
  const panel = project.panel(panelId);
  if (!panel) return null;
  const elements = new Map<string, readonly Element[]>();
  const pages = project.pagesOf(panelId);
  const subjects = new Map<string, SceneSubjects | null>();
  const elementsOn = (pageId: string): readonly Element[] => {
    let found = elements.get(pageId);
    if (!found) elements.set(pageId, (found = [...project.elementsOn(pageId)].sort(byHeight)));
    return found;
  };
  /** By what all pages of a list use: one that is chosen is chosen for all of them. */
  const subjectsIn = (listId: string): SceneSubjects | null => {
    const users = pages.filter(({ subjectListId }) => subjectListId === listId);
    return subjectsOf(project, listId, new Set(users.flatMap(({ id }) => elementsOn(id).flatMap(tagsUsedBy))));
  };
  const subjectsOn: Scene['subjectsOn'] = (pageId) => {
    const listId = pages.find(({ id }) => id === pageId)?.subjectListId ?? null;
    if (listId === null) return null;
    let found = subjects.get(listId);
    if (found === undefined) subjects.set(listId, (found = subjectsIn(listId)));
    return found;
  };
  return {
    panel,
    pages,
    isHere: () => true,
    elementsOn,
    subjectsOn,
    simulated: simulatedOn(
      project,
      () => pages.flatMap(({ id }) => elementsOn(id)),
      () => pages.flatMap(({ id }) => subjectsOn(id) ?? []),
    ),
    words: project
      .wordsOf(panelId)
      .filter(isOfGlass)
      .map(({ id, role, tagId, elementId }) => ({ id, role, tagId, elementId })),
    people: hasLevels({ pages, elementsOn })
      ? project.operators.map(({ id, name }) => ({ id, name })).sort((a, b) => a.name.localeCompare(b.name, 'en'))
      : [],
    alarms: project.alarms.length === 0 ? [] : project.alarms.filter(shownBy(pages.flatMap(({ id }) => elementsOn(id)))),
    tag: (id) => sceneTagOf(project, id),
    statesIn: (id) => project.stateList(id)?.states ?? null,
    picture: (id) => project.picture(id),
    wording: (code) => project.wording(code),
    ...AS_WRITTEN,
  };
}

const made = new WeakMap<object, SceneTag>();

/** The same object as long as the tag's settings are the same, so that what is drawn of it need not be drawn anew. */
export function sceneTagOf(project: Pick<PanelsProject, 'tag' | 'effective'>, id: string): SceneTag | null {
  const tag = project.tag(id);
  if (!tag) return null;
  const signal = project.effective(id);
  const known = made.get(signal);
  if (known?.name === tag.name) return known;
  const fresh: SceneTag = signal.ok
    ? { id, name: tag.name, def: signal.value.def, problem: '', canWrite: signal.value.writable }
    : { id, name: tag.name, def: null, problem: signal.problem.message, canWrite: false };
  made.set(signal, fresh);
  return fresh;
}
