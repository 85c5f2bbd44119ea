/**
 * Screens of panels: which page each of them shows, whose page the others follow, and when a person or the controller has the
 * say. The page of a panel is that of its leading screen, as that screen has really drawn it.
 */
import type { ScreenOrder } from '@/core/live/messages.ts';
import type { Page, Panel } from '@/core/project/entities.ts';
import type { Clock } from '@/drivers/contract.ts';

/** How long a screen may take to draw the page that it is sent to. */
const DRAW_MS = 3000;

export interface Screen {
  readonly panelId: string;
  /** It may choose for others: it is at this machine, or it may write. */
  readonly mayLead: boolean;
  /** The level of who is signed in at it; 0 for nobody. */
  readonly level: () => number;
  readonly send: (order: ScreenOrder) => void;
}

export interface DesksProject {
  panel(id: string): Panel | null;
  pagesOf(panelId: string): readonly Page[];
}

interface Shown {
  readonly screen: Screen;
  pageId: string;
  /** The number of the language that it speaks; null where there is none to choose from. */
  language: number | null;
  /** The page that it was last sent to or has drawn since. */
  heading: string;
  /** The last order that sent it somewhere, and the last one that it has drawn. */
  sent: number;
  drawn: number;
}

interface Desk {
  /** The one that is open longest first. */
  readonly screens: Shown[];
  /** The page that the controller wants; null while it wants none. */
  wish: string | null;
  /** When a person last touched a screen of it. */
  touchedAt: number;
  waiting: (() => void)[];
}

export type CommandOutcome = 'done' | 'noScreen' | 'notDrawn';

export class PanelDesks {
  readonly #project: DesksProject;
  readonly #clock: Clock;
  readonly #desks = new Map<string, Desk>();
  readonly #listeners = new Set<(panelId: string) => void>();
  #orders = 0;

  constructor(project: DesksProject, clock: Clock) {
    this.#project = project;
    this.#clock = clock;
  }

  /** Hears when the page or the screens of a panel are others. */
  onChange(listener: (panelId: string) => void): void {
    this.#listeners.add(listener);
  }

