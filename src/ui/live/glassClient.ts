/** The live channel of a glass: one panel, as the server has compiled it, and its values. */
import type { ScreenOrder, ServerHello } from '@/core/live/messages.ts';
import type { SignedIn } from '@/core/panel/levels.ts';
import type { Scene } from '@/core/panel/scene.ts';
import type { Result } from '@/core/result.ts';
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
/** A session lasts for minutes: it need not be told of each touch. */
const TOUCH_MS = 5000;

export interface Session extends SignedIn {
  readonly token: string;
}

export class GlassClient extends LiveClient {
  /** Null until it is loaded. */
  scene: Scene | null = null;
  /** Why it could not be loaded, while it could not. */
  loadProblem: string | null = null;
  /** There is no such panel any more. */
  isGone = false;
  /** Which page it was sent to last, and why nobody may choose another. */
  order: ScreenOrder | null = null;
  /** Who is signed in here, as long as the server says so. */
  signed: Session | null = null;
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
  #touchedAt = 0;

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
    this.#touch();
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

  async signIn(operatorId: string, pin: string): Promise<Result<Session>> {
    const done = await call<Session>('POST', `/panels/${this.#panelId}/sign-in`, { operatorId, pin });
    if (!done.ok) return done;
    const before = this.signed;
    this.signed = done.value;
    this.#touch();
    this.tell();
    // Who was signed in before is not any more.
    if (before) await this.#end(before.token);
    return done;
  }

  async signOut(): Promise<void> {
    const { signed } = this;
    if (!signed) return;
    this.signed = null;
    this.send({ kind: 'session', panelId: this.#panelId, token: null });
    this.tell();
    await this.#end(signed.token);
  }

  #end(session: string): Promise<unknown> {
    return call('POST', `/panels/${this.#panelId}/sign-out`, { session });
  }

  /** Somebody is at the glass: who is signed in stays so. */
  touch(): void {
    if (Date.now() - this.#touchedAt > TOUCH_MS) this.#touch();
  }

  #touch(): void {
    this.#touchedAt = Date.now();
    if (this.signed) this.send({ kind: 'session', panelId: this.#panelId, token: this.signed.token });
  }

  protected override signedIn(who: SignedIn | null): void {
    if (who !== null || this.signed === null) return;
    this.signed = null;
    // Also where it was somebody else's session that ended: both sides know of nobody.
    this.send({ kind: 'session', panelId: this.#panelId, token: null });
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
      this.isGone = !loaded.ok && loaded.problem.code === 'gone';
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
