/** What open panel pages have really drawn of a tag, against the very samples they drew it from. */
import type { PageCheck } from '@/core/check/proof.ts';
import { elementText, shownOf, type Texts } from '@/core/panel/elementText.ts';
import type { Scene } from '@/core/panel/scene.ts';
import { sceneInLanguage } from '@/core/panel/sceneWording.ts';
import type { Element } from '@/core/project/entities.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import type { LiveTable, Sample } from '@/runtime/liveTable.ts';

/** What an open panel page says that it really drew: the text in the page, not what was meant for it. */
export interface DrawnText {
  readonly elementId: string;
  readonly text: string;
  /** Number of the sample it was drawn from. */
  readonly sample: number;
  readonly visibility: 'visible' | 'hidden';
  /** The code of the language that it was drawn in; null for that in which it was written. */
  readonly language: string | null;
}
/** Asks the open panel pages what they have drawn for a tag. */
export type AskPages = (tagId: string) => Promise<readonly DrawnText[]>;

/** What was drawn, and from what it should have been. */
export interface AskDrawn {
  readonly pages: AskPages;
  readonly sceneOf: (panelId: string) => Scene | null;
}

export class DrawnPages {
  readonly #model: ProjectModel;
  readonly #live: LiveTable;
  readonly #ask: AskDrawn;

  constructor(model: ProjectModel, live: LiveTable, ask: AskDrawn) {
    this.#model = model;
    this.#live = live;
    this.#ask = ask;
  }

  async check(tagId: string): Promise<readonly PageCheck[]> {
    const drawn = await this.#ask.pages(tagId);
    return drawn.flatMap((text): readonly PageCheck[] => {
      const element = this.#model.get('element', text.elementId);
      if (!element || element.tagId !== tagId) return [];
      const base = {
        elementId: text.elementId,
        pageName: this.#model.get('page', element.pageId)?.name ?? '',
        label: element.label,
        drawn: text.text,
        sample: text.sample,
      };
      if (text.visibility === 'hidden') return [{ ...base, expected: null, verdict: 'hidden' }];
      const sample = this.#live.kept(tagId, text.sample);
      if (!sample) return [{ ...base, expected: null, verdict: 'sample-gone' }];
      const written = this.#ask.sceneOf(this.#model.get('page', element.pageId)?.panelId ?? '');
      const scene = written && sceneInLanguage(written, text.language);
      const worded = scene?.elementsOn(element.pageId).find(({ id }) => id === element.id);
      if (!scene || !worded) return [];
      const { word, statesIn } = scene;
      const expected = expectedText(worded, sample, { units: scene.panel.units, statesIn, word });
      return [{ ...base, expected, verdict: expected === text.text ? 'consistent' : 'differs' }];
    });
  }
}

function expectedText(element: Element, sample: Sample, texts: Texts): string {
  const { raw, text, quality, signal } = sample;
  return elementText(element, signal && shownOf(element, signal.def, { raw, text, level: quality.level }, texts), texts);
}

/** Whether every page that was seen drew what its sample says; null when none was seen. */
export function areConsistent(pages: readonly PageCheck[]): boolean | null {
  const judged = pages.filter(({ verdict }) => verdict === 'consistent' || verdict === 'differs');
  return judged.length === 0 ? null : judged.every(({ verdict }) => verdict === 'consistent');
}
