/** A scene in one of its panel's languages, and all the texts that a panel has. One walk over the texts serves both. */
import type { Element } from '../project/kinds/element.ts';
import { ELEMENTS } from './kinds.ts';
import { PANEL_WORDS } from './panelWords.ts';
import type { Scene } from './scene.ts';
import type { State } from './states.ts';
import type { SceneSubjects } from './subjects.ts';
import { tagsUsedBy } from './uses.ts';
import { plainSource, saidIn, sourceOf, wordedPlain, wordedTemplate, type Wording } from './wording.ts';

/** What stands in the place of each text. */
interface Reword {
  readonly plain: (text: string) => string;
  readonly template: (text: string) => string;
}

/** Between the headings of a list in one setting. */
export const HEADINGS = /\s*[|;\n]\s*/;
const HEADING_SETTINGS = new Set(['columnNames', 'rowNames']);

function rewordedElement(element: Element, reword: Reword): Element {
  let settings = element.settings;
  for (const [name, { control }] of Object.entries(ELEMENTS[element.kind].settings)) {
    const value = settings[name];
    const next = rewordedSetting(name, control.kind, value, reword);
    if (next !== value) settings = { ...settings, [name]: next };
  }
  const label = reword.plain(element.label);
  return label === element.label && settings === element.settings ? element : { ...element, label, settings };
}

function rewordedSetting(name: string, control: string, value: unknown, reword: Reword): unknown {
  if (control === 'template' && typeof value === 'string') return reword.template(value);
  if (control === 'states' && Array.isArray(value)) return rewordedStates(value as readonly State[], reword);
  if (control !== 'text' || typeof value !== 'string') return value;
  return HEADING_SETTINGS.has(name)
    ? value
        .split(HEADINGS)
        .map((heading) => reword.plain(heading).replace(/[|;\n]/g, ','))
        .join(' | ')
    : reword.plain(value);
}

function rewordedStates(states: readonly State[], { plain }: Reword): readonly State[] {
  const next = states.map((state) => {
    const text = plain(state.text);
    return text === state.text ? state : { ...state, text };
  });
  return next.every((state, i) => state === states[i]) ? states : next;
}

const reworded = new WeakMap<Wording, WeakMap<object, unknown>>();

/** The same object for the same one, as long as the wording is the same: what is drawn of it need not be drawn anew. */
function once<T extends object>(wording: Wording, of: T, make: (of: T) => T): T {
  let known = reworded.get(wording);
  if (!known) reworded.set(wording, (known = new WeakMap()));
  let made = known.get(of) as T | undefined;
  if (!made) known.set(of, (made = make(of)));
  return made;
}

/** @param code null, or that of its first language, for its texts as they were written */
export function sceneInLanguage(scene: Scene, code: string | null): Scene {
  if (code === null || code === scene.panel.languages[0]?.code) return scene;
  const wording = scene.wording(code);
  const reword: Reword = { plain: (text) => wordedPlain(text, wording), template: (text) => wordedTemplate(text, wording) };
  const subjectsIn = (of: SceneSubjects): SceneSubjects => ({
    ...of,
    choices: of.choices.map((choice) => ({ ...choice, text: reword.plain(choice.text) })),
  });
  return {
    ...scene,
    pages: scene.pages.map((page) => once(wording, page, (of) => ({ ...of, name: reword.plain(of.name) }))),
    elementsOn: (pageId) =>
      once(wording, scene.elementsOn(pageId), (all) => all.map((element) => once(wording, element, (of) => rewordedElement(of, reword)))),
    subjectsOn: (pageId) => {
      const subjects = scene.subjectsOn(pageId);
      return subjects && once(wording, subjects, subjectsIn);
    },
    statesIn: (id) => {
      const states = scene.statesIn(id);
      return states && once(wording, states, (of) => rewordedStates(of, reword));
    },
    word: reword.plain,
    wordTemplate: reword.template,
    say: (word, ...values) => saidIn(word, values, wording),
  };
}

/** Something that a panel says, and where. */
export interface PanelText {
  readonly source: string;
  /** Where it stands; none for what only the program says. */
  readonly where: readonly TextPlace[];
}

export interface TextPlace {
  readonly pageId: string | null;
  /** Null for the name of a page or of a subject. */
  readonly element: Element | null;
}

/** All that a panel says, each text once, in the order of its pages; at the end what the program itself says on a glass. */
export function textsOf(scene: Scene): readonly PanelText[] {
  const found = new Map<string, TextPlace[]>();
  const at = (place: TextPlace): Reword => {
    const take = (source: string): void => {
      if (!/\p{L}/u.test(source.replace(/\{[^{}]*\}/g, ''))) return;
      const places = found.get(source);
      if (!places) found.set(source, [place]);
      else if (!places.some(({ pageId, element }) => pageId === place.pageId && element === place.element)) places.push(place);
    };
    return {
      plain: (text) => (take(plainSource(text)), text),
      template: (text) => (take(sourceOf(text)), text),
    };
  };
  for (const page of scene.pages) {
    const onPage = at({ pageId: page.id, element: null });
    onPage.plain(page.name);
    for (const choice of scene.subjectsOn(page.id)?.choices ?? []) onPage.plain(choice.text);
    for (const element of scene.elementsOn(page.id)) {
      const here = at({ pageId: page.id, element });
      rewordedElement(element, here);
      const { stateListId } = element.settings;
      if (typeof stateListId === 'string') rewordedStates(scene.statesIn(stateListId) ?? [], here);
      for (const id of tagsUsedBy(element)) for (const { name } of scene.tag(id)?.def?.names ?? []) here.plain(name);
    }
  }
  const everywhere = at({ pageId: null, element: null });
  for (const { settings, group, advice } of scene.alarms) {
    everywhere.template(settings.template);
    for (const text of [group, advice]) everywhere.plain(text);
  }
  const said = [...found].map(([source, where]) => ({ source, where }));
  return [...said, ...PANEL_WORDS.filter((word) => !found.has(word)).map((source) => ({ source, where: [] }))];
}
