/** What a page is drawn from: a bundle on the glass, the project itself while it is arranged. */
import type { Element } from '../project/kinds/element.ts';
import type { Page } from '../project/kinds/page.ts';
import type { Panel } from '../project/kinds/panel.ts';
import type { Picture } from '../project/kinds/picture.ts';
import type { SignalDefinition } from '../signal.ts';
import type { State } from './states.ts';

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

export interface Scene {
  readonly panel: Panel;
  /** In their order. */
  readonly pages: readonly Page[];
  /** Whether the elements of a page have come. */
  readonly isHere: (pageId: string) => boolean;
  /** From the lowest to the highest. */
  readonly elementsOn: (pageId: string) => readonly Element[];
  /** Null for a tag that is gone. */
  readonly tag: (id: string) => SceneTag | null;
  readonly statesIn: (stateListId: string) => readonly State[] | null;
  /** Null for a picture that is gone. */
  readonly picture: (id: string) => ScenePicture | null;
}

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

/** As a page is read: line by line, what lies about as high in one line. */
export function readingOrder(elements: readonly Element[]): readonly Element[] {
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
