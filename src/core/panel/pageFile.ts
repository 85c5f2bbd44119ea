/**
 * A page or a panel as a file: JSON with the paths of tags in place of their ids, so that it goes to another project. The form is
 * described in docs/formats/page-file.md.
 */
import { withPaths } from '../expression/references.ts';
import { parseExpression } from '../expression/parse.ts';
import {
  ENTITY_DEFAULTS,
  ENTITY_SCHEMAS,
  type Element,
  type Page,
  type Panel,
  type PanelWord,
  type Picture,
  type StateList,
  type SubjectList,
} from '../project/entities.ts';
import type { Change } from '../project/command.ts';
import { fail, ok, type Result } from '../result.ts';
import type { Action } from './actions.ts';
import { freeName } from '../project/freeName.ts';
import { walked } from './bound.ts';
import type { State } from './states.ts';
import { TAG_LISTS } from './retag.ts';
import { picturesUsedBy } from './uses.ts';

const FORMAT = 'mill-latch-pages';
const VERSION = 1;
export const MOST_FILE_BYTES = 60_000_000;

export interface PageFileSource {
  readonly panel: Panel;
  readonly pages: readonly Page[];
  readonly elementsOn: (pageId: string) => readonly Element[];
  readonly words: readonly PanelWord[];
  readonly stateList: (id: string) => StateList | null;
  readonly subjectList: (id: string) => SubjectList | null;
  readonly picture: (id: string) => Picture | null;
  /** The bytes of pictures in base64, by their ids; one that is not there is left out. */
  readonly pictureData: ReadonlyMap<string, string>;
  /** The path of a tag as expressions write it; null for one that is gone. */
  readonly pathOf: (tagId: string) => string | null;
}

type Json = Readonly<Record<string, unknown>>;

/** Pictures that pages show, each once: their bytes belong into the file. */
export function picturesOn({
  pages,
  elementsOn,
  stateList,
  picture,
}: Omit<PageFileSource, 'panel' | 'words' | 'subjectList' | 'pathOf' | 'pictureData'>): readonly Picture[] {
  const statesOf = ({ states, stateListId }: Json): readonly State[] =>
    typeof stateListId === 'string' ? (stateList(stateListId)?.states ?? []) : ((states ?? []) as readonly State[]);
  const ids = pages.flatMap(({ id }) => elementsOn(id).flatMap((element) => picturesUsedBy(element, statesOf(element.settings))));
  return [...new Set(ids)].flatMap((id) => picture(id) ?? []);
}

export function pageFile(source: PageFileSource): string {
  const { panel, pages, elementsOn, words, stateList, subjectList, picture, pictureData, pathOf } = source;
  const nameOf = (id: string | null | undefined): string | null => (id === null || id === undefined ? null : (picture(id)?.name ?? null));
  const lists = new Map<string, StateList>();
  const { id: _, startPageId, ...ofPanel } = panel;
  const told = pages.map(({ id, panelId: _panel, subjectListId, ...page }) => ({
    ...page,
    subjects: subjectListId === null ? null : (subjectList(subjectListId)?.name ?? null),
    isStart: id === startPageId,
    elements: elementsOn(id).map(({ id: _id, pageId: _page, tagId, settings, ...element }) => {
      const { stateListId, ...rest } = settings;
      const list = typeof stateListId === 'string' ? stateList(stateListId) : null;
      if (list) lists.set(list.id, list);
      return {
        ...element,
        tag: tagId && pathOf(tagId),
        settings: { ...named(rest, pathOf, pages, nameOf), ...(list ? { stateList: list.name } : {}) },
      };
    }),
  }));
  const stateLists = [...lists.values()].map(({ name, states }) => ({ name, states: withPictureNames(states, nameOf) }));
  const places = new Map(pages.flatMap((page) => elementsOn(page.id).map(({ id }, element) => [id, { page: page.name, element }] as const)));
  const wordsTold = words.flatMap(({ role, tagId, elementId }) => {
    const button = elementId === null ? null : places.get(elementId);
    return button === undefined ? [] : [{ role, tag: pathOf(tagId), ...(button ?? {}) }];
  });
  const pictures = picturesOn(source).flatMap(({ id, name }) => {
    const data = pictureData.get(id);
    return data === undefined ? [] : [{ name, data }];
  });
  return `${JSON.stringify({ format: FORMAT, version: VERSION, panel: ofPanel, words: wordsTold, stateLists, pictures, pages: told }, null, 1)}\n`;
}

function withPictureNames(states: readonly State[], nameOf: NameOf): readonly Json[] {
  return states.map(({ pictureId, ...state }) => {
    const name = nameOf(pictureId);
    return name === null ? state : { ...state, picture: name };
  });
}

type NameOf = (pictureId: string | null | undefined) => string | null;

