/** A panel as it is sent to a glass: its own pages, elements, state lists and tags, and nothing else of the project. */
import type { Element, Page, Panel } from '@/core/project/entities.ts';
import { fromColumns, toColumns, type JsonColumns } from '@/core/jsonColumns.ts';
import { panelTag, sceneTag, type PanelTag } from '@/core/panel/panelTag.ts';
import { AS_WRITTEN, byHeight, isReadByGlass, type Scene, type ScenePicture, type SceneTag, type SceneWord } from '@/core/panel/scene.ts';
import { statesOf } from '@/core/panel/elementText.ts';
import { picturesUsedBy, tagsUsedBy } from '@/core/panel/uses.ts';
import type { SceneSubjects, SubjectChoice } from '@/core/panel/subjects.ts';
import type { State } from '@/core/panel/states.ts';
import { textsOf } from '@/core/panel/sceneWording.ts';
import { plainSource, type Wording } from '@/core/panel/wording.ts';
import { FUNCTIONS } from '@/core/expression/functions.ts';
import { stepsOf } from '@/core/scaling/scale.ts';
import { takeUnits, unitsFor, type SentUnits } from '@/core/units/sentUnits.ts';

export interface PanelBundle {
  /** The page whose elements these are, while those of the others are still to come; null for all. */
  readonly only: string | null;
  readonly panel: Panel;
  readonly pages: readonly Page[];
  /** {@link SentElement}s. */
  readonly elements: JsonColumns;
  readonly words: readonly SceneWord[];
  readonly people: Scene['people'];
  readonly simulated: Scene['simulated'];
  readonly subjects: readonly SentSubjects[];
  /** {@link PanelTag}s. */
  readonly tags: JsonColumns;
  readonly stateLists: Readonly<Record<string, readonly State[]>>;
  readonly pictures: Readonly<Record<string, ScenePicture>>;
  /** What its texts are in its other languages, by code. */
  readonly wordings: Readonly<Record<string, Readonly<Record<string, string>>>>;
  /** What its elements and tags may ask of units. */
  readonly units: SentUnits;
}

/** Pages and tags by their place among those sent: of a thousand elements ids would be most of what is sent. */
interface SentElement extends Omit<Element, 'pageId' | 'tagId'> {
  readonly pageId: number;
  /** Its id where the tag is gone. */
  readonly tagId: number | string | null;
}

/** Like things, their tags by their place among those sent, in the order of the pattern's. */
interface SentSubjects extends Omit<SceneSubjects, 'choices'> {
  readonly pattern: readonly number[];
  readonly choices: readonly (Omit<SubjectChoice, 'tags'> & { readonly tags: readonly (number | null)[] })[];
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
    for (const id of picturesUsedBy(element, statesOf(element, scene))) {
      const picture = scene.picture(id);
      if (picture) pictures[id] = { name: picture.name, width: picture.width, height: picture.height, digest: picture.digest };
    }
  }
  // Of keys a glass needs no tag: it says that they are pressed.
  for (const { role, tagId } of scene.words) {
    const tag = isReadByGlass(role) ? scene.tag(tagId) : null;
    if (tag) tags.set(tagId, panelTag(tag));
  }
  const here = only === null ? null : (scene.subjectsOn(only)?.id ?? '');
  const lists = new Map(
    scene.pages.flatMap(({ id }) => {
      const subjects = scene.subjectsOn(id);
      // A subject of a page to come can be chosen already.
      return subjects ? [[subjects.id, here === null || here === subjects.id ? subjects : withoutTags(subjects)]] : [];
    }),
  );
  for (const { choices, tagId } of lists.values())
    for (const id of [tagId, ...choices.flatMap((choice) => [...choice.tags.values()])]) {
      const tag = id === null || tags.has(id) ? null : scene.tag(id);
      if (tag) tags.set(tag.id, panelTag(tag));
    }
  const units = unitsFor(unitsIn(scene.panel, elements, tags.values()));
  const [pageAt, tagAt] = [placesOf(scene.pages), placesOf([...tags.values()])];
  const sent = elements.map((element): SentElement => {
    const { pageId, tagId } = element;
    return { ...element, pageId: pageAt.get(pageId) ?? -1, tagId: tagId === null ? null : (tagAt.get(tagId) ?? tagId) };
  });
  return {
    only,
    panel: scene.panel,
    pages: scene.pages,
    elements: toColumns(sent),
    words: scene.words,
    people: scene.people,
    simulated: scene.simulated,
    subjects: [...lists.values()].map((list) => sentSubjects(list, tagAt)),
    tags: toColumns([...tags.values()]),
    stateLists,
    pictures,
    wordings: wordingsIn(scene, only),
    units,
  };
}