  /** Panels that screens show. */
  get open(): readonly string[] {
    return [...this.#desks].flatMap(([id, { screens }]) => (screens.length > 0 ? [id] : []));
  }

  /** Pages that any screen shows. */
  get pagesOpen(): readonly string[] {
    return [...this.#desks.values()].flatMap(({ screens }) => screens.map(({ pageId }) => pageId));
  }

  screens(panelId: string): number {
    return this.#desks.get(panelId)?.screens.length ?? 0;
  }

  /** The page of the leading screen; null while none is open. */
  page(panelId: string): string | null {
    const desk = this.#desks.get(panelId);
    return desk ? (leader(desk)?.pageId ?? null) : null;
  }

  /** The language of the leading screen; null while none is open, or there is none to choose from. */
  language(panelId: string): number | null {
    const desk = this.#desks.get(panelId);
    return desk ? (leader(desk)?.language ?? null) : null;
  }

  /** The level of who is signed in at the leading screen; null while none is open. */
  level(panelId: string): number | null {
    const desk = this.#desks.get(panelId);
    return desk ? (leader(desk)?.screen.level() ?? null) : null;
  }

  /** Somebody has signed in or out at a screen of it. */
  signed(panelId: string): void {
    this.#tell(panelId);
  }

  touchedAt(panelId: string): number {
    return this.#desks.get(panelId)?.touchedAt ?? -Infinity;
  }

  /** A person touched a screen of the panel. */
  touched(panelId: string): void {
    this.#desk(panelId).touchedAt = this.#clock.now();
  }

  /** A screen opens with a page; where screens go together it is sent to theirs. */
  enter(screen: Screen, pageId: string, language: number | null = null): void {
    const desk = this.#desk(screen.panelId);
    const before = this.page(screen.panelId);
    const shown: Shown = { screen, pageId, language, heading: pageId, sent: 0, drawn: 0 };
    desk.screens.push(shown);
    const wanted = desk.wish ?? (this.#goesTogether(screen.panelId) ? before : null);
    this.#order(desk, shown, wanted !== null && this.#isPage(screen.panelId, wanted) ? wanted : null);
    this.#tell(screen.panelId);
  }

  leave(screen: Screen): void {
    const desk = this.#desks.get(screen.panelId);
    const at = desk?.screens.findIndex((shown) => shown.screen === screen) ?? -1;
    if (!desk || at < 0) return;
    desk.screens.splice(at, 1);
    // Another one may lead from now on.
    this.#orderAll(desk, null);
    this.#tell(screen.panelId);
  }

  /** A screen has drawn a page: because a person chose it, or because it was sent there. @param order null for a person */
  drew(screen: Screen, pageId: string, order: number | null, language: number | null = null): void {
    const desk = this.#desk(screen.panelId);
    const shown = desk.screens.find((one) => one.screen === screen);
    if (!shown) return;
    const speaksAnother = shown.language !== language;
    shown.language = language;
    if (speaksAnother) this.#tell(screen.panelId);
    if (order === null) {
      const why = this.#refusal(screen.panelId, desk, shown);
      if (why !== '' && pageId !== shown.heading) return this.#order(desk, shown, shown.heading);
      desk.touchedAt = this.#clock.now();
      if (shown.drawn < shown.sent) {
        // It goes where the controller has sent it meanwhile; where others have, a person who chose later has the say.
        if (desk.wish !== null) return;
        this.#order(desk, shown, pageId);
      }
      // What the controller wanted is over once a person may choose and does.
      desk.wish = null;
    } else shown.drawn = Math.max(shown.drawn, order);
    const isAnother = shown.pageId !== pageId;
    shown.pageId = pageId;
    if (shown.drawn >= shown.sent) shown.heading = pageId;
    if (order === null && isAnother && this.#goesTogether(screen.panelId))
      for (const other of desk.screens) if (other !== shown && other.heading !== pageId) this.#order(desk, other, pageId);
    for (const look of desk.waiting.splice(0)) look();
    if (isAnother) this.#tell(screen.panelId);
  }

  /** The controller wants a page on all screens. Settles when the leading one has drawn it. */
  async command(panelId: string, pageId: string): Promise<CommandOutcome> {
    const desk = this.#desk(panelId);
    desk.wish = pageId;
    const order = this.#orderAll(desk, pageId);
    const until = this.#clock.now() + DRAW_MS;
    for (;;) {
      const leading = leader(desk);
      if (!leading) return 'noScreen';
      if (leading.drawn >= order && leading.pageId === pageId) return 'done';
      if (desk.wish !== pageId || this.#clock.now() >= until) return 'notDrawn';
      await new Promise<void>((resolve) => {
        const cancel = this.#clock.after(until - this.#clock.now(), resolve);
        desk.waiting.push(() => {
          cancel();
          resolve();
        });
      });
    }
  }

  /** The controller wants no page any more. */
  release(panelId: string): void {
    const desk = this.#desk(panelId);
    if (desk.wish === null) return;
    desk.wish = null;
    this.#orderAll(desk, null);
  }

  /** After a change of the project: who may choose may be another. */
  follow(panelId: string): void {
    const desk = this.#desks.get(panelId);
    if (!desk) return;
    if (desk.wish !== null && !this.#isPage(panelId, desk.wish)) desk.wish = null;
    this.#orderAll(desk, null);
    this.#tell(panelId);
  }

  #desk(panelId: string): Desk {
    let desk = this.#desks.get(panelId);
    if (!desk) this.#desks.set(panelId, (desk = { screens: [], wish: null, touchedAt: -Infinity, waiting: [] }));
    return desk;
  }

  #tell(panelId: string): void {
    for (const look of this.#desks.get(panelId)?.waiting.splice(0) ?? []) look();
    for (const listener of this.#listeners) listener(panelId);
  }

  #goesTogether(panelId: string): boolean {
    return this.#project.panel(panelId)?.screens !== 'apart';
  }

  #isPage(panelId: string, pageId: string): boolean {
    return this.#project.pagesOf(panelId).some(({ id }) => id === pageId);
  }

  /** Why a person at this screen cannot choose its page; empty where one can. */
  #refusal(panelId: string, desk: Desk, shown: Shown): string {
    const panel = this.#project.panel(panelId);
    if (panel?.exchange.whenBoth === 'controller' && desk.wish !== null) return 'The controller keeps this page.';
    if (panel?.screens === 'leader' && leader(desk) !== shown) return 'This screen follows another one.';
    if (panel?.screens === 'together' && !shown.screen.mayLead) return 'This screen follows the others: it may only read.';
    return '';
  }

  /** @param pageId null: each stays where it is */
  #orderAll(desk: Desk, pageId: string | null): number {
    const order = ++this.#orders;
    for (const shown of desk.screens) this.#order(desk, shown, pageId, order);
    return order;
  }

  #order(desk: Desk, shown: Shown, pageId: string | null, order = ++this.#orders): void {
    if (pageId !== null) [shown.heading, shown.sent] = [pageId, order];
    shown.screen.send({ kind: 'screen', order, pageId, why: this.#refusal(shown.screen.panelId, desk, shown) });
  }
}

/** The screen whose page is that of the panel. */
function leader({ screens }: Desk): Shown | null {
  return screens.find(({ screen }) => screen.mayLead) ?? screens[0] ?? null;
}
