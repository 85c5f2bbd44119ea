/** What a page is drawn from: a bundle on the glass, the project itself while it is arranged. */
import { group } from 'd3-array';
import type { Element } from '../project/kinds/element.ts';
import type { Alarm } from '../project/kinds/alarm.ts';
import type { Operator } from '../project/kinds/operator.ts';
import type { Page } from '../project/kinds/page.ts';
import type { WordRole } from './exchange.ts';
import type { Panel } from '../project/kinds/panel.ts';
import type { PanelWord } from '../project/kinds/panelWord.ts';
import type { Picture } from '../project/kinds/picture.ts';
import type { SignalDefinition } from '../signal.ts';
import type { State } from './states.ts';
import type { PanelWordText } from './panelWords.ts';
import type { SceneSubjects } from './subjects.ts';
import { saidIn, type Wording } from './wording.ts';

/** What a panel knows of a tag. */
export interface SceneTag {
  readonly id: string;
  readonly name: string;
  /** Null where its settings do not fit together. */
  readonly def: SignalDefinition | null;
  /** What does not fit together. */
  readonly problem: string;
  readonly canWrite: boolean;
}

/** What a panel knows of a picture. */
export type ScenePicture = Pick<Picture, 'name' | 'width' | 'height' | 'digest'>;

/** A word of the panel that its glass has to do with. */
export type SceneWord = Pick<PanelWord, 'id' | 'role' | 'tagId' | 'elementId'>;

/** Devices that it shows values of, and that are simulated. */
export interface SimulatedOn {
  readonly names: readonly string[];
  /** There are no others. */
  readonly isAll: boolean;
}

export interface Scene {
  readonly panel: Panel;
  /** In their order. */
  readonly pages: readonly Page[];
  /** Whether the elements of a page have come. */
  readonly isHere: (pageId: string) => boolean;
  /** From the lowest to the highest. */
  readonly elementsOn: (pageId: string) => readonly Element[];
  /** The like things that a page serves; null where it is of nothing in particular. */
  readonly subjectsOn: (pageId: string) => SceneSubjects | null;
  /** Keys of its buttons, the clock of its controller, the language that it wants. */
  readonly words: readonly SceneWord[];
  /** Who can sign in; nobody where nothing needs a level. */
  readonly people: readonly Pick<Operator, 'id' | 'name'>[];
  /** Those that its lists and lines show; on a glass they come by themselves. */
  readonly alarms: readonly Alarm[];
  readonly simulated: SimulatedOn;
  /** Null for a tag that is gone. */
  readonly tag: (id: string) => SceneTag | null;
  readonly statesIn: (stateListId: string) => readonly State[] | null;
  /** Null for a picture that is gone. */
  readonly picture: (id: string) => ScenePicture | null;
  /** What its texts are in one of its languages. */
  readonly wording: (code: string) => Wording;
  /** A text of a controller, or the name of a value, in the language that the scene is in. */
  readonly word: (text: string) => string;
  /** A text with places for values in that language. */
  readonly wordTemplate: (template: string) => string;
  /** What the program itself says, in that language. */
  readonly say: (word: PanelWordText, ...values: readonly string[]) => string;
}

const NOTHING_SAID: Wording = new Map();

/** In the language that all is written in. */
export const AS_WRITTEN: Pick<Scene, 'word' | 'wordTemplate' | 'say'> = {
  word: (text) => text,
  wordTemplate: (template) => template,
  say: (word, ...values) => saidIn(word, values, NOTHING_SAID),
};

/** The words that a glass has to do with. */
export const isOfGlass = ({ role }: SceneWord): boolean => role === 'key' || isReadByGlass(role);

/** Words whose values the glass itself goes by. */
export const isReadByGlass = (role: WordRole): boolean => role === 'clockFrom' || role === 'language';

/** A panel in the list that a phone chooses from. */
export interface ListedPanel {
  readonly id: string;
  readonly name: string;
  readonly pages: readonly Pick<Page, 'id' | 'name'>[];
}

/** From the lowest to the highest; of those of one height the later made lies above. */
export function byHeight(a: Element, b: Element): number {
  return a.z - b.z || (a.id < b.id ? -1 : 1);
}

/** As a page is read: line by line, and what a frame encloses after it, before what stands beside the frame. */
export function readingOrder(elements: readonly Element[]): readonly Element[] {
  const frames = elements.filter(({ kind }) => kind === 'frame').sort((a, b) => a.w * a.h - b.w * b.h);
  const within = group(elements, (element) => frames.find((frame) => encloses(frame, element)) ?? null);
  const read = (holder: Element | null): readonly Element[] =>
    inLinesOf(within.get(holder) ?? []).flatMap((element) => (element.kind === 'frame' ? [element, ...read(element)] : [element]));
  return read(null);
}

/** Wholly, and it is larger: of two that lie around each other none would be read. */
function encloses(frame: Element, { x, y, w, h }: Element): boolean {
  return x >= frame.x && y >= frame.y && x + w <= frame.x + frame.w && y + h <= frame.y + frame.h && w * h < frame.w * frame.h;
}

/** What lies about as high is in one line. */
function inLinesOf(elements: readonly Element[]): readonly Element[] {
  const inLines = [...elements].sort((a, b) => a.y - b.y || a.x - b.x);
  const lines: Element[][] = [];
  for (const element of inLines) {
    const line = lines.at(-1);
    const first = line?.[0];
    if (line && first && element.y < first.y + first.h / 2) line.push(element);
    else lines.push([element]);
  }
  return lines.flatMap((line) => line.sort((a, b) => a.x - b.x));
}

/** The page that a panel opens with. */
export function startPage({ panel, pages }: Pick<Scene, 'panel' | 'pages'>): Page | null {
  return pages.find(({ id }) => id === panel.startPageId) ?? pages[0] ?? null;
}
