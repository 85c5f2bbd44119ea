/** The live channel of a glass: one panel, as the server has compiled it, and its values. */
import type { ScreenOrder, ServerHello } from '@/core/live/messages.ts';
import type { Scene } from '@/core/panel/scene.ts';
import { sceneIn, type PanelBundle } from '@/mapping/panels/panelBundle.ts';
import { call } from './api.ts';
import { LiveClient, RECONNECT_MS } from './liveClient.ts';

/** A panel at a revision of the project. */
export interface OpenedPanel {
  readonly bundle: PanelBundle;
  readonly revision: number;
}

/** How long a panel may take to come: on a slow network longer the next time. */
const LOAD_MS = 8000;
const LONGEST_LOAD_MS = 120_000;

export class GlassClient extends LiveClient {
  /** Null until it is loaded. */
  scene: Scene | null = null;
  /** Why it could not be loaded, while it could not. */
  loadProblem: string | null = null;
  /** Which page it was sent to last, and why nobody may choose another. */
  order: ScreenOrder | null = null;
  protected override readonly query: string = '?glass=1';
  readonly #panelId: string;
  #revision: number | null = null;
  #text = '';
  #isFirst = true;
  #isLoading = false;
  #patienceMs = LOAD_MS;
  #wanted = 0;
  /** The page that is drawn and seen. */
  #shown: string | null = null;
  #language: number | null = null;

  constructor(panelId: string, opened: OpenedPanel | null) {
    super();
    this.#panelId = panelId;
    if (!opened) return;
    // A part of it is as of no revision: all of it is asked for when the server greets.
    this.#revision = opened.bundle.only === null ? opened.revision : null;
    this.#take(opened.bundle);
  }

  protected override greeted({ revision }: ServerHello, isAnother: boolean): void {
    // What came with the page is of the server that greets first.
    const isFirst = this.#isFirst;
    this.#isFirst = false;
    this.order = null;
    if (this.#shown !== null) this.#say(0);
    if ((isAnother && !isFirst) || revision !== this.#revision) void this.#load(revision);
  }

  /** Tells which page this screen has drawn; null when nobody sees it. @param order that it follows, 0 for none, null where a person chose */
  shows(pageId: string | null, order: number | null): void {
    if (pageId === this.#shown && order === null) return;
    this.#shown = pageId;
    this.#say(order);
  }

  /** @param language its number; null where there is none to choose from */
  speaks(language: number | null): void {
    if (language === this.#language) return;
    this.#language = language;
    if (this.#shown !== null) this.#say(0);
  }

  #say(order: number | null): void {
    this.send({ kind: 'screen', panelId: this.#panelId, pageId: this.#shown, order, language: this.#language });
  }

  protected override ordered(order: ScreenOrder): void {
    this.order = order;
    this.tell();
  }

  /** A glass hears of changes by a greeting with another revision. */
  protected override told(): void {}

  async #load(revision: number): Promise<void> {
    this.#wanted = revision;
    if (this.#isLoading) return;
    this.#isLoading = true;
    for (;;) {
      const asked = this.#wanted;
      // An answer that never comes must not keep all later changes away.
      const loaded = await call<PanelBundle>('GET', `/panels/${this.#panelId}`, undefined, AbortSignal.timeout(this.#patienceMs));
      this.#patienceMs = loaded.ok ? LOAD_MS : Math.min(LONGEST_LOAD_MS, this.#patienceMs * 2);
      if (loaded.ok) {
        this.#revision = asked;
        this.#take(loaded.value);
      } else this.loadProblem = loaded.problem.message;
      this.tell();
      if (!loaded.ok && loaded.problem.code !== 'gone') setTimeout(() => void this.#load(this.#wanted), RECONNECT_MS * 2);
      if (this.#wanted === asked) break;
    }
    this.#isLoading = false;
  }

  /** Changes elsewhere in the project leave what is drawn as it is. */
  #take(bundle: PanelBundle): void {
    const text = JSON.stringify(bundle);
    this.loadProblem = null;
    if (text === this.#text) return;
    this.#text = text;
    this.scene = sceneIn(bundle);
  }
}