const isText = (scene: Scene, tagId: string): boolean => scene.tag(tagId)?.def?.type.kind === 'text';

/** Of the texts that are sent, and those that controllers may send. */
function wordingsIn(scene: Scene, only: string | null): PanelBundle['wordings'] {
  const [, ...others] = scene.panel.languages;
  if (others.length === 0) return {};
  const shown = only === null ? scene : { ...scene, pages: scene.pages.filter(({ id }) => id === only) };
  const own = new Set([...textsOf(shown).map(({ source }) => source), ...scene.pages.map(({ name }) => plainSource(name))]);
  // What a controller sends may be any of them.
  const isOpen = shown.pages.some(({ id }) => scene.elementsOn(id).some((element) => tagsUsedBy(element).some((tag) => isText(scene, tag))));
  return Object.fromEntries(
    others.map(({ code }) => [code, Object.fromEntries([...scene.wording(code)].filter(([source]) => isOpen || own.has(source)))]),
  );
}

function withoutTags({ choices, ...list }: SceneSubjects): SceneSubjects {
  return { ...list, choices: choices.map((choice) => ({ ...choice, tags: new Map() })) };
}

function sentSubjects({ choices, ...list }: SceneSubjects, tagAt: ReadonlyMap<string, number>): SentSubjects {
  const pattern = [...(choices[0]?.tags.keys() ?? [])].filter((id) => tagAt.has(id));
  return {
    ...list,
    pattern: pattern.map((id) => tagAt.get(id) ?? -1),
    choices: choices.map(({ tags, ...choice }) => ({ ...choice, tags: pattern.map((id) => tagAt.get(tags.get(id) ?? '') ?? null) })),
  };
}

const placesOf = (things: readonly { readonly id: string }[]): ReadonlyMap<string, number> => new Map(things.map(({ id }, n) => [id, n]));

/** All that a unit can be asked about is one of these, or a difference of two. */
function* unitsIn(panel: Panel, elements: readonly Element[], tags: Iterable<PanelTag>): Generator<string> {
  for (const { unit } of FUNCTIONS) if (unit !== undefined) yield unit;
  for (const { from, to } of panel.units) yield* [from, to];
  for (const { settings } of elements) if (typeof settings.unit === 'string') yield settings.unit;
  for (const { signal } of tags) {
    if (!signal) continue;
    yield signal.unit;
    for (const step of stepsOf(signal.scale)) if (step.kind === 'unit') yield* [step.from, step.to];
  }
}

const NOTHING_SAID: Wording = new Map();

/** The inverse of {@link bundleOf}. */
export function sceneIn({
  only,
  panel,
  pages,
  words,
  people,
  simulated,
  subjects,
  elements: sent,
  tags: sentTags,
  stateLists,
  pictures,
  wordings,
  units,
}: PanelBundle): Scene {
  takeUnits(units);
  const tags = fromColumns<PanelTag>(sentTags);
  const elements = fromColumns<SentElement>(sent).map((element): Element => {
    const { pageId, tagId } = element;
    return { ...element, pageId: pages[pageId]?.id ?? '', tagId: typeof tagId === 'number' ? (tags[tagId]?.id ?? null) : tagId };
  });
  const byPage = new Map<string, Element[]>(pages.map(({ id }) => [id, []]));
  for (const element of elements) byPage.get(element.pageId)?.push(element);
  for (const on of byPage.values()) on.sort(byHeight);
  const lists = new Map(
    subjects.map(({ pattern, choices, ...list }): [string, SceneSubjects] => [
      list.id,
      {
        ...list,
        choices: choices.map((choice) => ({
          ...choice,
          tags: new Map(pattern.map((at, i) => [tags[at]?.id ?? '', tags[choice.tags[i] ?? -1]?.id ?? null])),
        })),
      },
    ]),
  );
  const said = new Map(Object.entries(wordings).map(([code, texts]) => [code, new Map(Object.entries(texts))]));
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
    subjectsOn: (pageId) => lists.get(pages.find(({ id }) => id === pageId)?.subjectListId ?? '') ?? null,
    words,
    people,
    simulated,
    alarms: [],
    tag: (id) => byId.get(id) ?? null,
    statesIn: (id) => stateLists[id] ?? null,
    picture: (id) => pictures[id] ?? null,
    wording: (code) => said.get(code) ?? NOTHING_SAID,
    ...AS_WRITTEN,
  };
}