/** Paths in place of ids, and the names of pages and pictures in place of theirs. */
function named(settings: Json, pathOf: PageFileSource['pathOf'], pages: readonly Page[], nameOf: NameOf): Json {
  const next = walked(settings, (expression) => withPaths(expression, pathOf)) as Json;
  return Object.fromEntries(
    Object.entries(next).map(([key, value]) => {
      if (key === 'pictureId') return ['picture', nameOf(value as string | null)];
      if (key === 'states' && Array.isArray(value)) return [key, withPictureNames(value as readonly State[], nameOf)];
      if (isTagList(key) && Array.isArray(value)) return [key, (value as readonly string[]).map((id) => pathOf(id) ?? '')];
      if (key !== 'actions' || !Array.isArray(value)) return [key, value];
      return [
        key,
        (value as readonly Action[]).map(({ tagId, pageId, ...action }) => ({
          ...action,
          tag: tagId && pathOf(tagId),
          page: pages.find(({ id }) => id === pageId)?.name ?? null,
        })),
      ];
    }),
  );
}

const isTagList = (key: string): boolean => TAG_LISTS.some((list) => list === key);

export interface PagesToMake {
  readonly changes: readonly Change[];
  readonly panelId: string;
  readonly pageCount: number;
  readonly elementCount: number;
  /** Paths that name no tag here, each once. */
  readonly missing: readonly string[];
  /** Pictures of the file that are not here; the changes name them by these ids. */
  readonly pictures: readonly NewPicture[];
}

export interface NewPicture {
  readonly id: string;
  readonly name: string;
  /** Base64. */
  readonly data: string;
}

interface Here {
  readonly newId: () => string;
  /** The tag that a path names, by its parts. */
  readonly tagNamed: (parts: readonly string[]) => string | null;
  readonly stateListNamed: (name: string) => string | null;
  readonly subjectListNamed: (name: string) => string | null;
  readonly pictureNamed: (name: string) => string | null;
  readonly panelNames: readonly string[];
  /** The panel that takes the pages; null for a new one. */
  readonly into: { readonly id: string; readonly pageCount: number } | null;
}

/** Everything in the file as new things of this project. Refuses a file that is damaged or of a newer version. */
export function pagesFrom(text: string, here: Here): Result<PagesToMake> {
  if (text.length > MOST_FILE_BYTES) return fail('too-large', 'The file is too large for a page file.');
  let file: Json;
  try {
    file = JSON.parse(text) as Json;
  } catch {
    return fail('json', 'The file is no page file: it is not JSON.', 'Choose a file that was saved in Panels.');
  }
  if (typeof file !== 'object' || file === null || file.format !== FORMAT)
    return fail('format', 'The file is no page file.', 'Choose a file that was saved in Panels.');
  if (typeof file.version !== 'number' || file.version > VERSION)
    return fail('version', 'The file is of a newer version of Mill Latch.', 'Update Mill Latch.');
  const missing = new Set<string>();
  const tag = (path: unknown): string | null => {
    const parts = typeof path === 'string' ? partsIn(path) : (path as readonly string[] | null);
    if (!Array.isArray(parts) || parts.length === 0) return null;
    const id = here.tagNamed(parts as readonly string[]);
    if (id === null) missing.add(parts.join('.'));
    return id;
  };
  try {
    const changes: Change[] = [];
    const pictures: NewPicture[] = [];
    const pictureIds = new Map<string, string>();
    for (const { name, data } of listOf(file.pictures)) {
      if (typeof name !== 'string' || typeof data !== 'string') continue;
      const known = here.pictureNamed(name);
      const id = known ?? here.newId();
      pictureIds.set(name, id);
      if (known === null) pictures.push({ id, name, data });
    }
    const pictureId = (name: unknown): string | null => (typeof name === 'string' ? (pictureIds.get(name) ?? null) : null);
    const statesHere = (states: unknown): readonly Json[] =>
      listOf(states).map(({ picture, ...state }) => (picture === undefined ? state : { ...state, pictureId: pictureId(picture) }));
    const lists = new Map<string, string>();
    for (const { name, states } of listOf(file.stateLists)) {
      const known = here.stateListNamed(String(name));
      if (known === null)
        changes.push({ kind: 'stateList', id: remembered(lists, String(name), here.newId()), set: { name, states: statesHere(states) } });
      else lists.set(String(name), known);
    }
    const panelId = here.into?.id ?? here.newId();
    const pages = listOf(file.pages).map((page) => ({ page, id: here.newId() }));
    const pageNamed = (name: unknown): string | null => pages.find(({ page }) => page.name === name)?.id ?? null;
    if (!here.into) {
      const panel = (file.panel ?? {}) as Json;
      changes.push({
        kind: 'panel',
        id: panelId,
        set: {
          ...panel,
          name: freeName(
            typeof panel.name === 'string' ? panel.name : 'Panel',
            here.panelNames.map((name) => ({ name })),
          ),
        },
      });
    }
    const elementIds = new Map<string, string>();
    let elementCount = 0;
    for (const [i, { page, id }] of pages.entries()) {
      const { elements, isStart: _, position: _position, subjects, ...rest } = page;
      const subjectListId = typeof subjects === 'string' ? here.subjectListNamed(subjects) : null;
      changes.push({ kind: 'page', id, set: { ...rest, subjectListId, panelId, position: (here.into?.pageCount ?? 0) + i } });
      for (const [at, { tag: path, settings, ...element }] of listOf(elements).entries()) {
        elementCount++;
        const set = {
          ...element,
          pageId: id,
          tagId: tag(path),
          settings: settingsHere((settings ?? {}) as Json, { tag, pageNamed, lists, pictureId, statesHere }),
        };
        const whole = { ...ENTITY_DEFAULTS.element, ...set, id: here.newId() };
        ENTITY_SCHEMAS.element.validateSync(whole, { strict: true });
        changes.push({ kind: 'element', id: whole.id, set });
        elementIds.set(`${at} ${String(page.name)}`, whole.id);
      }
    }
    // Words of a controller belong to a panel of its own.
    for (const { role, tag: path, page, element } of here.into ? [] : listOf(file.words)) {
      const tagId = tag(path);
      const elementId = role === 'key' ? (elementIds.get(`${String(element)} ${String(page)}`) ?? null) : null;
      if (tagId === null || (role === 'key' && elementId === null)) continue;
      const word = { panelId, role, tagId, elementId };
      const id = here.newId();
      ENTITY_SCHEMAS.panelWord.validateSync({ ...word, id }, { strict: true });
      changes.push({ kind: 'panelWord', id, set: word });
    }
    const start = pages.find(({ page }) => page.isStart === true);
    if (!here.into && start) changes.push({ kind: 'panel', id: panelId, set: { startPageId: start.id } });
    return ok({ changes, panelId, pageCount: pages.length, elementCount, missing: [...missing], pictures });
  } catch (error) {
    return fail(
      'damaged',
      `The page file is damaged: ${error instanceof Error ? error.message : 'it cannot be read'}`,
      'Save it again where it came from.',
    );
  }
}

function settingsHere(
  settings: Json,
  {
    tag,
    pageNamed,
    lists,
    pictureId,
    statesHere,
  }: {
    readonly tag: (path: unknown) => string | null;
    readonly pageNamed: (name: unknown) => string | null;
    readonly lists: ReadonlyMap<string, string>;
    readonly pictureId: (name: unknown) => string | null;
    readonly statesHere: (states: unknown) => readonly Json[];
  },
): Json {
  const { stateList, ...rest } = settings;
  const told = Object.entries(rest).flatMap(([key, value]): readonly (readonly [string, unknown])[] => {
    if (key === 'picture') return [['pictureId', pictureId(value)]];
    if (key === 'states' && Array.isArray(value)) return [[key, statesHere(value)]];
    if (isTagList(key) && Array.isArray(value)) return [[key, value.flatMap((path: unknown) => tag(path) ?? [])]];
    if (key === 'actions' && Array.isArray(value))
      return [[key, (value as readonly Json[]).map(({ tag: path, page, ...action }) => ({ ...action, tagId: tag(path), pageId: pageNamed(page) }))]];
    // What uses a tag that is not here cannot be kept: it is told, and left out.
    return isKept(key, value, tag) ? [[key, value]] : [];
  });
  const listId = typeof stateList === 'string' ? lists.get(stateList) : undefined;
  return { ...Object.fromEntries(told), ...(listId === undefined ? {} : { stateListId: listId }) };
}

/** Whether every tag of its expressions is here. */
function isKept(key: string, value: unknown, tag: (path: unknown) => string | null): boolean {
  let kept = true;
  walked({ [key]: value }, (expression) => {
    const tree = parseExpression(expression, (parts) => {
      if (tag(parts) === null) kept = false;
      return ANY_TAG;
    });
    if (!tree.ok) kept = false;
    return expression;
  });
  return kept;
}

/** Stands for a tag while an expression is only read. */
const ANY_TAG = '00000000-0000-4000-8000-000000000000';

/** The parts of a path as expressions write it: `KILN."Bed 1".temp`. */
function partsIn(path: string): readonly string[] {
  let found: readonly string[] = [];
  parseExpression(path, (parts) => {
    found = parts;
    return ANY_TAG;
  });
  return found;
}

function listOf(value: unknown): readonly Json[] {
  return Array.isArray(value) ? (value as readonly Json[]) : [];
}

function remembered(lists: Map<string, string>, name: string, id: string): string {
  lists.set(name, id);
  return id;
}
